import { EsquisseError } from '../base/errors';
import { sharedFloat32 } from '../base/shared';
import { type Crew, spansOf, together } from '../crew/crew';
import { edgesOf } from '../check/brokenEdge';
import { type ContactSpeed, contactSpeedOf, emptySpeeds } from '../check/contactSpeed';
import { joinedLengths, type LengthsByNeed } from '../check/reachAlong';
import { type RidgeAsk, type Ridges, ridgesOf } from '../check/ridges';
import { type Asked, type Unfinished, unfinishedOf } from '../check/unfinished';
import { bareSides } from '../field/bareSides';
import { closedAreas } from '../field/bounds';
import { restSpec } from '../field/wanted';
import type { LeftOut, StepContext, StepPlan } from '../link/context';
import { ringOf } from '../link/workspace';
import type { Motions } from '../path/toolpath';
import type { Body, Mishap } from '../simulate/body';
import type { HeightMap } from '../steel/heightMap';
import { leftoverFigures } from '../steel/leftover';
import { leastThreshold } from '../steel/restRegion';
import { bodyOf, unwatched } from '../simulate/body';
import { BANDS, runOver } from '../simulate/runOver';
import { refusesMilling } from '../tool/library';
import { riseOf } from '../tool/profile';
import { cutterProfile, cuttingPiece, holderProfile, type ToolShape } from '../tool/shape';
import type { Drilled } from '../job/job';
import { findingsOf } from './findings';
import { hardSteelNotes } from './hardSteel';
import { FINEST_CELL_MM, type Piece } from './piece';
import { pacedPath, type StepResult, type StepSteel, timeFigures } from './result';
import type { Snapshot, SnapshotStep } from './snapshot';
import { staysUnder } from './staysUnder';
import { conditionsOf, loadFigures } from './stepLoads';
import { withCutsForWays } from './waysInSteel';
import {
  contactSpeedTask,
  reachTask,
  fixturesTask,
  gougesTask,
  leftoverTask,
  ridgesTask,
  unfinishedTask,
} from './tasks';

/** The steel's state is kept before every so many motions of a step, so that any motion is near one. */
const MARK_EVERY = 300;
/** Gouges are counted beyond this, mm. */
export const GOUGE_MM = 0.01;
/** Where a cell would cover more than this share of the way between two passes, the step is shown on cells half as wide. */
const CELL_OF_SIDE_STEP = 0.6;

/** Keeps planned paths between visits, by the key of all that they were planned from. */
export interface PathCache {
  get(key: string): Promise<StepPlan | undefined>;
  put(key: string, plan: StepPlan): Promise<void>;
}

/** How far the calculation of a step has come. */
export interface Progress {
  stepId: string;
  what: string;
  /** 0 to 1. */
  share: number;
}

/** Places at which ridges are measured, and the pieces in which that is done. */
const RIDGE_PLACES = 100_000;
const RIDGE_PIECES = 4;

/** What calculating needs beside the snapshot. */
export interface Work {
  readonly crew: Crew;
  readonly onProgress: (progress: Progress) => void;
  readonly cache?: PathCache | undefined;
}

/**
 * Calculates a step of a snapshot from the steel that the step before left: path, steel, leftovers, findings.
 *
 * @param before result of the step before, by the snapshot; undefined for the first step
 * @throws EsquisseError `cancelled`, or what keeps the step from being calculated
 */
