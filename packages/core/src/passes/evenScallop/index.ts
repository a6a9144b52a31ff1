import type { Crew } from '../../crew/crew';
import type { Bounds } from '../../field/bounds';
import { Buried } from '../../field/buried';
import { netOver } from '../../field/contactNet';
import { borderTask, groundOf, groundTask } from '../../field/netGround';
import { projectNet, projectNetTask } from '../../field/projectNet';
import { sampleNodes, tipRows } from '../../field/sampling';
import { tipGridOver, type TipSurfaceSpec } from '../../field/tipSurface';
import { valleysOf } from '../../field/valleys';
import type { WantedSpec } from '../../field/wanted';
import type { Direction } from '../../levels/loops';
import type { LeftOut, StepContext } from '../../link/context';
import type { Growing, Workspace } from '../../link/workspace';
import { leftBySteel, stoppedEnds } from '../leftBySteel';
import type { GrownPasses } from '../order';
import { type ScanRun } from '../scan';
import { sideStepFor } from '../scallop';
import { wayRuns } from '../valleyRuns';
import { crestsTask, highCrests } from './crests';
import { withDetours } from './detours';
import { evenLines } from './lines';
import { cutEven } from './order';
import { putBackTask } from './putBack';
import type { Place } from './rolling';
import { SurfaceLink } from './surfaceLink';
import { NearLines } from './valleySeeds';

/** Step of the net in side steps on a plane, and at least so wide, mm. */
const NET_SHARE = 0.75;
const FINEST_NET_MM = 0.1;
/** The net beside a valley: up to so many steps of it. */
const BESIDE_STEPS = 1.5;
/** A line is reached over the surface when it is nearer than this many side steps, or radii. */
const NEAR_STEPS = 4;
const NEAR_RADII = 2;
/** Valleys shorter than this many side steps are no lines of their own. */
const SHORTEST_VALLEY = 2;
/** Lines are moved aside on the surface by this share of a side step at most, so that they have fewer points. */
const ASIDE_SHARE = 0.01;
/** Lines along high ridges that are shorter than this many side steps are cut from the pass beside them. */
const DETOUR_STEPS = 8;
/** Lines that one worker puts on to the surface at a time, mm of length. */
const PIECE_MM = 1500;

export const EVEN_TASKS = [tipRows, projectNetTask, groundTask, borderTask, putBackTask, crestsTask] as const;

/** What even passes are asked for; lengths in mm. */
export interface EvenScallopAsk {
  readonly spec: TipSurfaceSpec;
  readonly wanted: WantedSpec;
  readonly scallop: number;
  readonly tolerance: number;
  readonly bottom: number | null;
  readonly mostSteel: number;
  readonly direction: Direction;
  readonly isInward: boolean;
}

/** Passes found, and how they are cut. */
export interface EvenPasses {
  readonly runs: readonly ScanRun[];
  readonly left: readonly LeftOut[];
  /** Goes on with a path by all or some of the runs, divided or not. */
  readonly cut: (runs: readonly ScanRun[], growing: Growing) => GrownPasses;
}

