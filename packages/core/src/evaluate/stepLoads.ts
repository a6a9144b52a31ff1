import { LOAD_QUANTITIES, LoadAlong, type LoadConditions, loadLimits, type LoadQuantity } from '../load/loadAlong';
import { stepLoad } from '../job/following';
import type { EvenFeed } from '../load/stepCutting';
import { Motion, type Toolpath } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { RATE_SPANS } from './findings';
import type { LoadFigure, LoadFigures } from './loadFigure';
import type { Snapshot, SnapshotStep } from './snapshot';

/** A full slot on the way in says nothing of how wide the cuts are. */
const OF_CUTS: ReadonlySet<LoadQuantity> = new Set(['angle', 'width']);
/** Bins by which quantiles are found, and into how few of them they are told. */
const FINE = 1200;
const BINS = 24;

/** What turns the engagement of a step into forces. */
export function conditionsOf({ job }: Pick<Snapshot, 'job'>, { tool, cutting }: SnapshotStep): LoadConditions {
  return { n: cutting.n, tool, material: job.material, machine: job.setup.machine };
}

/** What a quantity is in a step's own cut, or what machine and assembly are to bear when that is less. */
export function ownLoad({ job }: Pick<Snapshot, 'job'>, at: SnapshotStep, by: EvenFeed['by']): number {
  const { chip, power, deflection } = stepLoad(job, at.tool, at.bound.cut(at.shape), at.cutting);
  const own = { chip, power, bending: deflection }[by];
  return Math.min(own, loadLimits(conditionsOf({ job }, at))[by] ?? Infinity);
}

/**
 * The load of a step in figures, from the simulated steel; undefined where it takes none.
 *
 * @param times at the end of each motion, s
 */
export function loadFigures(
  engagement: Engagement,
  path: Toolpath,
  times: Float64Array,
  conditions: LoadConditions,
): LoadFigures | undefined {
  if (engagement.motion.length === 0) return undefined;
  const loads = new LoadAlong(engagement, conditions).all(path.feed);
  const limits = loadLimits(conditions);
  const isCut = Array.from(engagement.motion, (i) => path.kind[i] === Motion.cut);
  const figures = LOAD_QUANTITIES.map(({ id }) => {
    const isTold = (k: number): boolean => !OF_CUTS.has(id) || isCut[k]!;
    const spans = spansOf(engagement, path, times, loads[id]);
    return [id, { ...figureOf(engagement, loads[id], isTold, limits[id]), spans }];
  });
  return Object.fromEntries(figures) as LoadFigures;
}

function figureOf(
  { motion, length }: Engagement,
  values: Float32Array,
  isTold: (k: number) => boolean,
  limit: number | undefined,
): Omit<LoadFigure, 'spans'> {
  let [most, at, whole, over] = [0, 0, 0, 0];
  for (let k = 0; k < values.length; k++) {
    if (!isTold(k)) continue;
    whole += length[k]!;
    if (limit !== undefined && values[k]! > limit) over += length[k]!;
    if (values[k]! <= most) continue;
    most = values[k]!;
    at = motion[k]!;
  }
  const fine = new Float64Array(FINE);
  for (let k = 0; k < values.length; k++)
    if (isTold(k)) fine[Math.min(FINE - 1, Math.floor((values[k]! / (most || 1)) * FINE))]! += length[k]!;
  const below = (part: number): number => {
    let passed = 0;
    for (let b = 0; b < FINE; b++) {
      passed += fine[b]!;
      if (passed >= part * whole) return (most * (b + 1)) / FINE;
    }
    return most;
  };
  const bins = Array.from({ length: BINS }, (_, b) =>
    fine.subarray((b * FINE) / BINS, ((b + 1) * FINE) / BINS).reduce((sum, l) => sum + l, 0),
  );
  return { p50: below(0.5), p95: below(0.95), most, motion: at, limit, above: whole > 0 ? over / whole : 0, bins };
}

/** Largest value in equal spans of the time. */
function spansOf(
  { motion, share, length }: Engagement,
  { feed }: Toolpath,
  times: Float64Array,
  values: Float32Array,
): number[] {
  const spans = new Array<number>(RATE_SPANS).fill(0);
  const whole = times[times.length - 1] || 1;
  const spanAt = (time: number): number =>
    Math.min(RATE_SPANS - 1, Math.max(0, Math.floor((time / whole) * RATE_SPANS)));
  for (let k = 0; k < values.length; k++) {
    const i = motion[k]!;
    const end = times[i - 1]! + share[k]! * (times[i]! - times[i - 1]!);
    const begin = end - (60 * length[k]!) / Math.max(1, feed[i]!);
    for (let s = spanAt(begin); s <= spanAt(end); s++) spans[s] = Math.max(spans[s]!, values[k]!);
  }
  return spans;
}
