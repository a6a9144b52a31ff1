import type { Crew } from '../crew/crew';
import type { Job } from '../job/job';
import { Motion } from '../path/toolpath';
import { carriedValues } from '../strategy/carriedValues';
import type { Values } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import { calculateStep } from './calculate';
import type { StepResult } from './result';
import { Snapshot, type SnapshotStep } from './snapshot';

/** More than this share of the engagement asked for counts as above it. */
const ABOVE = 1.1;

/** What a step does, to be held against another way of doing it. Lengths in mm, angles in degrees, times in s. */
export interface Rival {
  readonly kind: string;
  readonly name: string;
  readonly time: number;
  /** Length of its cuts that is in steel, and the share of it above 1.1 of the engagement that steady load asks for. */
  readonly inSteel: number;
  readonly above: number;
  /** Engagement: not exceeded over half of that length, over 95 % of it, and anywhere. */
  readonly p50: number;
  readonly p95: number;
  readonly most: number;
  /** Length in steel over volume / (ap ae): how much longer the way is than it has to be. */
  readonly way: number;
  readonly retracts: number;
  /** Thickness that it leaves, median and 99 %. */
  readonly left: readonly [number, number];
  readonly findings: number;
}

/** A step beside its rival kind. */
export interface Rivals {
  readonly own: Rival;
  readonly other: Rival;
  /** Values of the other one, if it is to be taken. */
  readonly values: Values;
  /** Engagement that steady load asks for, degrees. */
  readonly asked: number;
}

/**
 * Calculates a step as its rival kind, with its cutter, limits and all values that mean the same, and holds both against each
 * other. Nothing of the job changes.
 */
export async function compareRivals(
  snapshot: Snapshot,
  at: SnapshotStep,
  own: StepResult,
  before: StepResult | undefined,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<Rivals | undefined> {
  const kind = at.kind.rival === undefined ? undefined : kindOf(at.kind.rival);
  if (!kind) return undefined;
  const values = carriedValues(kind, at.kind, kind.house(at.shape), at.step.values);
  const steps = snapshot.job.steps.map((s) =>
    s.id === at.step.id ? { ...s, kind: kind.id, values, relations: undefined } : s,
  );
  const job: Job = { ...snapshot.job, steps };
  const changed = new Snapshot(job, snapshot.piece);
  const otherAt = changed.step(at.step.id);
  if (!otherAt) return undefined;
  const result = await calculateStep(changed, otherAt, before, {
    crew,
    onProgress: ({ share }) => onDone(share),
  });
  // the one that steers its load says how much it is to be
  const steady = [at, otherAt].find((s) => s.bound.cut(s.shape).waysInAir) ?? at;
  const asked = Math.acos(1 - (2 * steady.bound.cut(steady.shape).ae) / steady.shape.DC);
  return {
    own: rivalOf(at, own, asked),
    other: rivalOf(otherAt, result, asked),
    values,
    asked: (asked * 180) / Math.PI,
  };
}

function rivalOf(
  { kind, bound, shape }: SnapshotStep,
  { engagement, path, figures }: StepResult,
  asked: number,
): Rival {
  const { motion, length, angle } = engagement;
  let [inSteel, above] = [0, 0];
  for (let k = 0; k < motion.length; k++) {
    if (path.kind[motion[k]!] !== Motion.cut) continue;
    inSteel += length[k]!;
    if (angle[k]! > ABOVE * asked) above += length[k]!;
  }
  const { ae, ap } = bound.cut(shape);
  const { p50, p95, most } = figures.load?.angle ?? { p50: 0, p95: 0, most: 0 };
  return {
    kind: kind.id,
    name: kind.name,
    time: figures.time,
    inSteel,
    above: inSteel > 0 ? above / inSteel : 0,
    ...{ p50, p95, most },
    way: figures.removed > 0 ? (inSteel * ae * ap) / figures.removed : 0,
    retracts: figures.retracts,
    left: [figures.leftover.p50, figures.leftover.p99],
    findings: figures.findings.length,
  };
}
