import { kindOf } from '../strategy/registry';
import type { MovedPlaces } from '../survey/movedPlaces';
import { type BoundHeight, withBound } from './boundHeights';
import { type LaidBoxes, workZeroPoint } from './frame';
import type { Followed } from './followFaces';
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
 * @param places where places of the part went; left out where the part is the same
 */
export function followBound(
  before: Lying,
  after: Lying,
  places?: Pick<MovedPlaces, 'moved'>,
): { job: Job; followed: FollowedBound[] } {
  const [zeroBefore, zeroAfter] = [before, after].map(({ job, boxes }) => workZeroPoint(job, boxes)[2]) as [
    number,
    number,
  ];
  const isTurned = JSON.stringify(before.job.part?.lay) !== JSON.stringify(after.job.part?.lay);
  const placeNow = (bound: BoundHeight): BoundHeight | undefined => {
    if (isTurned) return undefined;
    const { to, at, x, y } = bound;
    if (to !== 'place') return { ...bound, at: placeOf(to, after.boxes) };
    if (!places) return bound;
    const moved = places.moved(at, x === undefined || y === undefined ? undefined : [x, y]);
    if (!moved) return undefined;
    const inPlan = moved.at && { x: rounded(moved.at[0]), y: rounded(moved.at[1]) };
    return { ...bound, at: moved.height, ...inPlan };
  };
  const followed: FollowedBound[] = [];
  const steps = after.job.steps.map((step): Step => {
    let next = step;
    for (const [key, bound] of Object.entries(step.bound ?? {})) {
      const value = step.values[key];
      const moved = typeof value === 'number' ? placeNow(bound) : undefined;
      if (!moved || moved.at !== bound.at || moved.x !== bound.x || moved.y !== bound.y)
        next = { ...next, bound: withBound(next.bound, key, moved) };
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
