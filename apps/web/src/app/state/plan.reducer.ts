import { createFeature, createReducer, createSelector, on } from '@ngrx/store';
import type { WorkName } from '../engine/engine';
import type { Moment, PlanState, Posted, StepSummary } from '../engine/views';
import { JobActions, jobFeature } from './job.reducer';
import { type Lens, PlanActions, type Trouble, type Work } from './planActions';

export type { Lens, Trouble, Work } from './planActions';
export { PlanActions } from './planActions';

export interface PlanSlice {
  /** Whether the planner has taken the open job in. */
  ready: boolean;
  /** Whether the piece can be machined as it was taken. */
  fit: boolean;
  /** Number of the change that summaries and freshness were told for. */
  told: number;
  /** Number of what the planner told of them last. */
  serial: number;
  summaries: readonly StepSummary[];
  toldFresh: readonly string[];
  works: readonly Work[];
  trouble: Trouble | null;
  lens: Lens;
  moment: Moment;
  /** Whether the playhead goes to each result that comes: from a wish to calculate until somebody moves it. */
  follows: boolean;
  playing: boolean;
  released: Posted | null;
}

const initial: PlanSlice = {
  ready: false,
  fit: false,
  told: 0,
  serial: 0,
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

/** The end of the last calculated step, or the blank. */
function endOf(summaries: readonly StepSummary[]): Moment {
  const s = summaries.at(-1);
  return s ? { stepId: s.stepId, motion: s.motions - 1 } : { stepId: null, motion: 0 };
}

function stillThere(moment: Moment, summaries: readonly StepSummary[]): Moment {
  const s = summaries.find((x) => x.stepId === moment.stepId);
  return s ? { ...moment, motion: Math.min(moment.motion, s.motions - 1) } : endOf(summaries);
}

function told(slice: PlanSlice, { revision, serial, summaries, fresh }: PlanState): PlanSlice {
  // what holds for an earlier state of the job, or was overtaken, is told by nobody
  if (revision < slice.told || serial < slice.serial) return slice;
  return { ...slice, told: revision, serial, summaries, toldFresh: fresh, moment: stillThere(slice.moment, summaries) };
}

const withoutWork = (works: readonly Work[], id: WorkName): readonly Work[] => works.filter((w) => w.id !== id);

export const planFeature = createFeature({
  name: 'plan',
  reducer: createReducer(
    initial,
    on(JobActions.opened, ({ lens, works, told: before, serial }): PlanSlice => ({
      ...initial,
      lens,
      works,
      told: before,
      serial,
    })),
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
      fit: taken.hasPiece && !taken.problem,
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
      serial: 0,
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
      selectAt: createSelector(selectSummaries, selectMoment, (all, moment) => {
        const s = all.find((x) => x.stepId === moment.stepId);
        return s ? { summary: s, motion: moment.motion } : undefined;
      }),
    };
  },
});

const NONE: readonly string[] = [];
