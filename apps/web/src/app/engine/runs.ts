import type { Release } from '@esquisse/core';
import type { PlanState, Posted, StepRun, StepSummary, TakenState, ToldJob, ToldState, ToldStep } from './views';

/**
 * Motions and lines by what names them. The store holds plain figures that are never changed; what is large and lies in shared
 * memory stands here, for as long as anybody holds what it is found by.
 */
const runs = new WeakMap<StepSummary, StepRun>();
const lines = new WeakMap<Posted, readonly Uint32Array[]>();
/** What was told last, by the names of the results: what did not change stays the same, and is not drawn again. */
let last = new Map<string, StepSummary>();

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
  const now = new Map(summaries.map((told) => [told.name, last.get(told.name) ?? summaryOf(told)]));
  last = now;
  return { revision, serial, fresh, summaries: [...now.values()] };
}

function summaryOf({ stepId, figures, path, times, contact }: ToldStep): StepSummary {
  const summary: StepSummary = { stepId, figures, motions: path.x.length };
  runs.set(summary, { path, times, contact });
  return summary;
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
