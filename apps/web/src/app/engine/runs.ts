import type { Release } from '@esquisse/core';
import type { PlanState, Posted, StepRun, StepSummary, TakenState, ToldJob, ToldState } from './views';

/**
 * Motions and lines by what names them. The store holds plain figures that are never changed; what is large and lies in shared
 * memory stands here, for as long as anybody holds what it is found by.
 */
const runs = new WeakMap<StepSummary, StepRun>();
const lines = new WeakMap<Posted, readonly Uint32Array[]>();

/** The motions of a calculated step. */
export function runOf(summary: StepSummary): StepRun {
  const run = runs.get(summary);
  if (!run) throw new Error(`The motions of ${summary.stepId} were never told.`);
  return run;
}

/** Line of each motion of each step of a posted program. */
export function linesOf(posted: Posted): readonly Uint32Array[] {
  return lines.get(posted) ?? [];
}

/** What the planner told, as the store holds it. */
export function stateOf({ revision, serial, fresh, summaries }: ToldState): PlanState {
  return {
    revision,
    serial,
    fresh,
    summaries: summaries.map(({ stepId, figures, path, times }) => {
      const summary: StepSummary = { stepId, figures, motions: path.x.length };
      runs.set(summary, { path, times });
      return summary;
    }),
  };
}

/** What the planner told of a job that it has taken in, as the store holds it. */
export function takenOf(told: ToldJob): TakenState {
  return { ...stateOf(told), hasPiece: told.piece !== undefined, problem: told.problem };
}

/** A posted program as the store holds it. */
export function postedOf({ lines: own, ...posted }: Release): Posted {
  lines.set(posted, own);
  return posted;
}
