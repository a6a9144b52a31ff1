import { spansOf } from '../../crew/crew';
import { EsquisseError } from '../../base/errors';
import { bareSides } from '../../field/bareSides';
import { sampleTipSurface } from '../../field/sampling';
import { tipGridOver, type TipSurfaceSpec } from '../../field/tipSurface';
import { type Rest, restSpec } from '../../field/wanted';
import { nearestOn, type Polyline } from '../../geometry/polygon';
import { ABOVE_FLAT_MM, flatsOf } from '../../levels/heights';
import type { StepContext } from '../../link/context';
import { OUTSIDE_MM, planAround, ringOf, type Workspace } from '../../link/workspace';
import { LEAST_ROUND_MM, type Waterline, waterlinesTask } from '../../passes/waterlines/curves';
import type { Hole } from '../../survey/features';
import type { ProfileValues } from './values';

/** Side of a square of the grid that curves are looked for on, mm; openings narrower than that may be missed. */
const GRID_MM = 0.5;
/** Heights that one worker takes at a time. */
const BATCH = 6;
/** Level faces smaller than this are no foot of a wall, mm². */
const SMALLEST_FLOOR_MM2 = 0.5;
/** Two heights of a wall are looked at from so far apart to tell how it bends, mm. */
const BEND_MM = 0.5;
/** Of what an earlier cutter left so much counts, mm. */
const REST_MM = 0.02;
/** The axis is along a wall that lies this near to where it should, beside facets, mm. */
const ON_WALL_MM = 0.02;
/** Steel thinner than this is none, mm. */
const NOTHING_MM = 0.05;
/** Heights this close are one, mm. */
const SAME_MM = 1e-3;

/** A wall that stands upright from one height to another, by the line of the tool's axis along it; lengths in mm. */
export interface Wall {
  readonly points: Polyline;
  readonly closed: boolean;
  readonly isOuter: boolean;
  /** It may begin lower; Infinity where that is not known. */
  readonly top: number;
  readonly bottom: number;
}

/** What of walls is to be cut, and the places where it was cut short by steel. */
export interface WallsFound {
  readonly walls: readonly Wall[];
  readonly stopped: readonly [number, number, number][];
}

/** The heights at which walls are looked for, from the top down: over each level face, at the bottom, and in between. */
export function heightsOf(
  part: StepContext['part'],
  {
    top,
    bottom,
    beyond,
    bottomAllowance,
    ap,
  }: Pick<ProfileValues, 'top' | 'bottom' | 'beyond' | 'bottomAllowance' | 'ap'>,
): number[] {
  const high = Math.min(top ?? Infinity, part.box.maxZ);
  const low = (bottom ?? part.box.minZ - beyond) + ABOVE_FLAT_MM;
  const floors = flatsOf(part, SMALLEST_FLOOR_MM2)
    .map((flat) => flat + bottomAllowance + ABOVE_FLAT_MM)
    .filter((z) => z < high - SAME_MM && z > low + SAME_MM);
  const heights: number[] = [];
  let from = high;
  for (const stop of [...floors, low]) {
    if (!(from - stop > SAME_MM)) continue;
    const n = Math.ceil((from - stop) / ap - 1e-9);
    for (let k = 1; k <= n; k++) heights.push(from - ((from - stop) * k) / n);
    from = stop;
  }
  return heights;
}

/**
 * Walls with an allowance, and as far as steel beside them is not thicker than it may be.
 *
 * @param mostSteel thickest steel that may be met, mm
 * @param isLast it goes along all of them; a side pass before it only where it meets steel
 */
