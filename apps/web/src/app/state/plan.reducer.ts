import type { Release } from '@esquisse/core';
import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { WorkName } from '../engine/engine';
import type { Moment, PlanState, StepSummary, TakenState } from '../engine/views';
import { JobActions, jobFeature } from './job.reducer';

export type Lens = 'part' | 'steel' | 'leftover' | 'region';

/** Work that goes on: what, how far (0 to 1; 0 where that is not known), and of which step. */
export interface Work {
  readonly id: WorkName;
  readonly what: string;
  readonly share: number;
  readonly stepId?: string | undefined;
}

/** What went wrong, and where it can be mended. */
export interface Trouble {
  readonly message: string;
  readonly place: 'piece' | 'crib' | 'workplan' | 'release' | 'job';
  readonly stepId?: string | undefined;
  /** Key of the value, or name of the part of the place. */
  readonly field?: string | undefined;
  /** The program itself failed: the job is offered as a file. */
  readonly isUnexpected?: boolean | undefined;
  /** It holds whatever is changed, until it is seen. */
  readonly isLasting?: boolean | undefined;
}

export interface PlanSlice {
  /** Whether the planner has taken the open job in. */
  ready: boolean;
  /** Whether the piece can be machined as it was taken. */
  fit: boolean;
  /** Number of the change that summaries and freshness were told for. */
  told: number;
  summaries: readonly StepSummary[];
  toldFresh: readonly string[];
  works: readonly Work[];
  trouble: Trouble | null;
  lens: Lens;
  moment: Moment;
  /** Whether the playhead goes to each result that comes: from a wish to calculate until somebody moves it. */
  follows: boolean;
  playing: boolean;
  released: Release | null;
}

const initial: PlanSlice = {
  ready: false,
  fit: false,
  told: 0,
  summaries: [],
  toldFresh: [],
  works: [],
  trouble: null,
  lens: 'steel',
  moment: { stepId: null, motion: 0 },
  follows: true,
  playing: false,
  released: null,
};

export const PlanActions = createActionGroup({
  source: 'Plan',
  events: {
    /** Bring the steps up to one of them up to date. */
    Calculate: props<{ through: string }>(),
    'Post and prove': emptyProps(),
    Stop: props<{ id: WorkName }>(),
    'Work told': props<{ work: Work }>(),
    'Work ended': props<{ id: WorkName }>(),
    /** The planner has taken the job in as it is after a change. */
    Taken: props<{ state: TakenState }>(),
    /** A step was brought up to date. */
    'State told': props<{ state: PlanState }>(),
    /** All that was asked for is up to date. */
    Calculated: emptyProps(),
    /** The planner's threads were started again and know nothing. */
    'Planner lost': emptyProps(),
    Failed: props<{ trouble: Trouble }>(),
    'Trouble seen': emptyProps(),
    /** Go to where a trouble can be mended. */
    'Trouble shown': props<{ trouble: Trouble }>(),
    'Lens chosen': props<{ lens: Lens }>(),
    'Playhead moved': props<{ moment: Moment }>(),
    'Play toggled': emptyProps(),
    Released: props<{ released: Release; revision: number }>(),
  },
});

/** The end of the last calculated step, or the blank. */
function endOf(summaries: readonly StepSummary[]): Moment {
  const s = summaries.at(-1);
  return s ? { stepId: s.stepId, motion: s.path.x.length - 1 } : { stepId: null, motion: 0 };
}

function stillThere(moment: Moment, summaries: readonly StepSummary[]): Moment {
  const s = summaries.find((x) => x.stepId === moment.stepId);
  return s ? { ...moment, motion: Math.min(moment.motion, s.path.x.length - 1) } : endOf(summaries);
}

function told(slice: PlanSlice, { revision, summaries, fresh }: PlanState): PlanSlice {
  // what holds for an earlier state of the job is told by nobody
  if (revision < slice.told) return slice;
  return { ...slice, told: revision, summaries, toldFresh: fresh, moment: stillThere(slice.moment, summaries) };
}

const withoutWork = (works: readonly Work[], id: WorkName): readonly Work[] => works.filter((w) => w.id !== id);

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(JobActions.opened, ({ lens, works, told: before }): PlanSlice => ({ ...initial, lens, works, told: before })),
    on(JobActions.changed, JobActions.undo, JobActions.redo, (state): PlanSlice => ({
      ...state,
      released: null,
      trouble: state.trouble?.isLasting ? state.trouble : null,
    })),
    on(PlanActions.calculate, (state): PlanSlice => ({ ...state, follows: true })),
    on(PlanActions.workTold, (state, { work }): PlanSlice => ({
      ...state,
      works: state.works.some((w) => w.id === work.id)
        ? state.works.map((w) => (w.id === work.id ? work : w))
        : [...state.works, work],
    })),
    on(PlanActions.workEnded, (state, { id }): PlanSlice => ({ ...state, works: withoutWork(state.works, id) })),
    on(PlanActions.taken, (state, { state: taken }): PlanSlice => ({
      ...told(state, taken),
      ready: true,
      fit: taken.piece !== undefined && !taken.problem,
    })),
    on(PlanActions.stateTold, (state, { state: plan }): PlanSlice => {
      const next = told(state, plan);
      if (next === state) return state;
      if (!state.follows) return next;
      const before = new Set(state.toldFresh);
      const came = next.summaries.filter((s) => next.toldFresh.includes(s.stepId) && !before.has(s.stepId));
      return came.length > 0 ? { ...next, moment: endOf(came) } : next;
    }),
    on(PlanActions.plannerLost, (state): PlanSlice => ({
      ...state,
      ready: false,
      fit: false,
      summaries: [],
      toldFresh: [],
      works: [],
      playing: false,
      released: null,
      moment: initial.moment,
    })),
    on(PlanActions.failed, (state, { trouble }): PlanSlice => ({ ...state, trouble, playing: false })),
    on(PlanActions.troubleSeen, PlanActions.troubleShown, (state): PlanSlice => ({ ...state, trouble: null })),
    on(PlanActions.lensChosen, (state, { lens }): PlanSlice => ({ ...state, lens })),
    on(PlanActions.playheadMoved, (state, { moment }): PlanSlice => ({ ...state, moment, follows: false })),
    on(PlanActions.playToggled, (state): PlanSlice => ({
      ...state,
      playing: !state.playing && state.summaries.length > 0,
    })),
    on(PlanActions.released, (state, { released, revision }): PlanSlice =>
      revision === state.told ? { ...state, released } : state,
    ),
  ),
  extraSelectors: ({ selectSummaries, selectMoment, selectTold, selectToldFresh, selectWorks, selectReady }) => {
    /** Whether what is told holds for the job as it is: between a change and the planner's answer nothing does. */
    const selectIsTold = createSelector(
      selectTold,
      selectReady,
      jobFeature.selectRevision,
      (of, ready, revision) => ready && of === revision,
    );
    return {
      selectIsTold,
      /** Steps that are up to date. */
      selectFresh: createSelector(selectIsTold, selectToldFresh, (isTold, fresh) => (isTold ? fresh : NONE)),
      selectCalculation: createSelector(selectWorks, (works) => works.find((w) => w.id === 'calculation')),
      selectTotalTime: createSelector(selectSummaries, (all) => all.reduce((t, s) => t + s.figures.time, 0)),
      selectAt: createSelector(selectSummaries, selectMoment, (all, moment) => {
        const s = all.find((x) => x.stepId === moment.stepId);
        return s ? { summary: s, motion: moment.motion } : undefined;
      }),
    };
  },
});

const NONE: readonly string[] = [];
