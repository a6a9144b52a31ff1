import { computed, type DestroyRef, effect, inject, Injectable, signal, untracked } from '@angular/core';
import type { ExpectedStep } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { Newest } from '../shared/newest';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';

/** What the chosen step will come to with the values that it has now, told before it is calculated. */
@Injectable({ providedIn: 'root' })
export class ExpectedLook {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly fit = this.store.selectSignal(planFeature.selectFit);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly calculation = this.store.selectSignal(planFeature.selectCalculation);
  private readonly newest = new Newest((stepId: string) => this.ask(stepId));
  private readonly found = signal<{ stepId: string; job: unknown; expected: ExpectedStep } | undefined>(undefined);
  /** Sheets that stand open and show it: a new one comes before the one before it goes. */
  private readonly watchers = signal(0);
  private readonly isWatched = computed(() => this.watchers() > 0);
  readonly told = computed(() => {
    const found = this.found();
    const isOwn = found?.stepId === this.step()?.id && found?.job === this.job();
    return isOwn && this.isWatched() ? found?.expected : undefined;
  });

  constructor() {
    effect(() => {
      const step = this.step();
      this.job();
      const isWanted = this.isWatched() && step?.enabled && this.fit() && !this.fresh().includes(step.id);
      if (!isWanted) {
        this.newest.forget();
        this.found.set(undefined);
        return;
      }
      // while steps are calculated the workers are busy
      if (this.calculation() || !this.isTold()) return;
      untracked(() => {
        this.engine.stop('expectation');
        this.newest.wish(step.id);
      });
    });
  }

  /** It is told for as long as somebody shows it. */
  watch(destroy: DestroyRef): void {
    this.watchers.update((n) => n + 1);
    destroy.onDestroy(() => this.watchers.update((n) => n - 1));
  }

  private async ask(stepId: string): Promise<void> {
    const job = this.job();
    // what cannot be told is not told: the calculation says what is wrong
    const expected = await this.engine.expected(stepId).catch(() => undefined);
    if (job !== this.job()) return;
    this.found.set(expected && { stepId, job, expected });
  }
}