export async function wallsBeside(
  context: StepContext,
  { bounds }: Workspace,
  spec: TipSurfaceSpec,
  heights: readonly number[],
  values: ProfileValues,
  { mostSteel, isLast }: { readonly mostSteel: number; readonly isLast: boolean },
  onDone: (share: number) => void,
): Promise<WallsFound> {
  const { part, crew, steel, faces, blank } = context;
  const rest = restFor(context, values);
  const reach = spec.piece.radius + spec.side;
  const grid = tipGridOver(part.box, reach + OUTSIDE_MM, GRID_MM);
  await sampleTipSurface(grid, spec, crew, (share) => onDone(0.4 * share));
  const input = {
    grid,
    spec,
    bounds,
    stepDown: BEND_MM,
    slopeFrom: (values.fromSlopeDeg * Math.PI) / 180,
    tolerance: values.tolerance,
    direction: values.direction,
    within: ringOf(planAround(part.box, reach)),
    bare: bareSides(part.box, blank),
    steel,
    mostSteel,
    wanted: {
      slopes: [0, Math.PI / 2] as const,
      ...(rest && { rest }),
      ...(!isLast && { thicker: NOTHING_MM }),
      ...(faces && {
        faces: { limits: faces, round: Math.max(spec.piece.corner, LEAST_ROUND_MM) + spec.side },
      }),
    },
  };
  // a wall may end over a height: over an undercut, or at the underside of the part
  const asked = heights.map((z, k) => ({ z, rank: 0, upTo: heights[k - 1] ?? values.top ?? part.box.maxZ }));
  const spans = spansOf(heights.length, Math.ceil(heights.length / BATCH));
  const found = await crew.all(
    waterlinesTask,
    spans.map(([first, end]) => ({ ...input, heights: asked.slice(first, end) })),
    (done) => onDone(0.4 + (0.6 * done) / spans.length),
  );
  const { which } = values;
  const isAsked = (isOuter: boolean, places: ArrayLike<number>): boolean =>
    (which === 'all' || isOuter === (which === 'outer')) &&
    (isOuter || values.holes === 'milled' || !context.holes().some((hole) => isAlong(hole, places, reach)));
  const lines = found.flat();
  const asks = lines.map(({ z, loops }) => ({
    z,
    loops: loops.filter(({ isOuter = false, points }) => isAsked(isOuter, points)),
  }));
  return {
    walls: uprightFrom(asks, values.top ?? Infinity, 2 * values.tolerance),
    stopped: lines.flatMap(({ z, stopped }) =>
      stopped
        .filter(({ x, y, isOuter = false }) => isAsked(isOuter, [x, y]))
        .map(({ x, y }): [number, number, number] => [x, y, z]),
    ),
  };
}

/** Whether places of the axis, x and y in turn, are all as far as it goes from the wall of a hole, or of the bore over it. */
function isAlong({ x, y, diameter, facetDepth, counterbore }: Hole, places: ArrayLike<number>, reach: number): boolean {
  return [diameter, counterbore?.diameter ?? 0].some((across) => {
    for (let k = 0; k < places.length; k += 2) {
      const off = Math.hypot(places[k]! - x, places[k + 1]! - y) + reach - across / 2;
      if (Math.abs(off) > facetDepth + ON_WALL_MM) return false;
    }
    return true;
  });
}

/** What an earlier cutter left. @throws EsquisseError `step-impossible` when it is none that mills */
function restFor({ part, shapeNamed }: StepContext, { restOf, restOverlap }: ProfileValues): Rest | undefined {
  if (restOf === null) return undefined;
  const rest = restSpec(part, shapeNamed(restOf), { assemblyId: restOf, overlap: restOverlap, thicker: REST_MM });
  if ('problem' in rest) throw new EsquisseError('step-impossible', rest.problem, 'restOf');
  return rest;
}

/** Lines at one height after another that are the same as the first to within `same` mm are one wall, down from the height above it. */
export function uprightFrom(lines: readonly Pick<Waterline, 'z' | 'loops'>[], top: number, same: number): Wall[] {
  /** Walls with their line at their highest place: held against the last one alone a wall could lean for ever. */
  type Grown = { readonly first: Polyline; readonly wall: Wall };
  const done: Wall[] = [];
  let open: Grown[] = [];
  for (const [k, { z, loops }] of lines.entries()) {
    const before = open;
    open = loops.map(({ points, closed, isOuter = false }): Grown => {
      const at = before.findIndex(
        ({ first, wall }) =>
          wall.closed === closed && wall.isOuter === isOuter && isSameLine(first, points, closed, same),
      );
      const upper = at < 0 ? undefined : before.splice(at, 1)[0]!;
      const wall = { points, closed, isOuter, top: upper?.wall.top ?? lines[k - 1]?.z ?? top, bottom: z };
      return { first: upper?.first ?? points, wall };
    });
    done.push(...before.map(({ wall }) => wall));
  }
  return [...done, ...open.map(({ wall }) => wall)];
}

function isSameLine(a: Polyline, b: Polyline, closed: boolean, same: number): boolean {
  const isBeside = (p: Polyline, q: Polyline): boolean => {
    for (let k = 0; k < p.length; k += 2) if (nearestOn(q, p[k]!, p[k + 1]!, closed).distance > same) return false;
    return true;
  };
  return isBeside(a, b) && isBeside(b, a);
}
