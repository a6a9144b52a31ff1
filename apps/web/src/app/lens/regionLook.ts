import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { isCancelled, kindOf, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import type { RegionView } from '../engine/views';
import { Newest } from '../shared/newest';
import { Looking } from './looking';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';

/** Where the chosen step would cut, told anew with every change; while one answer is under way only the newest wish waits. */
@Injectable({ providedIn: 'root' })
export class RegionLook {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  private readonly fit = this.store.selectSignal(planFeature.selectFit);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly calculation = this.store.selectSignal(planFeature.selectCalculation);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly looking = inject(Looking);
  private readonly newest = new Newest((stepId: string) => this.look(stepId));

  /** Whether the chosen step looks for its region itself. */
  readonly has = computed(() => !!kindOf(this.step()?.kind ?? '')?.hasRegion);
  readonly view = signal<RegionView | undefined>(undefined);
  readonly problem = signal('');

  constructor() {
    effect(() => {
      const job = this.job();
      const step = this.step();
      this.fresh();
      if (!job || !step || !this.fit() || !this.has()) {
        this.newest.forget();
        this.view.set(undefined);
        this.problem.set('');
        return;
      }
      // while steps are calculated the workers are busy, and what is not given is not known yet
      if (this.calculation() || !this.isTold()) return;
      untracked(() => {
        this.engine.stop('region');
        this.newest.wish(step.id);
      });
    });
  }

  private async look(stepId: string): Promise<void> {
    try {
      const view = await this.looking.watch('region', 'region of the step', (onProgress) =>
        this.engine.region(stepId, onProgress),
      );
      if (this.step()?.id !== stepId) return;
      this.view.set(view);
      this.problem.set('');
    } catch (error) {
      this.view.set(undefined);
      this.problem.set(isCancelled(error) ? 'Stopped.' : messageOf(error));
    }
  }
}
