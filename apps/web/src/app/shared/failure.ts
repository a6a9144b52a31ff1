import { ErrorHandler, inject, Injectable, Injector } from '@angular/core';
import { EsquisseError, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions } from '../state/plan.reducer';

/** Tells of what should not have happened, instead of going on as if nothing had; the job is offered as a file. */
@Injectable()
export class Failure implements ErrorHandler {
  private readonly injector = inject(Injector);
  private telling = false;

  handleError(error: unknown): void {
    console.error(error);
    // whoever tells of it may fail as well
    if (this.telling) return;
    this.telling = true;
    try {
      const message =
        error instanceof EsquisseError ? error.message : `Something failed that should not: ${messageOf(error)}.`;
      this.injector
        .get(Store)
        .dispatch(
          PlanActions.failed({ trouble: { message, place: 'job', isUnexpected: !(error instanceof EsquisseError) } }),
        );
    } finally {
      this.telling = false;
    }
  }
}
