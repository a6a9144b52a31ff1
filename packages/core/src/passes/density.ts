import type { GroundPieces } from '../field/groundPieces';
import type { PlanBox } from '../link/workspace';
import { LEAST_SHARE, MOST_SHARE } from './evenScallop/metric';
import { ENOUGH, sideStepFor } from './scallop';
import type { PassPlanes } from '../field/sketch';

/** How a pattern lies on a piece of ground, from its slope and how it bends. */
export interface Laid {
  /** mm of passes on each mm². */
  readonly dense: number;
  /** How far they lie apart in side steps of the scallop, with the bend taken in: ridges are as high as the square of it. */
  readonly steps: number;
}
type Density = (pieces: GroundPieces, k: number) => Laid;

/** How a pattern covers ground. */
export interface Pattern {
  readonly density: Density;
  /** Length of passes, mm, beside that on the pieces of the ground. */
  readonly beside: (ground: GroundPieces, isWanted: (slopeDeg: number, tip: number) => boolean) => number;
  /** The planes in which its passes lie, where they lie in planes, before any distance is halved. */
  readonly planes?: Pick<PassPlanes, 'normal' | 'at'>;
}

/** Ground is level below this sine of its slope. */
const LEVEL = 1e-6;

/** Steepness and bend of a piece of ground. */
interface Lie {
  /** sin and cos of its slope. */
  readonly sin: number;
  readonly cos: number;
  /** Squared distances in passes per mm² along its level line, along both, and up it: see `passMetric`. */
  readonly along: number;
  readonly both: number;
  readonly up: number;
}

/**
 * @param radius of the cutter's round, mm
 * @param scallop height of the ridges, mm
 */
function lieOf({ normals, bends }: GroundPieces, k: number, radius: number, scallop: number): Lie {
  const weight = radius - scallop;
  const o = 3 * k;
  return {
    sin: Math.hypot(normals[o]!, normals[o + 1]!),
    cos: Math.max(0, normals[o + 2]!),
    along: clamped(1 - weight * bends[o]!),
    both: -weight * bends[o + 1]!,
    up: clamped(1 - weight * bends[o + 2]!),
  };
}

const clamped = (share: number): number => Math.min(MOST_SHARE, Math.max(LEAST_SHARE, share));

/** Passes side by side along the surface, whatever way they lie. */
export function evenPattern(radius: number, scallop: number): Pattern {
  const step = sideStepFor(radius, scallop);
  const density: Density = (pieces, k) => {
    const { along, up } = lieOf(pieces, k, radius, scallop);
    // they lie along one of the bends or the other
    return { dense: (Math.sqrt(along) + Math.sqrt(up)) / 2 / step, steps: 1 };
  };
  // the first pass lies on the border itself, half a step from its ground's middle
  return { density, beside: ({ border }) => border / 2 };
}

/** Passes at constant height, their heights halved as often as the wall wants. */
export function waterlinePattern(radius: number, scallop: number): Pattern {
  const step = sideStepFor(radius, scallop);
  const density: Density = (pieces, k) => {
    const { sin, up } = lieOf(pieces, k, radius, scallop);
    // across a wall that bends outward they could lie farther apart, and do not
    return waterlinesOn(sin, up, step);
  };
  return {
    density,
    planes: { normal: [0, 0, 1], at: { apart: step } },
    beside: ({ sides }, isWanted) =>
      sides
        .filter(({ slope, tip }) => isWanted(slope, tip))
        .reduce(
          (sum, { slope, area }) => sum + area * waterlinesOn(Math.sin((slope * Math.PI) / 180), 1, step).dense,
          0,
        ),
  };
}

/** Waterlines on a wall of a slope, by its sine, and a bend. */
function waterlinesOn(sin: number, up: number, step: number): Laid {
  const apart = Math.sqrt(Math.max(1, up)) / Math.max(sin, LEVEL);
  const halvings = Math.max(0, Math.ceil(Math.log2(apart / ENOUGH)));
  return { dense: (sin * 2 ** halvings) / step, steps: apart / 2 ** halvings };
}

/**
 * Straight passes in plan.
 *
 * @param angle to X, rad
 * @param halvings how often their distance may be halved where they lie too far apart on the surface
 * @param over what they go over in plan, and how far beyond its edges, mm
 */
export function parallelPattern(
  radius: number,
  scallop: number,
  angle: number,
  halvings: number,
  { box, extension }: { readonly box: PlanBox; readonly extension: number },
): Pattern {
  const step = sideStepFor(radius, scallop);
  const most = 2 ** (halvings + 1);
  const across = (box.maxX - box.minX) * Math.abs(Math.sin(angle)) + (box.maxY - box.minY) * Math.abs(Math.cos(angle));
  const density: Density = (pieces, k) => {
    const { sin, cos, along, both, up } = lieOf(pieces, k, radius, scallop);
    const o = 3 * k;
    const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
    const level = sin > LEVEL ? sin : 1;
    const [nx, ny] = [pieces.normals[o]! / level, pieces.normals[o + 1]! / level];
    // what the slope climbs along the passes, and across them
    const [down, side] = sin > LEVEL ? [nx * ux + ny * uy, nx * uy - ny * ux] : [-uy, ux];
    // mm of passes a mm² at 1 mm in plan: the way across them in plan, as it lies on the surface
    const climb = Math.max(Math.hypot(cos * side, down), 1e-6);
    const [p, q] = [down / climb, (cos * side) / climb];
    const apart = Math.sqrt(clamped(p * p * along + 2 * p * q * both + q * q * up)) / climb;
    const ratio = apart / ENOUGH;
    const halved = apart > most ? 0 : Math.min(halvings, Math.max(0, Math.ceil(Math.log2(ratio))));
    return { dense: (climb * 2 ** halved) / step, steps: apart / 2 ** halved };
  };
  const planes: Pattern['planes'] = { normal: [-Math.sin(angle), Math.cos(angle), 0], at: { apart: step } };
  return { density, planes, beside: () => 2 * extension * (across / step) };
}
