import { inject, Injectable } from '@angular/core';
import { EsquisseError, isCancelled, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { PlanActions, type Trouble } from './plan.reducer';

/** Does what may fail: what goes wrong is told at the place where it can be mended. */
@Injectable({ providedIn: 'root' })
export class Guard {
  private readonly store = inject(Store);

  async run(place: Trouble['place'], work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (isCancelled(error)) return;
      const field = error instanceof EsquisseError ? error.place : undefined;
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place, field } }));
    }
  }
}
