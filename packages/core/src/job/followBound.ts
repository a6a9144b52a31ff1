import { kindOf } from '../strategy/registry';
import type { RevisionReport } from '../survey/revision';
import { type BoundHeight, withBound } from './boundHeights';
import { type LaidBoxes, workZeroPoint } from './frame';
import { type Followed, TAKEN_MM } from './followFaces';
import type { Job, Step } from './job';

/** A job as it lies, and the boxes of its part and blank. */
export interface Lying {
  readonly job: Job;
  readonly boxes: LaidBoxes;
}

/** A bound height that went with its place. */
export interface FollowedBound extends Followed {
  /** The place is not found again: the value stands, and is bound no more. */
  readonly isLost: boolean;
}

/** The height of the part's top or lowest place in the laid frame, mm. */
export function placeOf(to: 'top' | 'lowest', { part }: LaidBoxes): number {
  return to === 'top' ? part.maxZ : part.minZ;
}

/**
 * Moves the bound heights of a job with their places, after its zero, its block or its part was changed.
 *
 * @param levels heights of level faces before and after; left out where the part is the same
 */
export function followBound(
  before: Lying,
  after: Lying,
  levels?: RevisionReport['levels'],
): { job: Job; followed: FollowedBound[] } {
  const [zeroBefore, zeroAfter] = [before, after].map(({ job, boxes }) => workZeroPoint(job, boxes)[2]) as [
    number,
    number,
  ];
  const isTurned = JSON.stringify(before.job.part?.lay) !== JSON.stringify(after.job.part?.lay);
  const placeNow = ({ to, at }: BoundHeight): number | undefined => {
    if (isTurned) return undefined;
    if (to !== 'place') return placeOf(to, after.boxes);
    return levels ? levels.find((l) => Math.abs(l.from - at) < TAKEN_MM)?.to : at;
  };
  const followed: FollowedBound[] = [];
  const steps = after.job.steps.map((step): Step => {
    let next = step;
    for (const [key, bound] of Object.entries(step.bound ?? {})) {
      const value = step.values[key];
      const now = typeof value === 'number' ? placeNow(bound) : undefined;
      const moved = now === undefined ? undefined : { ...bound, at: now };
      if (!moved) next = { ...next, bound: withBound(next.bound, key, undefined) };
      else if (moved.at !== bound.at) next = { ...next, bound: withBound(next.bound, key, moved) };
      if (typeof value !== 'number') continue;
      const to = moved ? rounded(value + (moved.at - zeroAfter) - (bound.at - zeroBefore)) : value;
      if (to !== value) next = { ...next, values: { ...next.values, [key]: to } };
      if (to !== value || !moved)
        followed.push({
          stepId: step.id,
          step: step.name,
          label: kindOf(step.kind)?.fields.find((f) => f.key === key)?.label ?? key,
          from: value,
          to,
          isLost: !moved,
        });
    }
    return next;
  });
  const isSame = steps.every((step, i) => step === after.job.steps[i]);
  return { job: isSame ? after.job : { ...after.job, steps }, followed };
}

const rounded = (value: number): number => Math.round(value * 1e4) / 1e4;