/** Passes of a ball that lie so far apart along the surface that all ridges between them are of one height. */
export async function evenScallopOver(
  context: StepContext,
  { bounds, test }: Workspace,
  ask: EvenScallopAsk,
  onDone: (share: number) => void,
): Promise<EvenPasses> {
  const { part, crew, steel } = context;
  const { spec, wanted, scallop, tolerance, mostSteel } = ask;
  const { piece } = spec;
  const sideStep = sideStepFor(piece.corner, scallop);
  const lowest = ask.bottom ?? -Infinity;
  const grid = tipGridOver(part.box, piece.radius + spec.side, Math.max(FINEST_NET_MM, NET_SHARE * sideStep));
  await sampleNodes(grid, spec, crew, (share) => onDone(0.2 * share));
  const net = netOver(grid, piece.corner);
  await projectNet(net, spec, crew, (share) => onDone(0.2 + 0.25 * share));
  const valleys = valleysOf(net, spec, grid.step, tolerance, crew.cancel);
  const valleyPasses = wayRuns(valleys, {
    spec,
    wanted,
    bounds: test,
    steel,
    mostSteel,
    lowest,
    leastLength: SHORTEST_VALLEY * sideStep,
  });
  onDone(0.5);
  const besideValleys = new NearLines(valleys, BESIDE_STEPS * grid.step);
  const isValley = (v: number): boolean =>
    besideValleys.nearest(net.centres[3 * v]!, net.centres[3 * v + 1]!, net.centres[3 * v + 2]!) !== undefined;
  const ground = await groundOf(net, { spec, bounds, wanted, steel, mostSteel, lowest }, isValley, crew, (share) =>
    onDone(0.5 + 0.15 * share),
  );
  const { lines, doubtful, beside } = evenLines(
    ground,
    valleyPasses.map(({ points }) => ({ points: points.map((c, o) => (o % 3 === 2 ? c + piece.corner : c)) })),
    { ...ask, radius: piece.corner, sideStep, step: grid.step },
    crew.cancel,
  );
  onDone(0.7);
  const borders = ground.border.length;
  const isValleyLine = (line: number): boolean => line >= borders && line < borders + valleyPasses.length;
  const own = [...lines.keys()].filter((line) => !isValleyLine(line));
  const runs = await onSurface(
    // borders stay where they are
    own.map((line) => ({ line, points: lines[line]!.points, aside: line < borders ? 0 : ASIDE_SHARE * sideStep })),
    spec,
    tolerance,
    bounds,
    crew,
    (share) => onDone(0.7 + 0.15 * share),
  );
  if (ask.direction !== 'shortest') for (const run of runs) run.oneWay = true;
  valleyPasses.forEach((run, k) => runs.push({ ...run, line: borders + k }));
  const crests = await highCrests(runs, doubtful, ground, { spec, scallop, sideStep }, crew, (share) =>
    onDone(0.85 + 0.1 * share),
  );
  const parents = lines.map(({ parent }) => parent);
  const cures = await onSurface(
    crests.map(({ points }, k) => ({ line: parents.length + k, points, aside: 0 })),
    spec,
    tolerance,
    bounds,
    crew,
    (share) => onDone(0.95 + 0.05 * share),
  );
  const besideOf = (run: ScanRun): number => beside(crests[run.line - lines.length]!.place);
  for (const { place } of crests) parents.push(beside(place));
  const link = new SurfaceLink(spec, tolerance, test, new Buried(steel, piece, mostSteel));
  // what joins places at which a ridge stands may lead through steel that is left
  const open = cures.filter(({ points }) => link.isOpen(placesOf(points)));
  const isShort = ({ points }: ScanRun): boolean => lengthOf(points) < DETOUR_STEPS * sideStep;
  const shorts = open.filter(isShort);
  const taken = withDetours(
    runs,
    shorts.map((run) => ({ points: run.points, beside: besideOf(run) })),
    NEAR_STEPS * sideStep,
    link,
  );
  const all = [...taken.runs, ...open.filter((run) => !isShort(run)), ...taken.left.map((k) => shorts[k]!)];
  const order = {
    parents,
    isInward: ask.isInward,
    near: context.room.gap ?? Math.max(NEAR_STEPS * sideStep, NEAR_RADII * piece.radius),
    beside: NEAR_STEPS * sideStep,
    link,
  };
  return {
    runs: all,
    left: leftBySteel([...ground.steel, ...stoppedEnds(valleyPasses)]),
    cut: (runs, growing) => cutEven(runs, order, growing),
  };
}

/** Ways put on to the surface as passes of the tip: the pieces of each that hold. */
async function onSurface(
  ways: readonly { readonly line: number; readonly points: Float64Array; readonly aside: number }[],
  spec: TipSurfaceSpec,
  tolerance: number,
  bounds: Bounds,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<ScanRun[]> {
  const pieces = piecesOf(ways.map(({ points }) => points));
  const put = await crew.all(
    putBackTask,
    pieces.map(([from, to]) => ({ ways: ways.slice(from, to), spec, tolerance, bounds })),
    (done) => onDone(done / pieces.length),
  );
  return put
    .flat()
    .flatMap((found, k) =>
      found.map((points): ScanRun => ({ line: ways[k]!.line, points, stoppedBySteel: [false, false] })),
    )
    .filter(({ points }) => points.length >= 6);
}

/** Spans of ways of about equal length together. */
function piecesOf(ways: readonly Float64Array[]): [number, number][] {
  const out: [number, number][] = [];
  let length = Infinity;
  for (const [k, way] of ways.entries()) {
    const own = lengthOf(way);
    if (length + own > PIECE_MM) {
      out.push([k, k + 1]);
      length = own;
    } else {
      out[out.length - 1]![1] = k + 1;
      length += own;
    }
  }
  return out;
}

function placesOf(p: Float64Array): Place[] {
  return Array.from({ length: p.length / 3 }, (_, k): Place => [p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!]);
}

function lengthOf(p: Float64Array): number {
  let length = 0;
  for (let o = 3; o < p.length; o += 3)
    length += Math.hypot(p[o]! - p[o - 3]!, p[o + 1]! - p[o - 2]!, p[o + 2]! - p[o - 1]!);
  return length;
}
