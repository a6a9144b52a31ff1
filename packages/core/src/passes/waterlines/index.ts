import { spansOf } from '../../crew/crew';
import { bareSides } from '../../field/bareSides';
import { sampleTipSurface } from '../../field/sampling';
import { tipGridOver, type TipSurfaceSpec } from '../../field/tipSurface';
import type { WantedSpec } from '../../field/wanted';
import { ABOVE_FLAT_MM } from '../../levels/heights';
import type { Direction } from '../../levels/loops';
import type { LeftOut, StepContext } from '../../link/context';
import { type Growing, OUTSIDE_MM, planAround, ringOf, type Workspace } from '../../link/workspace';
import { leftBySteel } from '../leftBySteel';
import type { GrownPasses } from '../order';
import { type ScanRun, SurfaceFollower } from '../scan';
import { sideStepFor } from '../scallop';
import { type Waterline, waterlinesTask } from './curves';
import { cutDown } from './order';
import { slopeDown } from '../../tool/shape';

/** Side of a square of the grid that curves are looked for on, mm; openings narrower than that may be missed. */
const GRID_MM = 0.5;
/** Heights that one worker takes at a time: what it learns about walls at one serves the next. */
const BATCH = 6;
/** The next pass of a wall is reached over the surface when it is nearer than this many steps down, or radii. */
const NEAR_STEPS = 4;
const NEAR_RADII = 0.5;
/** Gaps in a line up to so many diameters are crossed at its height (common practice). */
const GAP_DIAMETERS = 3;
/** Distances between heights are halved this often at most. */
const MOST_RANK = 5;
/** Heights of so many halvings are always looked at. */
const SURE_RANK = 1;
/** Halvings more for walls that bend inward nearly as tightly as the cutter. */
const BEND_RANKS = 2;
const EPSILON_MM = 1e-6;

/** What waterlines are asked for; lengths in mm. */
export interface WaterlineAsk {
  readonly spec: TipSurfaceSpec;
  /** Its first slope is the least of the walls that are cut. */
  readonly wanted: WantedSpec;
  readonly scallop: number;
  readonly tolerance: number;
  /** Limits of the heights; null: those of the part. */
  readonly top: number | null;
  readonly bottom: number | null;
  readonly mostSteel: number;
  readonly direction: Direction;
  /** Closed passes go on past their beginning by this. */
  readonly overlap: number;
  /** Angle at which a closed pass is come to from the one above it along the wall, degrees; null: straight down it. */
  readonly rampDeg: number | null;
}

/** Waterlines found, and how they are cut. */
export interface Waterlines {
  readonly runs: readonly ScanRun[];
  readonly left: readonly LeftOut[];
  /** Goes on with a path by all or some of the runs, divided or not. */
  readonly cut: (runs: readonly ScanRun[], growing: Growing) => GrownPasses;
}

