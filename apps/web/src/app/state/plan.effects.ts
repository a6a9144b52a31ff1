import { inject, Injectable } from '@angular/core';
import { messageOf, type Progress } from '@esquisse/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import {
  asyncScheduler,
  catchError,
  concat,
  concatMap,
  EMPTY,
  exhaustMap,
  filter,
  from,
  map,
  merge,
  of,
  Subject,
  switchMap,
  take,
  takeUntil,
  tap,
  throttleTime,
  withLatestFrom,
} from 'rxjs';
import { Engine } from '../engine/engine';
import { JobActions, jobFeature } from './job.reducer';
import { PlanActions, planFeature, type Trouble } from './plan.reducer';

/** How far work has come is told this often at most: each time the page is put together anew, beside the work. */
const TOLD_EVERY_MS = 250;

/** Thrown errors cross from a worker as plain errors; this one only says that a person called the work off. */
function isCancelled(error: unknown): boolean {
  return (error as { code?: string }).code === 'cancelled' || messageOf(error) === 'Called off.';
}

function failed(error: unknown, place: Trouble['place']) {
  return isCancelled(error)
    ? of(PlanActions.workEnded())
    : of(PlanActions.failed({ trouble: { message: messageOf(error), place } }));
}

/** Heavy work that follows from changes and wishes. */
@Injectable()
export class PlanEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);

  readonly changed = createEffect(() =>
    this.actions.pipe(
      ofType(JobActions.changed, JobActions.undo, JobActions.redo),
      withLatestFrom(this.store.select(jobFeature.selectJob), this.store.select(planFeature.selectReady)),
      concatMap(([, job, ready]) =>
        job?.part && ready
          ? from(this.engine.prepare(job)).pipe(
              concatMap((state) => [
                PlanActions.partTakenIn({ state }),
                ...(state.problem ? [PlanActions.failed({ trouble: { message: state.problem, place: 'piece' } })] : []),
              ]),
              catchError((error: unknown) => failed(error, 'piece')),
            )
          : EMPTY,
      ),
    ),
  );

  readonly workOut = createEffect(() =>
    this.actions.pipe(
      ofType(PlanActions.workOut),
      withLatestFrom(this.store.select(jobFeature.selectJob)),
      exhaustMap(([{ last }, job]) => {
        if (!job) return EMPTY;
        this.store.dispatch(PlanActions.workBegan({ work: { what: 'Working out', share: 0, stepId: null } }));
        const told = new Subject<Progress>();
        const ended = this.engine.workOut(job, last, (progress) => told.next(progress));
        return merge(
          told.pipe(
            throttleTime(TOLD_EVERY_MS, asyncScheduler, { leading: true, trailing: true }),
            takeUntil(ended.catch(() => undefined)),
            map(({ stepId, what, share }) => {
              const number = job.steps.findIndex((s) => s.id === stepId) + 1;
              return PlanActions.workBegan({ work: { what: `step ${number} · ${what}`, share, stepId } });
            }),
          ),
          from(ended).pipe(
            concatMap((state) => [PlanActions.workedOut({ state, last }), PlanActions.workEnded()]),
            catchError((error: unknown) =>
              from(this.engine.update(job)).pipe(
                switchMap((state) => concat(of(PlanActions.stateTold({ state })), failed(error, 'workplan'))),
              ),
            ),
          ),
        );
      }),
    ),
  );

  /** What was worked out at an earlier visit is shown again: paths are kept, the steel is run along them anew. */
  readonly shownAgain = createEffect(() =>
    this.actions.pipe(
      ofType(JobActions.opened),
      switchMap(({ job }) =>
        this.actions.pipe(
          ofType(PlanActions.partTakenIn),
          take(1),
          switchMap(() => this.actions.pipe(ofType(PlanActions.workEnded, PlanActions.failed), take(1))),
          filter(({ type }) => type === PlanActions.workEnded.type),
          switchMap(() => this.engine.keptThrough(job)),
          switchMap((last) => (last >= 0 ? of(PlanActions.workOut({ last })) : EMPTY)),
          // a job that cannot be machined has nothing to show
          catchError(() => EMPTY),
        ),
      ),
    ),
  );

  readonly release = createEffect(() =>
    this.actions.pipe(
      ofType(PlanActions.postAndProve),
      withLatestFrom(this.store.select(jobFeature.selectJob)),
      exhaustMap(([, job]) => {
        if (!job) return EMPTY;
        this.store.dispatch(
          PlanActions.workBegan({ work: { what: 'posting and reading back', share: 0, stepId: null } }),
        );
        return from(this.engine.release(job)).pipe(
          concatMap((released) => [PlanActions.released({ released }), PlanActions.workEnded()]),
          catchError((error: unknown) => failed(error, 'release')),
        );
      }),
    ),
  );

  readonly cancel = createEffect(
    () =>
      this.actions.pipe(
        ofType(PlanActions.cancel),
        tap(() => this.engine.cancel()),
      ),
    { dispatch: false },
  );
}
