import type { Release } from '@esquisse/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { Moment, PlanState, StepSummary } from '../engine/planner';
import { JobActions } from './job.reducer';

export type Lens = 'part' | 'steel' | 'leftover' | 'region';

/** Work that is going on: what, how far (0 to 1). */
export interface Work {
  what: string;
  share: number;
  stepId: string | null;
}

/** What went wrong, where, and in which place it can be mended. */
export interface Trouble {
  message: string;
  place: 'piece' | 'crib' | 'workplan' | 'release' | 'job';
  stepId?: string;
}

export interface PlanSlice {
  /** Whether part and block are taken in. */
  ready: boolean;
  summaries: StepSummary[];
  fresh: string[];
  work: Work | null;
  trouble: Trouble | null;
  lens: Lens;
  moment: Moment;
  playing: boolean;
  released: Release | null;
}

const initial: PlanSlice = {
  ready: false,
  summaries: [],
  fresh: [],
  work: null,
  trouble: null,
  lens: 'steel',
  moment: { stepId: null, motion: 0 },
  playing: false,
  released: null,
};

export const PlanActions = createActionGroup({
  source: 'Plan',
  events: {
    'Work out': props<{ last: number }>(),
    'Post and prove': emptyProps(),
    Cancel: emptyProps(),
    'Work began': props<{ work: Work }>(),
    'Work ended': emptyProps(),
    'Part taken in': props<{ state: PlanState }>(),
    'State told': props<{ state: PlanState }>(),
    'Worked out': props<{ state: PlanState; last: number }>(),
    Failed: props<{ trouble: Trouble }>(),
    'Trouble seen': emptyProps(),
    'Lens chosen': props<{ lens: Lens }>(),
    'Playhead moved': props<{ moment: Moment }>(),
    'Play toggled': emptyProps(),
    Released: props<{ released: Release }>(),
  },
});

/** The end of the last worked-out step, or the full block. */
function endOf(summaries: readonly StepSummary[], stepId?: string): Moment {
  const s = stepId ? summaries.find((x) => x.stepId === stepId) : summaries[summaries.length - 1];
  return s ? { stepId: s.stepId, motion: s.path.x.length - 1 } : { stepId: null, motion: 0 };
}

function stillThere(moment: Moment, summaries: readonly StepSummary[]): Moment {
  const s = summaries.find((x) => x.stepId === moment.stepId);
  return s ? { ...moment, motion: Math.min(moment.motion, s.path.x.length - 1) } : endOf(summaries);
}

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(JobActions.opened, (state): PlanSlice => ({ ...initial, lens: state.lens })),
    on(JobActions.changed, JobActions.undo, JobActions.redo, (state): PlanSlice => ({
      ...state,
      released: null,
      trouble: null,
    })),
    on(PlanActions.workBegan, (state, { work }): PlanSlice => ({ ...state, work })),
    on(PlanActions.workEnded, (state): PlanSlice => ({ ...state, work: null })),
    on(PlanActions.partTakenIn, (state, { state: told }): PlanSlice => ({
      ...state,
      ready: true,
      summaries: told.summaries,
      fresh: told.fresh,
      moment: stillThere(state.moment, told.summaries),
    })),
    on(PlanActions.stateTold, (state, { state: told }): PlanSlice => ({
      ...state,
      summaries: told.summaries,
      fresh: told.fresh,
      moment: stillThere(state.moment, told.summaries),
    })),
    on(PlanActions.workedOut, (state, { state: told }): PlanSlice => ({
      ...state,
      summaries: told.summaries,
      fresh: told.fresh,
      moment: endOf(told.summaries.filter((s) => told.fresh.includes(s.stepId))),
    })),
    on(PlanActions.failed, (state, { trouble }): PlanSlice => ({ ...state, trouble, work: null, playing: false })),
    on(PlanActions.troubleSeen, (state): PlanSlice => ({ ...state, trouble: null })),
    on(PlanActions.lensChosen, (state, { lens }): PlanSlice => ({ ...state, lens })),
    on(PlanActions.playheadMoved, (state, { moment }): PlanSlice => ({ ...state, moment })),
    on(PlanActions.playToggled, (state): PlanSlice => ({
      ...state,
      playing: !state.playing && state.summaries.length > 0,
    })),
    on(PlanActions.released, (state, { released }): PlanSlice => ({ ...state, released })),
  ),
  extraSelectors: ({ selectSummaries, selectMoment }) => ({
    selectTotalTime: createSelector(selectSummaries, (all) => all.reduce((t, s) => t + s.figures.time, 0)),
    selectAt: createSelector(selectSummaries, selectMoment, (all, moment) => {
      const s = all.find((x) => x.stepId === moment.stepId);
      return s ? { summary: s, motion: moment.motion } : undefined;
    }),
  }),
});
