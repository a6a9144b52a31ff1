import { changeTime, type Job } from '@esquisse/core';
import type { StepSummary } from '../engine/views';

/** Seconds for changing the cutter in before a step; 0 where it is in the spindle already. */
export function changeBefore({ steps, setup }: Job, index: number): number {
  const before = steps.slice(0, index).findLast((s) => s.enabled);
  const isOther = before && steps[index]!.enabled && before.assemblyId !== steps[index]!.assemblyId;
  return isOther ? changeTime(setup.machine) : 0;
}

/** Seconds from the beginning of the program to the first motion of a step, or to its end without one. */
export function timeBefore(job: Job, summaries: readonly StepSummary[], stepId?: string): number {
  let time = 0;
  for (const [i, step] of job.steps.entries()) {
    const own = summaries.find((s) => s.stepId === step.id)?.figures.time;
    if (own !== undefined || step.id === stepId) time += changeBefore(job, i);
    if (step.id === stepId) return time;
    time += own ?? 0;
  }
  return time;
}
