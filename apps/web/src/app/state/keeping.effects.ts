import { inject, Injectable } from '@angular/core';
import { messageOf } from '@esquisse/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { catchError, concatMap, EMPTY, from, of, withLatestFrom } from 'rxjs';
import { keepJob } from '../keeping/database';
import { JobActions, jobFeature } from './job.reducer';
import { PlanActions } from './plan.reducer';

/** Keeps the job in the browser's database after every change, one after another. */
@Injectable()
export class KeepingEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);

  readonly keep = createEffect(() =>
    this.actions.pipe(
      ofType(JobActions.changed, JobActions.undo, JobActions.redo),
      withLatestFrom(this.store.select(jobFeature.selectJob)),
      concatMap(([, job]) =>
        job
          ? from(keepJob(job)).pipe(
              concatMap(() => EMPTY),
              catchError((error: unknown) =>
                of(
                  PlanActions.failed({
                    trouble: {
                      message: `The change could not be kept in this browser (${messageOf(error)}). Save the job to a file now.`,
                      place: 'job',
                    },
                  }),
                ),
              ),
            )
          : EMPTY,
      ),
    ),
  );
}
