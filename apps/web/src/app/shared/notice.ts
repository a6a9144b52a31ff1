import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Store } from '@ngrx/store';
import { skip, take } from 'rxjs';
import { JobActions, jobFeature } from '../state/job.reducer';

/** How long a notice stays, ms. */
const STAYS_MS = 6000;

/** Short notices of what was done, below the page: nothing needs to be answered. */
@Injectable({ providedIn: 'root' })
export class Notice {
  private readonly bar = inject(MatSnackBar);
  private readonly store = inject(Store);

  /** Tells what was done. */
  tell(what: string): void {
    this.bar.open(what, undefined, { duration: STAYS_MS });
  }

  /** Tells what was done, with a button that undoes it. */
  undoable(what: string, undo: () => void): void {
    this.bar.open(what, 'Undo', { duration: STAYS_MS }).onAction().subscribe(undo);
  }

  /** Tells that something was taken away, with a button that brings it back; it goes with the next change of the job. */
  removed(what: string): void {
    const notice = this.bar.open(`${what} removed`, 'Undo', { duration: STAYS_MS });
    notice.onAction().subscribe(() => this.store.dispatch(JobActions.undo()));
    const next = this.store.select(jobFeature.selectRevision).pipe(skip(1), take(1));
    const watch = next.subscribe(() => notice.dismiss());
    notice.afterDismissed().subscribe(() => watch.unsubscribe());
  }
}