/** Passes at constant height along walls, as close as their slope wants. */
export async function waterlinesOver(
  context: StepContext,
  { bounds }: Workspace,
  ask: WaterlineAsk,
  onDone: (share: number) => void,
): Promise<Waterlines> {
  const { part, tool, crew, steel } = context;
  const { spec, wanted, scallop, tolerance, mostSteel, direction, overlap } = ask;
  const { piece } = spec;
  const reach = piece.radius + spec.side;
  const around = planAround(part.box, reach);
  const grid = tipGridOver(part.box, reach + OUTSIDE_MM, GRID_MM);
  await sampleTipSurface(grid, spec, crew, (share) => onDone(0.2 * share));
  const stepDown = sideStepFor(tool.RE, scallop);
  const slopeFrom = wanted.slopes[0];
  const heights = heightsOf(context, ask, lowestOver(grid, part.box), stepDown, slopeFrom);
  const input = {
    grid,
    spec,
    bounds,
    stepDown,
    slopeFrom,
    tolerance,
    direction,
    within: ringOf(around),
    bare: bareSides(part.box, context.blank),
    steel,
    mostSteel,
    wanted,
  };
  /** The heights at some places of the list, in its order. */
  const at = async (places: readonly number[], from: number, share: number): Promise<Map<number, Waterline>> => {
    const spans = spansOf(places.length, Math.ceil(places.length / BATCH));
    const found = await crew.all(
      waterlinesTask,
      spans.map(([first, end]) => ({ ...input, heights: places.slice(first, end).map((k) => heights[k]!) })),
      (done) => onDone(from + (share * done) / spans.length),
    );
    return new Map(found.flat().map((line, k) => [places[k]!, line]));
  };
  const coarse = [...heights.keys()].filter((k) => heights[k]!.rank <= SURE_RANK);
  const first = await at(coarse, 0.2, 0.7);
  // finer heights only beside those that want them
  const finer = [...heights.keys()].filter((k) => {
    const { rank } = heights[k]!;
    if (rank <= SURE_RANK) return false;
    const next = coarse.findIndex((c) => c > k);
    const beside = next < 0 ? coarse.slice(-1) : coarse.slice(Math.max(0, next - 1), next + 1);
    return beside.some((c) => first.get(c)!.finest >= rank);
  });
  const second = await at(finer, 0.9, 0.1);
  const lines = [...heights.keys()].flatMap((k) => first.get(k) ?? second.get(k) ?? []);
  const follower = new SurfaceFollower({
    spec,
    bounds,
    stock: steel,
    mostSteel,
    lowest: -Infinity,
    tolerance,
    extension: 0,
    wanted,
    join: 0,
    sideStep: stepDown,
    lines: [],
  });
  const { gap = GAP_DIAMETERS * tool.DC } = context.room;
  const near = Math.min(gap, Math.max(NEAR_STEPS * stepDown, NEAR_RADII * piece.radius));
  const rampAngle = ask.rampDeg === null ? undefined : Math.atan(slopeDown(ask.rampDeg, tool));
  return {
    runs: lines.flatMap(runsOf),
    left: leftBySteel(lines.flatMap(stoppedAt)),
    cut: (runs, growing) =>
      cutDown(runs, direction === 'shortest', { near, gap, overlap, rampAngle }, growing, follower),
  };
}

/** Tip heights from the top down, none where the limits leave none: a step apart, and in between as often as the gentlest wall wants. */
function heightsOf(
  { part }: StepContext,
  { top, bottom }: WaterlineAsk,
  lowest: number,
  stepDown: number,
  slopeFrom: number,
): { z: number; rank: number }[] {
  const high = Math.min(top ?? Infinity, part.box.maxZ);
  // on a level floor itself every place is as high as the curve
  const low = Math.max(bottom ?? -Infinity, lowest + ABOVE_FLAT_MM);
  if (!(low < high - EPSILON_MM)) return [];
  const count = Math.ceil((high - low) / stepDown - EPSILON_MM);
  // evenly, so that the last one lies at the lowest height
  const step = (high - low) / count;
  const most = Math.min(
    MOST_RANK,
    BEND_RANKS + Math.max(0, Math.ceil(Math.log2(1 / Math.sin(slopeFrom)) - EPSILON_MM)),
  );
  const fine = 2 ** most;
  return Array.from({ length: count * fine }, (_, k) => {
    const index = k + 1;
    return { z: high - (index * step) / fine, rank: rankOf(index, most) };
  });
}

/** How often a step was halved for the `index`-th of its 2^most parts. */
function rankOf(index: number, most: number): number {
  let rank = most;
  for (let i = index; rank > 0 && i % 2 === 0; i /= 2) rank--;
  return rank;
}

/** The lowest that the tip comes over the part itself, mm. */
function lowestOver(
  { x0, y0, step, nx, ny, z }: ReturnType<typeof tipGridOver>,
  box: StepContext['part']['box'],
): number {
  let low = Infinity;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const [x, y, h] = [x0 + i * step, y0 + j * step, z[j * nx + i]!];
      if (x > box.minX && x < box.maxX && y > box.minY && y < box.maxY && h > -Infinity && h < low) low = h;
    }
  return Math.max(low, box.minZ);
}

/** Where passes at a height were cut short by steel. */
const stoppedAt = ({ z: height, stopped }: Waterline): [number, number, number][] =>
  stopped.map(({ x, y }) => [x, y, height]);

/** The pieces at a height as passes; of a closed one the first point comes again at its end. */
function runsOf({ z, loops }: Waterline, line: number): ScanRun[] {
  return loops.map(({ points, closed, either }): ScanRun => {
    const n = points.length / 2 + (closed ? 1 : 0);
    const xyz = new Float64Array(3 * n);
    for (let k = 0; k < n; k++) {
      const o = 2 * (k % (points.length / 2));
      xyz.set([points[o]!, points[o + 1]!, z], 3 * k);
    }
    return { line, points: xyz, stoppedBySteel: [false, false], ...(either ? {} : { oneWay: true as const }) };
  });
}
