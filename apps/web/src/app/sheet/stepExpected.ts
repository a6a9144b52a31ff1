import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import type { ExpectedStep } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { Newest } from '../shared/newest';
import { clock } from '../shared/numbers';
import { length, shown, unitOf } from '../shared/units';
import { jobFeature } from '../state/job.reducer';
import { planFeature } from '../state/plan.reducer';
import { ChosenStep } from './chosenStep';

/** What the chosen step will come to with the values that it has now, told before it is calculated. */
@Component({
  selector: 'esq-step-expected',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (told(); as e) {
      <div class="expected" data-testid="expected" role="group" aria-label="Before it is calculated">
        @if (e.levels; as levels) {
          <div class="row">
            <span>Levels, and most between them</span>
            <span class="number"
              >{{ levels.count }}, {{ length(levels.apart, 2) }} <span class="unit">{{ unitOf('mm') }}</span></span
            >
          </div>
        }
        @if (e.apart; as apart) {
          <div class="row">
            <span>Passes apart, median / nearest</span>
            <span class="number"
              >{{ length(apart.middle) }} / {{ length(apart.nearest) }}
              <span class="unit">{{ unitOf('mm') }}</span></span
            >
          </div>
        }
        @if (e.ridges !== undefined) {
          <div class="row">
            <span>Ridges, 99 % below</span>
            <span class="number"
              >{{ length(e.ridges, 4) }} <span class="unit">{{ unitOf('mm') }}</span></span
            >
          </div>
        }
        @if (e.length !== undefined && e.time !== undefined) {
          <div class="row">
            <span>Will cut about</span>
            <span class="number"
              >{{ shown(e.length / 1000, 'm', 1) }} <span class="unit">{{ unitOf('m') }}</span>,
              {{ clock(e.time) }}</span
            >
          </div>
        }
      </div>
    }
  `,
  styles: `
    .expected {
      color: var(--indigo);
      margin-bottom: 4px;
    }
  `,
})
export class StepExpected {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly chosen = inject(ChosenStep);
  private readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly fit = this.store.selectSignal(planFeature.selectFit);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly calculation = this.store.selectSignal(planFeature.selectCalculation);
  private readonly newest = new Newest((stepId: string) => this.ask(stepId));
  private readonly found = signal<{ stepId: string; job: unknown; expected: ExpectedStep } | undefined>(undefined);
  protected readonly told = computed(() => {
    const found = this.found();
    const isOwn = found?.stepId === this.chosen.step()?.id && found?.job === this.job();
    return isOwn ? found?.expected : undefined;
  });
  protected readonly clock = clock;
  protected readonly length = length;
  protected readonly shown = shown;
  protected readonly unitOf = unitOf;

  constructor() {
    effect(() => {
      const step = this.chosen.step();
      this.job();
      const isWanted = step?.enabled && this.fit() && !this.fresh().includes(step.id);
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

  private async ask(stepId: string): Promise<void> {
    const job = this.job();
    // what cannot be told is not told: the calculation says what is wrong
    const expected = await this.engine.expected(stepId).catch(() => undefined);
    if (job !== this.job()) return;
    this.found.set(expected && { stepId, job, expected });
  }
}
