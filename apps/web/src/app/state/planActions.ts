import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { WorkName } from '../engine/engine';
import type { Moment, PlanState, Posted, TakenState } from '../engine/views';

import type { Lens } from '../lens/lenses';

export type { Lens };

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
    /** A step was brought up to date, or all that was asked for. */
    'State told': props<{ state: PlanState }>(),
    /** The planner's threads were started again and know nothing. */
    'Planner lost': emptyProps(),
    Failed: props<{ trouble: Trouble }>(),
    'Trouble seen': emptyProps(),
    /** Go to where a trouble can be mended. */
    'Trouble shown': props<{ trouble: Trouble }>(),
    'Lens chosen': props<{ lens: Lens }>(),
    'Playhead moved': props<{ moment: Moment }>(),
    'Play toggled': emptyProps(),
    Released: props<{ released: Posted; revision: number }>(),
  },
});
