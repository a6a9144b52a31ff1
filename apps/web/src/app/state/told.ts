import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { filter, firstValueFrom, type Observable, take } from 'rxjs';
import { planFeature } from './plan.reducer';

/** Whether the planner knows the job as it is: what it is asked before it does, it answers for an earlier state. */
@Injectable({ providedIn: 'root' })
export class Told {
  private readonly store = inject(Store);

  /** Emits once, when the planner knows the job as it is. */
  readonly once: Observable<boolean> = this.store.select(planFeature.selectIsTold).pipe(filter(Boolean), take(1));

  async wait(): Promise<void> {
    await firstValueFrom(this.once);
  }
}
