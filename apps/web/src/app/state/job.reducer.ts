import type { Job, Step } from '@esquisse/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';

/** Changes that can be taken back. */
export const UNDO_DEPTH = 200;

export interface JobState {
  job: Job | null;
  /** Earlier and later states of the job, nearest last. */
  past: Job[];
  future: Job[];
  selectedStepId: string | null;
}

const initial: JobState = { job: null, past: [], future: [], selectedStepId: null };

export const JobActions = createActionGroup({
  source: 'Job',
  events: {
    /** Another job is opened; nothing of the one before can be taken back. */
    Opened: props<{ job: Job }>(),
    /** The job was changed by a person. */
    Changed: props<{ job: Job; selectStepId?: string | null }>(),
    Undo: emptyProps(),
    Redo: emptyProps(),
    StepSelected: props<{ stepId: string | null }>(),
  },
});

function selectable(job: Job, stepId: string | null): string | null {
  return job.steps.some((s) => s.id === stepId) ? stepId : (job.steps[0]?.id ?? null);
}

export const jobFeature = createFeature({
  name: 'job',
  reducer: createReducer(
    initial,
    on(JobActions.opened, (_, { job }): JobState => ({
      job,
      past: [],
      future: [],
      selectedStepId: job.steps[0]?.id ?? null,
    })),
    on(JobActions.changed, (state, { job, selectStepId }): JobState => {
      if (!state.job || state.job === job) return state;
      return {
        job,
        past: [...state.past, state.job].slice(-UNDO_DEPTH),
        future: [],
        selectedStepId: selectable(job, selectStepId === undefined ? state.selectedStepId : selectStepId),
      };
    }),
    on(JobActions.undo, (state): JobState => {
      const before = state.past[state.past.length - 1];
      if (!before || !state.job) return state;
      return {
        job: before,
        past: state.past.slice(0, -1),
        future: [...state.future, state.job],
        selectedStepId: selectable(before, state.selectedStepId),
      };
    }),
    on(JobActions.redo, (state): JobState => {
      const after = state.future[state.future.length - 1];
      if (!after || !state.job) return state;
      return {
        job: after,
        past: [...state.past, state.job],
        future: state.future.slice(0, -1),
        selectedStepId: selectable(after, state.selectedStepId),
      };
    }),
    on(JobActions.stepSelected, (state, { stepId }): JobState => ({ ...state, selectedStepId: stepId })),
  ),
  extraSelectors: ({ selectJob, selectPast, selectFuture, selectSelectedStepId }) => ({
    selectCanUndo: createSelector(selectPast, (past) => past.length > 0),
    selectCanRedo: createSelector(selectFuture, (future) => future.length > 0),
    selectStep: createSelector(selectJob, selectSelectedStepId, (job, id): Step | undefined =>
      job?.steps.find((s) => s.id === id),
    ),
  }),
});
