import { inject, Injectable } from '@angular/core';
import { EsquisseError, type Job, parseJob, withFollowingData } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { JobActions, jobFeature } from './job.reducer';

/** The one way by which the interface changes the job: checked whole before it is taken. */
@Injectable({ providedIn: 'root' })
export class Editor {
  private readonly store = inject(Store);
  readonly job = this.store.selectSignal(jobFeature.selectJob);

  /** Takes a changed job; gives the sentence that says why not, or undefined when it was taken. */
  change(change: (job: Job) => Job, selectStepId?: string | null): string | undefined {
    const job = this.job();
    if (!job) return 'No job is open.';
    try {
      // speeds and feeds that follow a cut go with whatever it was worked out from
      const next = parseJob(withFollowingData(parseJob(change(job), 'The job')), 'The job');
      if (JSON.stringify(next) === JSON.stringify(job)) return undefined;
      this.store.dispatch(JobActions.changed(selectStepId === undefined ? { job: next } : { job: next, selectStepId }));
      return undefined;
    } catch (error) {
      if (!(error instanceof EsquisseError)) throw error;
      return error.message.replace(/^The job: [^:]*: /, '');
    }
  }
}