export async function calculateStep(
  snapshot: Snapshot,
  at: SnapshotStep,
  before: StepResult | undefined,
  { crew, onProgress, cache }: Work,
): Promise<StepResult> {
  const started = Date.now();
  const { piece } = snapshot;
  const { step, shape, key } = at;
  if (at.problem) throw new EsquisseError('value-invalid', at.problem.message, at.problem.key, step.id);
  const tell = (what: string, from: number, to: number) => (share: number) =>
    onProgress({ stepId: step.id, what, share: from + (to - from) * share });
  tell('path', 0, 0.6)(0);
  const kept = await cache?.get(key);
  const planned = kept ?? (await at.bound.plan(contextOf(snapshot, at, before, crew, tell('path', 0, 0.6))));
  const { path, facetDepth = 0, broken } = planned;
  if (path.x.length < 2)
    throw new EsquisseError('step-impossible', `"${step.name || at.kind.name}" finds nothing to cut here.`, step.id);
  if (!kept) await cache?.put(key, planned);
  const body = bodyOf(shape);
  const steelBefore = before?.next.after ?? piece.steel;
  const machined = await runOver(steelBefore, path, body, crew, {
    markEvery: MARK_EVERY,
    isLoadWanted: refusesMilling(shape) === undefined,
    progress: tell('steel', 0.6, 0.85),
  });
  const motions = at.bound.cut(shape).waysInAir ? withCutsForWays(path, machined.removed, machined.engagement) : path;
  tell('checks', 0.85, 1)(0);
  // figures are worked out here while the crew looks for leftovers and contacts
  const { engagement } = machined;
  const [leftover, gouges, held, ridges, contact, reach, { path: posted, times, plainTime, load }] = await together(
    leftoverOn(
      piece,
      machined.after,
      crew,
      before && { heights: before.next.after.heights, leftover: before.next.leftover },
    ),
    gougesOf(at, motions, planned, crew),
    fixtureContactsOf(piece, motions, body, crew),
    ridgesIn(piece, at, motions, crew),
    contactSpeedIn(at, motions, crew),
    reachIn(piece, at, motions, crew),
    Promise.resolve().then(() => {
      const paced = pacedPath(motions, engagement, snapshot, at, at.plannedSafeZ);
      return { ...paced, load: loadFigures(engagement, paced.path, paced.times, conditionsOf(snapshot, at)) };
    }),
  );
  const drilled = [...(before?.next.drilled ?? piece.drilled), ...drilledBy(shape, path)];
  const next = { after: machined.after, leftover, drilled };
  const leftOut = [...planned.leftOut, ...thinSteel(piece, at, next)];
  const unfinished = await unfinishedOn(piece, at, motions, machined.after, leftover, crew);
  const coarse: StepSteel = { before: steelBefore, ...next, history: machined.history };
  return {
    stepId: step.id,
    key,
    timesKey: at.timesKey,
    body,
    motions,
    plannedSafeZ: at.plannedSafeZ,
    path: posted,
    times,
    removed: machined.removed,
    engagement,
    steel: coarse,
    next,
    leftOut,
    facetDepth,
    broken,
    contact: contact?.percent,
    figures: {
      seconds: (Date.now() - started) / 1000,
      ...timeFigures(posted, times, machined.removed),
      plainTime,
      load,
      leftover: leftoverFigures(leftover),
      unfinished,
      ridges,
      contact: contact && { slow: contact.slow, median: contact.median },
      reach,
      neededStickOut: machined.neededStickOut,
      findings: findingsOf(motions, shape.DC, [...machined.mishaps, ...held], gouges),
      leftOut,
      notes: planned.notes ?? [],
      hardSteel: refusesMilling(shape) ? [] : hardSteelNotes(motions, engagement, machined.removed, shape),
    },
  };
}

/** Holes that a drill makes: ways into closed steel for the steps after it. */
function drilledBy(shape: ToolShape, { x, y, cycles = [] }: Motions): Drilled[] {
  if (shape.kind !== 'drill') return [];
  // as wide as the drill from the end of its point on
  const rise = riseOf(cuttingPiece(shape));
  return cycles.map(({ first, to }) => ({ x: x[first]!, y: y[first]!, diameter: shape.DC, bottom: to + rise }));
}

/** Steel that stays because it is thinner than the step's threshold. */
function thinSteel(
  piece: Piece,
  { bound, toleranceBefore }: SnapshotStep,
  { after, leftover }: StepResult['next'],
): LeftOut[] {
  if (!bound.staysUnder) return [];
  const told = leastThreshold(after.cell, bound.tolerance + toleranceBefore);
  const place = staysUnder(after, leftover, piece.topsOn(after.cell).heights, { ...bound.staysUnder, told });
  return place ? [place] : [];
}

