import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { debounceTime, tap } from 'rxjs';
import { sizeOf } from '@esquisse/core';
import { BenchStage } from '../bench/stage';
import { Engine } from '../engine/engine';
import { Keeper } from '../keeping/keeper';
import { JobActions, jobFeature } from './job.reducer';
import { PlanActions, planFeature } from './plan.reducer';
import { timeBefore } from './planTime';

/** Nothing was told for so long: the page has time for a picture, ms. */
const QUIET_MS = 1500;

/** Keeps the job in the browser's database after every change. */
@Injectable()
export class KeepingEffects {
  private readonly actions = inject(Actions);
  private readonly keeper = inject(Keeper);
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly stage = inject(BenchStage);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly works = this.store.selectSignal(planFeature.selectWorks);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly readOnly = this.store.selectSignal(jobFeature.selectReadOnly);

  readonly keep = createEffect(
    () =>
      this.actions.pipe(
        ofType(JobActions.changed, JobActions.undo, JobActions.redo),
        tap(() => {
          const job = this.job();
          // a demo that was changed is a job of one's own
          if (job && !this.readOnly()) void this.keeper.keep(job, { demo: undefined });
        }),
      ),
    { dispatch: false },
  );

  /** What the job looks like is noted for the list of jobs, once nothing is being calculated. */
  readonly look = createEffect(
    () =>
      this.actions.pipe(
        ofType(PlanActions.taken, PlanActions.stateTold, PlanActions.workEnded),
        debounceTime(QUIET_MS),
        tap(() => void this.noteLook()),
      ),
    { dispatch: false },
  );

  private async noteLook(): Promise<void> {
    const job = this.job();
    const boxes = this.engine.piece()?.boxes;
    if (!job || !boxes || this.readOnly() || !this.isTold() || this.works().length > 0) return;
    const time = timeBefore(job, this.summaries());
    const size = sizeOf(boxes.part) as [number, number, number];
    const fresh = this.fresh().length;
    await this.keeper.noteLook(job, { time, fresh, size, picture: await this.stage.picture() });
  }
}
