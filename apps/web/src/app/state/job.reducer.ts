import type { Job, Step } from '@esquisse/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { changeWords } from './changeWords';
import { PlanActions } from './planActions';

/** Changes that can be undone. */
export const UNDO_DEPTH = 200;

export interface JobState {
  job: Job | null;
  /** Counts every change of the job: what is told of the job names the one that it holds for. */
  revision: number;
  /** Earlier and later states of the job, nearest last. */
  past: readonly Job[];
  future: readonly Job[];
  selectedStepId: string | null;
  /** The chosen step stays chosen when the playhead goes to another one. */
  pinned: boolean;
  /** Another tab works on the job: nothing is changed here. */
  readOnly: boolean;
}

const initial: JobState = {
  job: null,
  revision: 0,
  past: [],
  future: [],
  selectedStepId: null,
  pinned: false,
  readOnly: false,
};

export const JobActions = createActionGroup({
  source: 'Job',
  events: {
    /** Another job is opened; nothing of the one before can be undone. */
    Opened: props<{ job: Job; readOnly?: boolean; toWorkOut?: boolean }>(),
    /** The job was changed by a person. */
    Changed: props<{ job: Job; selectStepId?: string | null }>(),
    Undo: emptyProps(),
    Redo: emptyProps(),
    'Step selected': props<{ stepId: string | null }>(),
    'Pin toggled': emptyProps(),
    /** Another tab took the job over, or gave it back. */
    'Read only set': props<{ readOnly: boolean }>(),
  },
});

function selectable(job: Job, stepId: string | null): string | null {
  return job.steps.some((s) => s.id === stepId) ? stepId : (job.steps[0]?.id ?? null);
}

function wordsOf(before: Job | null | undefined, after: Job | null | undefined): string {
  return before && after ? changeWords(before, after) : '';
}

export const jobFeature = createFeature({
  name: 'job',
  reducer: createReducer(
    initial,
    on(JobActions.opened, ({ revision }, { job, readOnly }): JobState => ({
      ...initial,
      job,
      revision: revision + 1,
      selectedStepId: job.steps[0]?.id ?? null,
      readOnly: readOnly ?? false,
    })),
    on(JobActions.changed, (state, { job, selectStepId }): JobState => {
      if (!state.job || state.job === job || state.readOnly) return state;
      return {
        ...state,
        job,
        revision: state.revision + 1,
        past: [...state.past, state.job].slice(-UNDO_DEPTH),
        future: [],
        selectedStepId: selectable(job, selectStepId === undefined ? state.selectedStepId : selectStepId),
      };
    }),
    on(JobActions.undo, (state): JobState => {
      const before = state.past.at(-1);
      if (!before || !state.job || state.readOnly) return state;
      return {
        ...state,
        job: before,
        revision: state.revision + 1,
        past: state.past.slice(0, -1),
        future: [...state.future, state.job],
        selectedStepId: selectable(before, state.selectedStepId),
      };
    }),
    on(JobActions.redo, (state): JobState => {
      const after = state.future.at(-1);
      if (!after || !state.job || state.readOnly) return state;
      return {
        ...state,
        job: after,
        revision: state.revision + 1,
        past: [...state.past, state.job],
        future: state.future.slice(0, -1),
        selectedStepId: selectable(after, state.selectedStepId),
      };
    }),
    on(JobActions.stepSelected, (state, { stepId }): JobState => ({ ...state, selectedStepId: stepId })),
    on(JobActions.pinToggled, (state): JobState => ({ ...state, pinned: !state.pinned })),
    // the sheet goes with the playhead
    on(PlanActions.playheadMoved, (state, { moment }): JobState =>
      state.pinned || !moment.stepId || !state.job
        ? state
        : { ...state, selectedStepId: selectable(state.job, moment.stepId) },
    ),
    on(JobActions.readOnlySet, (state, { readOnly }): JobState => ({ ...state, readOnly })),
  ),
  extraSelectors: ({ selectJob, selectPast, selectFuture, selectSelectedStepId, selectReadOnly }) => ({
    /** What would be undone and done again, in words. */
    selectUndoWords: createSelector(selectJob, selectPast, (job, past) => wordsOf(past.at(-1), job)),
    selectRedoWords: createSelector(selectJob, selectFuture, (job, future) => wordsOf(job, future.at(-1))),
    selectCanUndo: createSelector(selectPast, selectReadOnly, (past, readOnly) => past.length > 0 && !readOnly),
    selectCanRedo: createSelector(selectFuture, selectReadOnly, (future, readOnly) => future.length > 0 && !readOnly),
    selectStep: createSelector(selectJob, selectSelectedStepId, (job, id): Step | undefined =>
      job?.steps.find((s) => s.id === id),
    ),
  }),
});