/** Side of the cells on which a step's ridges show, where those of the steel that all steps share are too wide for them, mm. */
export function finerCell({ job, piece }: Snapshot, { bound, shape }: SnapshotStep): number | undefined {
  const sideStep = bound.sideStep(shape);
  if (job.cell !== null || sideStep === undefined || piece.cell <= CELL_OF_SIDE_STEP * sideStep) return undefined;
  const cell = Math.max(FINEST_CELL_MM, piece.cell / 2);
  return cell < piece.cell ? cell : undefined;
}

/**
 * A result as it shows on finer cells: the step run again over the steel as the steps before leave it on such cells. What the
 * next steps begin with, and all findings, stay as they are.
 *
 * @param before steel before the step, on the finer cells
 */
export async function onFinerCells(
  piece: Piece,
  at: SnapshotStep,
  result: StepResult,
  before: HeightMap,
  crew: Crew,
): Promise<StepResult> {
  const { after, history } = await runOver(before, result.motions, unwatched(result.body), crew, {
    markEvery: MARK_EVERY,
  });
  const leftover = await leftoverOn(piece, after, crew);
  const unfinished = await unfinishedOn(piece, at, result.motions, after, leftover, crew);
  return {
    ...result,
    steel: { before, after, history, leftover },
    figures: { ...result.figures, leftover: leftoverFigures(leftover), unfinished },
  };
}

/** Steel after a run of a path over steel on any cells. */
export async function steelAfter({ motions, body }: StepResult, before: HeightMap, crew: Crew): Promise<HeightMap> {
  return (await runOver(before, motions, unwatched(body), crew)).after;
}

/** Steel above the part along its normal for any state of the steel, mm. */
export async function leftoverOn(
  piece: Piece,
  stock: HeightMap,
  crew: Crew,
  before?: { heights: Float32Array; leftover: Float32Array },
  onDone?: (share: number) => void,
): Promise<Float32Array> {
  const partMap = piece.topsOn(stock.cell);
  const out = sharedFloat32(stock.heights.length);
  const spans = spansOf(stock.ny, 4 * BANDS);
  await crew.all(
    leftoverTask,
    spans.map((rows) => ({ part: piece.part, partMap, stock, out, before, rows })),
    (done) => onDone?.(done / spans.length),
  );
  return out;
}

/** Where a step's ridges are measured; undefined for steps that do not finish with a ball. */
export function ridgeAskOf(
  piece: Piece,
  { part, bound, shape, named, limits, faces }: SnapshotStep,
  path: Motions,
): Omit<RidgeAsk, 'samples'> | undefined {
  if (!bound.ridges || shape.kind !== 'ball') return undefined;
  const rest = bound.rest && restSpec(part, named.get(bound.rest.assemblyId), bound.rest);
  return {
    part,
    path,
    piece: cutterProfile(shape),
    slopes: bound.slopes,
    lowest: bound.lowest,
    highest: bound.highest,
    closed: closedAreas(limits, shape.DC / 2, ringOf(piece.box)),
    bare: bareSides(piece.part.box, piece.box),
    rest: rest && 'spec' in rest ? rest : undefined,
    faces,
    allowance: bound.leaves.least,
  };
}

/** Ridges that a step's passes leave on the part, where it is to finish it with a ball. */
async function ridgesIn(piece: Piece, at: SnapshotStep, path: Motions, crew: Crew): Promise<Ridges | undefined> {
  const where = ridgeAskOf(piece, at, path);
  if (!where) return undefined;
  const ask = { ...where, samples: RIDGE_PLACES };
  const spans = spansOf(RIDGE_PLACES, RIDGE_PIECES);
  return ridgesOf(
    await crew.all(
      ridgesTask,
      spans.map((rows) => ({ ask, rows })),
    ),
    at.bound.ridges!,
  );
}

/** How far the cutter has to stand out along a path, against the part. */
async function reachIn({ part }: Piece, { shape }: SnapshotStep, path: Motions, crew: Crew): Promise<LengthsByNeed> {
  const holder = holderProfile(shape, 0);
  const found = await crew.all(
    reachTask,
    spansOf(path.x.length, 4 * BANDS).map((span) => ({ part, path, holder, span })),
  );
  return joinedLengths(found);
}

