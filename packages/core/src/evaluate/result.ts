import { sharedFloat32, sharedFloat64 } from '../base/shared';
import type { BrokenEdges } from '../check/brokenEdge';
import type { Drilled } from '../job/job';
import type { LeftOut } from '../link/context';
import { evenFeed } from '../load/evenFeed';
import type { CuttingFigures } from '../load/stepCutting';
import { timesOf } from '../path/times';
import { refusesMilling } from '../tool/library';
import { Motion, type Motions, type Toolpath } from '../path/toolpath';
import type { Body } from '../simulate/body';
import type { Engagement } from '../simulate/engagement';
import type { HeightMap } from '../steel/heightMap';
import type { BandHistory } from '../steel/history';
import { removalRates, type StepFigures, travelFigures } from './findings';
import type { Snapshot, SnapshotStep } from './snapshot';
import { conditionsOf, loadFigures, ownLoad } from './stepLoads';

/** The steel of a step from its beginning to its end. */
export interface StepSteel {
  readonly before: HeightMap;
  readonly after: HeightMap;
  /** The steel on the way, band by band. */
  readonly history: readonly BandHistory[];
  /** Steel left after the step, along the part's normal, mm. */
  readonly leftover: Float32Array;
}

/** Everything that was calculated for a step. */
export interface StepResult {
  readonly stepId: string;
  /** Key of what it was calculated from: see {@link SnapshotStep.key}. */
  readonly key: string;
  readonly timesKey: string;
  readonly body: Body;
  /** As it was planned: without feeds, crossing at the planned height. */
  readonly motions: Motions;
  readonly plannedSafeZ: number;
  /** As it is posted. */
  readonly path: Toolpath;
  /** Time at the end of each motion, s from the step's start. */
  readonly times: Float64Array;
  /** Volume taken off by each motion, mm³. */
  readonly removed: Float32Array;
  /** How much of the cutter is in steel along the way. */
  readonly engagement: Engagement;
  /** The steel as it is shown and judged: on cells that show the step's ridges. */
  readonly steel: StepSteel;
  /** What the next step begins with, on the cells that all steps share. */
  readonly next: Pick<StepSteel, 'after' | 'leftover'> & {
    /** Holes that were drilled so far, in the frame of the work zero. */
    readonly drilled: readonly Drilled[];
  };
  readonly leftOut: readonly LeftOut[];
  /** See `StepPlan.facetDepth`. */
  readonly facetDepth: number;
  /** See `StepPlan.broken`. */
  readonly broken: BrokenEdges | undefined;
  /** Speed of a finishing ball's edge where it touches, by motions: see `ContactSpeed`. */
  readonly contact: Uint8Array | undefined;
  readonly figures: StepFigures;
}

/** Feeds by what motions are for, mm/min. */
type Feeds = Pick<CuttingFigures, 'vf' | 'entry' | 'plunge' | 'link' | 'back'>;

/** A step's path as it is posted: with its feeds, which may follow the load, and the time that it would take if they did not. */
export function pacedPath(
  motions: Motions,
  engagement: Engagement,
  snapshot: Snapshot,
  at: SnapshotStep,
  plannedSafeZ: number,
): { readonly path: Toolpath; readonly times: Float64Array; readonly plainTime: number | undefined } {
  const { machine } = snapshot.job.setup;
  const plain = postedPath(motions, at.cutting, plannedSafeZ, at.safeZ);
  const times = timesOf(plain, machine);
  const { even } = at.step.cutting;
  // no load is known of what makes holes or chamfers
  if (!even || refusesMilling(at.shape)) return { path: plain, times, plainTime: undefined };
  const most = even.most ?? ownLoad(snapshot, at, even.by);
  const feed = evenFeed(plain, engagement, conditionsOf(snapshot, at), even, most, machine.maxFeed);
  const path = { ...plain, feed };
  return { path, times: timesOf(path, machine), plainTime: times[times.length - 1] ?? 0 };
}

/** A path with feeds by what its motions are for, and crossing at the step's own height. */
export function postedPath(motions: Motions, feeds: Feeds, plannedSafeZ: number, safeZ: number): Toolpath {
  const { x, y, z: planned, kind, ...spans } = motions;
  const n = x.length;
  const z = sharedFloat64(n);
  const feed = sharedFloat32(n);
  for (let i = 0; i < n; i++) {
    z[i] = planned[i] === plannedSafeZ ? safeZ : planned[i]!;
    const k = kind[i]!;
    if (k === Motion.rapid || i === 0) continue;
    const isUpright = x[i] === x[i - 1] && y[i] === y[i - 1];
    const climb = planned[i]! - planned[i - 1]!;
    if (k === Motion.entry) feed[i] = isUpright && climb < 0 ? feeds.plunge : feeds.entry;
    else if (k === Motion.link) feed[i] = isUpright && climb > 0 ? feeds.back : feeds.link;
    else feed[i] = feeds.vf;
  }
  return { ...spans, x, y, z, kind, feed };
}

/** The figures that follow from a path's times. */
export function timeFigures(path: Toolpath, times: Float64Array, removed: Float32Array) {
  return {
    ...travelFigures(path, removed),
    time: times[times.length - 1] ?? 0,
    rate: removalRates(times, removed),
  };
}

/** A result with feeds, crossing height and times as a snapshot has them; path and steel stay as they are. */
export function retimed(result: StepResult, snapshot: Snapshot, at: SnapshotStep): StepResult {
  const { timesKey } = at;
  if (result.timesKey === timesKey) return result;
  const { path, times, plainTime } = pacedPath(result.motions, result.engagement, snapshot, at, result.plannedSafeZ);
  const load = loadFigures(result.engagement, path, times, conditionsOf(snapshot, at));
  return {
    ...result,
    timesKey,
    path,
    times,
    figures: { ...result.figures, ...timeFigures(path, times, result.removed), plainTime, load },
  };
}
