import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { tap } from 'rxjs';
import { Keeper } from '../keeping/keeper';
import { JobActions, jobFeature } from './job.reducer';

/** Keeps the job in the browser's database after every change. */
@Injectable()
export class KeepingEffects {
  private readonly actions = inject(Actions);
  private readonly keeper = inject(Keeper);
  private readonly store = inject(Store);
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
}