/** How fast the edge of a finishing ball is where it touches, by its motions. */
async function contactSpeedIn(
  { part, bound, shape }: SnapshotStep,
  path: Motions,
  crew: Crew,
): Promise<ContactSpeed | undefined> {
  if (!bound.ridges || shape.kind !== 'ball') return undefined;
  const percent = emptySpeeds(path.x.length);
  const ask = { part, path, radius: shape.RE, leaves: bound.leaves.most, percent };
  const spans = spansOf(path.x.length, 4 * BANDS);
  await crew.all(
    contactSpeedTask,
    spans.map((span) => ({ ...ask, span })),
  );
  return contactSpeedOf(path, percent);
}

/** Where more steel stays than a step is to leave; undefined for steps that do not finish, and where there is none. */
async function unfinishedOn(
  piece: Piece,
  { part, bound, shape, named, limits, faces }: SnapshotStep,
  path: Motions,
  steel: HeightMap,
  leftover: Float32Array,
  crew: Crew,
): Promise<Unfinished | undefined> {
  if (bound.ridges === undefined) return undefined;
  const rest = bound.rest && restSpec(part, named.get(bound.rest.assemblyId), bound.rest);
  const asked: Asked = {
    most: bound.leaves.most + bound.ridges + bound.tolerance,
    lowest: bound.lowest,
    highest: bound.highest,
    slopes: bound.slopes,
    rest: rest && 'spec' in rest ? rest : undefined,
    faces: faces && { limits: faces, round: cutterProfile(shape).corner + bound.leaves.least },
    closed: closedAreas(limits, shape.DC / 2, ringOf(piece.box)),
  };
  const partMap = piece.topsOn(steel.cell);
  const spans = spansOf(steel.ny, 4 * BANDS);
  const cells = await crew.all(
    unfinishedTask,
    spans.map((rows) => ({ part, partMap, steel, leftover, asked, rows })),
  );
  return unfinishedOf(cells.flat(), steel, leftover, asked.most, path);
}

/** What a step may look at while it is planned. */
export function contextOf(
  { piece }: Snapshot,
  { part, shape, named, limits, faces, room, plannedSafeZ, toleranceBefore, promisedBefore }: SnapshotStep,
  before: StepResult | undefined,
  crew: Crew,
  progress: (share: number) => void,
): StepContext {
  const steel = before?.next.after ?? piece.steel;
  return {
    part,
    tool: shape,
    room,
    steel,
    limits,
    faces,
    fixtures: piece.fixtures,
    drilled: before?.next.drilled ?? piece.drilled,
    holes: () => piece.holes,
    leftover: () => (before ? Promise.resolve(before.next.leftover) : leftoverOn(piece, steel, crew)),
    leftoverOf: (map) => leftoverOn(piece, map, crew),
    toleranceBefore,
    promisedBefore,
    shapeNamed: (id) => named.get(id),
    safeZ: plannedSafeZ,
    blank: piece.box,
    rawTop: piece.top,
    crew,
    progress,
  };
}

async function fixtureContactsOf({ fixtures }: Piece, path: Motions, body: Body, crew: Crew): Promise<Mishap[]> {
  if (!fixtures) return [];
  const spans = spansOf(path.x.length, 4 * BANDS);
  return (
    await crew.all(
      fixturesTask,
      spans.map((span) => ({ fixtures, body, path, span })),
    )
  ).flat();
}

async function gougesOf({ part, shape, bound }: SnapshotStep, path: Motions, plan: StepPlan, crew: Crew) {
  const pieces = edgesOf(cuttingPiece(shape), plan);
  const spans = spansOf(path.x.length, 4 * BANDS);
  // what is to go below the part is looked at from there
  const tolerance = GOUGE_MM + Math.max(0, -bound.leaves.least);
  const found = await crew.all(
    gougesTask,
    pieces.flatMap((piece) => spans.map((span) => ({ part, piece, path, span, tolerance }))),
  );
  return found.flat();
}
