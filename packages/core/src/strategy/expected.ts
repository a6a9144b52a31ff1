import type { Crew } from '../crew/crew';
import type { Bounds } from '../field/bounds';
import type { GroundPieces } from '../field/groundPieces';
import type { TipGrid, TipSurfaceSpec } from '../field/tipSurface';
import type { WantedSpec } from '../field/wanted';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Polygon } from '../geometry/polygon';
import type { Pattern } from '../passes/density';
import type { PassPlanes, Sketch } from '../field/sketch';
import type { HeightMap } from '../steel/heightMap';
import type { ToolShape } from '../tool/shape';

/** What a kind of step may look at to tell what it will come to, before its path is planned. */
export interface ExpectContext {
  readonly part: ContactMesh;
  readonly tool: ToolShape;
  /** Steel before the step; undefined while the steps before it are not up to date. */
  readonly steel: HeightMap | undefined;
  readonly shapeNamed: (assemblyId: string) => ToolShape | undefined;
  /** Ground that the cutter's round goes over, with allowances on walls and floors, mm; limits by steel hold where it is known. */
  readonly ground: (allowance: Allowances, limits: GroundLimits) => Promise<GroundPieces>;
  /** Where the axis may go, by the step's limits: closed areas, and the ring around all of it, counter-clockwise. */
  readonly bounds: Bounds;
  readonly within: Polygon;
  readonly crew: Crew;
  /** The tip surface of the cutter, on a grid as coarse as that. */
  readonly tips: (allowance: Allowances) => Promise<TipGrid>;
}
interface GroundLimits {
  readonly rest?: WantedSpec['rest'];
  /** Steel thicker, and thinner, than these is left alone, mm; null: however thin. */
  readonly mostSteel: number;
  readonly leastSteel: number | null;
}
type Allowances = Pick<TipSurfaceSpec, 'side' | 'floor'>;

/** What a step will come to, as far as it can be told before it is calculated. */
export interface Expected {
  /** Cutting length, mm; undefined where it cannot be told. */
  readonly length?: number;
  /** What lies between the cuts, where that is told: mm of ways down into steel and of ways at depth, and how often it is lifted. */
  readonly between?: { readonly entry: number; readonly link: number; readonly lifts: number; readonly eases: number };
  /** Levels of roughing: how many, and how far apart at most, mm. */
  readonly levels?: { readonly count: number; readonly apart: number };
  /** Distance of passes on the surface, mm: the middle, and where all but 1 % of the ground has them farther apart. */
  readonly apart?: { readonly middle: number; readonly nearest: number };
  /** Height above the part that 99 % of the ground stays below, mm, where the cutter comes to. */
  readonly ridges?: number;
  /** Its lines themselves, where it is told by them: ends of straight pieces, six numbers each, mm; one of so many levels. */
  readonly drawn?: Sketch;
  /** The planes in which its passes or levels lie, where they lie in planes. */
  readonly planes?: readonly PassPlanes[];
}

/** A height is found by so many halvings. */
const HALVINGS = 24;

/** Ground that a step wants of all that there is. */
export interface Band {
  /** Least and greatest slope, degrees. */
  readonly slopesDeg?: readonly [number, number];
  /** Lowest and highest tip, mm; null: no limit. */
  readonly bottom?: number | null;
  readonly top?: number | null;
}

/** What passes come to over ground. */
export interface Passes {
  /** mm. */
  readonly length: number;
  /** Of each piece, the part's area that it touches, and how far apart they are: in mm, and in side steps of the scallop. */
  readonly pieces: readonly { readonly area: number; readonly apart: number; readonly steps: number }[];
}

/** Lays passes over the ground of a band. */
export function passesOver(ground: GroundPieces, band: Band, { density, beside }: Pattern): Passes {
  const [from, to] = band.slopesDeg ?? [0, 90];
  const low = band.bottom ?? -Infinity;
  const high = band.top ?? Infinity;
  const isWanted = (slopeDeg: number, tip: number): boolean =>
    slopeDeg >= from && slopeDeg <= to && tip >= low && tip <= high;
  const pieces: { area: number; apart: number; steps: number }[] = [];
  let length = beside(ground, isWanted);
  for (let k = 0; k < ground.count; k++) {
    const slope = (Math.acos(Math.min(1, Math.max(0, ground.normals[3 * k + 2]!))) * 180) / Math.PI;
    if (!isWanted(slope, ground.tips[k]!)) continue;
    const { dense, steps } = density(ground, k);
    length += ground.area[k]! * dense;
    if (dense > 0) pieces.push({ area: ground.touched[k]!, apart: 1 / dense, steps });
  }
  return { length, pieces };
}

/** The figure that a share of the ground stays below; 0 for no ground. */
export function below(
  pieces: Passes['pieces'],
  figure: (piece: Passes['pieces'][number]) => number,
  share: number,
): number {
  const all = pieces.map((piece) => [figure(piece), piece.area] as const).sort((a, b) => a[0] - b[0]);
  const whole = all.reduce((sum, [, area]) => sum + area, 0);
  let sum = 0;
  for (const [value, area] of all) if ((sum += area) >= share * whole) return value;
  return 0;
}

/**
 * Height, mm, that the steel between passes stays below on a share of the ground: over a parabola between two passes the height
 * is under t on √(t / crest) of the way (geometry), so evenly spread places lie lower than the crests.
 *
 * @param scallop of a crest between passes one side step apart
 */
export function ridgesBelow(pieces: Passes['pieces'], scallop: number, most: number, share: number): number {
  const whole = pieces.reduce((sum, { area }) => sum + area, 0);
  const crests = pieces.map(({ area, steps }) => ({ area, crest: Math.min(most, scallop * steps ** 2) }));
  let [low, high] = [0, Math.max(0, ...crests.map(({ crest }) => crest))];
  for (let k = 0; k < HALVINGS; k++) {
    const t = (low + high) / 2;
    const under = crests.reduce((sum, { area, crest }) => sum + area * Math.min(1, Math.sqrt(t / crest)), 0);
    if (under < share * whole) low = t;
    else high = t;
  }
  return high;
}
