import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RegionLook } from '../lens/regionLook';
import { area, length, told, unitOf, volume } from '../shared/units';
import { ChosenStep } from './chosenStep';

/** Where the chosen step would cut, for kinds that look for that themselves, and how much of it are stairs left on purpose. */
@Component({
  selector: 'esq-step-region',
  imports: [MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (region.has()) {
      <div class="row pencil" data-testid="region" aria-live="polite">
        @if (region.view(); as r) {
          <span>thicker than {{ length(r.threshold) }} {{ unitOf('mm') }}</span
          ><span class="number"
            >{{ area(r.area, 2) }} {{ unitOf('cm²') }}, {{ volume(r.volume, 3) }} {{ unitOf('cm³') }}</span
          >
        } @else {
          <span>{{ told(region.problem()) || 'Looking for the region …' }}</span>
        }
      </div>
      @if (region.view()?.stairs; as stairs) {
        <p class="pencil stairs" role="note" data-testid="stairs">
          {{ area(stairs.area, 2) }} {{ unitOf('cm²') }} of it are stairs of up to {{ length(stairs.most, 2) }}
          {{ unitOf('mm') }} that steps before leave on purpose.
          <button matButton class="plain" (click)="leave(stairs.threshold)">
            leave them: {{ length(stairs.threshold, 2) }} {{ unitOf('mm') }}
          </button>
        </p>
      }
    }
  `,
  styles: `
    .row,
    .stairs {
      font-size: 12px;
    }
    .row span {
      font-size: 12px;
    }
    .number {
      white-space: nowrap;
    }
    .stairs {
      margin: 0 0 6px;
    }
    .stairs button {
      color: var(--indigo);
      padding: 0;
    }
  `,
})
export class StepRegion {
  protected readonly region = inject(RegionLook);
  protected readonly chosen = inject(ChosenStep);
  protected readonly area = area;
  protected readonly length = length;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  protected readonly volume = volume;

  protected leave(threshold: number): void {
    const step = this.chosen.step();
    if (step) this.chosen.make(step.id, 'threshold', threshold);
  }
}
