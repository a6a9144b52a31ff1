import { ChangeDetectionStrategy, Component, DestroyRef, inject } from '@angular/core';
import { ExpectedLook } from '../lens/expectedLook';
import { clock } from '../shared/numbers';
import { length, shown, unitOf } from '../shared/units';

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
        @if (e.sketch; as sketch) {
          <div class="row">
            <span>Drawn on the part</span>
            <span>{{ sketch.every > 1 ? 'one pass of ' + sketch.every : 'its pattern' }}</span>
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
  private readonly look = inject(ExpectedLook);
  protected readonly told = this.look.told;
  protected readonly clock = clock;
  protected readonly length = length;
  protected readonly shown = shown;
  protected readonly unitOf = unitOf;

  constructor() {
    this.look.watch(inject(DestroyRef));
  }
}
