import { inject, Injectable } from '@angular/core';
import { EsquisseError, isCancelled, messageOf, type Progress, stepsOn } from '@esquisse/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { type Action, Store } from '@ngrx/store';
import {
  asyncScheduler,
  catchError,
  concat,
  concatMap,
  defer,
  EMPTY,
  filter,
  finalize,
  from,
  map,
  merge,
  mergeMap,
  type Observable,
  of,
  Subject,
  switchMap,
  take,
  takeUntil,
  tap,
  throttleTime,
} from 'rxjs';
import { Engine } from '../engine/engine';
import { Jobs } from '../keeping/jobs';
import { JobActions, jobFeature } from './job.reducer';
import { PlanActions, planFeature, type Trouble } from './plan.reducer';
import { Told } from './told';

/** How far work has come is told this often at most: each time the page is put together anew, beside the work. */
const TOLD_EVERY_MS = 250;

/** What is told of an error; nothing when work was only called off, or when the loss of its thread is told by itself. */
function failed(error: unknown, place: Trouble['place']): Observable<Action> {
  if (isCancelled(error)) return EMPTY;
  const { code, place: field, stepId } = error instanceof EsquisseError ? error : ({} as Partial<EsquisseError>);
  if (code === 'worker-lost') return EMPTY;
  return of(PlanActions.failed({ trouble: { message: messageOf(error), place, field, stepId } }));
}

/** Heavy work that follows from changes and wishes. */
@Injectable()
export class PlanEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly jobs = inject(Jobs);
  private readonly told = inject(Told);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly revision = this.store.selectSignal(jobFeature.selectRevision);
  /** Number of the change that the planner was told last; 0 when it knows of none. */
  private sent = 0;
  /** Calculations that were asked for and have not ended. */
  private calculations = 0;

  /** The planner is told of the job after every change; of changes that came while it was busy, of the last one. */
  readonly take = createEffect(() =>
    this.actions.pipe(
      ofType(JobActions.opened, JobActions.changed, JobActions.undo, JobActions.redo, PlanActions.plannerLost),
      tap(({ type }) => {
        if (type === PlanActions.plannerLost.type) this.sent = 0;
      }),
      concatMap(() => defer(() => this.takeNow())),
    ),
  );

  private takeNow(): Observable<Action> {
    const job = this.job();
    const revision = this.revision();
    if (!job || revision === this.sent) return EMPTY;
    this.sent = revision;
    return from(this.jobs.readAgain(job).then(() => this.engine.take(job, revision))).pipe(
      concatMap((state) => [
        PlanActions.taken({ state }),
        ...(state.problem
          ? [PlanActions.failed({ trouble: { message: state.problem, place: 'piece', field: 'blank' } })]
          : []),
      ]),
      catchError((error: unknown) => {
        this.sent = 0;
        return failed(error, 'piece');
      }),
    );
  }

  readonly calculate = createEffect(() =>
    this.actions.pipe(
      ofType(PlanActions.calculate),
      mergeMap(({ through }) => {
        const job = this.job();
        if (!job) return EMPTY;
        this.calculations++;
        this.store.dispatch(PlanActions.workTold({ work: { id: 'calculation', what: 'Calculating', share: 0 } }));
        return this.told.once.pipe(
          switchMap(() => this.calculated(job.id, through)),
          catchError((error: unknown) => failed(error, 'workplan')),
          finalize(() => {
            if (--this.calculations === 0) this.store.dispatch(PlanActions.workEnded({ id: 'calculation' }));
          }),
        );
      }),
    ),
  );

  private calculated(jobId: string, through: string): Observable<Action> {
    const told = new Subject<Progress>();
    const ended = this.engine.calculate(
      jobId,
      through,
      (progress) => told.next(progress),
      (state) => this.store.dispatch(PlanActions.stateTold({ state })),
    );
    // what is told on the way may be overtaken by the end: that tells how the plan stands itself
    const end = from(ended).pipe(map((state) => PlanActions.stateTold({ state })));
    const over = from(ended.catch(() => undefined));
    const work = merge(
      told.pipe(
        throttleTime(TOLD_EVERY_MS, asyncScheduler, { leading: true, trailing: true }),
        takeUntil(over),
        map(({ stepId, what, share }) => {
          const number = (this.job()?.steps.findIndex((s) => s.id === stepId) ?? -1) + 1;
          return PlanActions.workTold({
            work: { id: 'calculation', what: number > 0 ? `step ${number} · ${what}` : what, share, stepId },
          });
        }),
      ),
      end,
    );
    return concat(
      work,
      defer(() => this.calculatedForChanges(jobId, through)),
    );
  }

  /** What was changed while it was calculated, and came to the planner after it had ended, is calculated as well. */
  private calculatedForChanges(jobId: string, through: string): Observable<Action> {
    if (this.store.selectSignal(planFeature.selectIsTold)()) return EMPTY;
    return this.told.once.pipe(
      switchMap(() => {
        const job = this.job();
        const isLeft =
          job?.id === jobId &&
          job.steps.some((s) => s.id === through) &&
          stepsOn(job, through).some((s) => !this.fresh().includes(s.id));
        return isLeft ? this.calculated(jobId, through) : EMPTY;
      }),
    );
  }

  /**
   * What was calculated at an earlier visit is shown again: paths are kept, the steel is run along them anew. A job that is to
   * work itself out is calculated whole.
   */
  readonly shownAgain = createEffect(() =>
    this.actions.pipe(
      ofType(JobActions.opened, PlanActions.plannerLost),
      switchMap((action) =>
        this.actions.pipe(
          ofType(PlanActions.taken),
          take(1),
          filter(({ state }) => state.hasPiece && !state.problem),
          switchMap(() =>
            'toWorkOut' in action && action.toWorkOut ? of(stepsOn(action.job).at(-1)?.id) : this.engine.keptThrough(),
          ),
          switchMap((through) => (through === undefined ? EMPTY : of(PlanActions.calculate({ through })))),
          catchError(() => EMPTY),
        ),
      ),
    ),
  );

  readonly release = createEffect(() =>
    this.actions.pipe(
      ofType(PlanActions.postAndProve),
      switchMap(() => {
        if (!this.job()) return EMPTY;
        const tell = (share: number): void =>
          this.store.dispatch(PlanActions.workTold({ work: { id: 'release', what: 'proving the program', share } }));
        tell(0);
        return this.told.once.pipe(
          switchMap(() => {
            const revision = this.revision();
            return from(this.engine.release(tell)).pipe(
              map((released) => PlanActions.released({ released, revision })),
            );
          }),
          catchError((error: unknown) => failed(error, 'release')),
          finalize(() => this.store.dispatch(PlanActions.workEnded({ id: 'release' }))),
        );
      }),
    ),
  );

  readonly stop = createEffect(
    () =>
      this.actions.pipe(
        ofType(PlanActions.stop),
        tap(({ id }) => this.engine.stop(id)),
      ),
    { dispatch: false },
  );

  readonly lost = createEffect(() =>
    this.engine.lost.pipe(
      concatMap((error) => [
        PlanActions.plannerLost(),
        PlanActions.failed({
          trouble: { message: error.message, place: 'workplan' },
        }),
      ]),
    ),
  );
}
