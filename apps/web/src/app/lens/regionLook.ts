import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { type Job, kindOf, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import type { RegionView } from '../engine/planner';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';

/** Where the chosen step would cut, told anew with every change; while one answer is under way only the newest wish waits. */
@Injectable({ providedIn: 'root' })
export class RegionLook {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  private readonly ready = this.store.selectSignal(planFeature.selectReady);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly work = this.store.selectSignal(planFeature.selectWork);
  private waiting?: { job: Job; stepId: string };
  private busy = false;

  /** Whether the chosen step looks for its region itself. */
  readonly has = computed(() => !!kindOf(this.step()?.kind ?? '')?.region);
  readonly view = signal<RegionView | undefined>(undefined);
  readonly problem = signal('');

  constructor() {
    effect(() => {
      const job = this.job();
      const step = this.step();
      this.fresh();
      if (!job || !step || !this.ready() || !this.has()) {
        this.waiting = undefined;
        this.view.set(undefined);
        this.problem.set('');
        return;
      }
      // while the plan is worked out its workers are busy
      if (this.work()) return;
      untracked(() => {
        this.waiting = { job, stepId: step.id };
        if (!this.busy) void this.serve();
      });
    });
  }

  private async serve(): Promise<void> {
    this.busy = true;
    while (this.waiting) {
      const { job, stepId } = this.waiting;
      this.waiting = undefined;
      try {
        const view = await this.engine.region(job, stepId);
        if (this.step()?.id !== stepId) continue;
        this.view.set(view);
        this.problem.set('');
      } catch (error) {
        this.view.set(undefined);
        this.problem.set(messageOf(error));
      }
    }
    this.busy = false;
  }
}
