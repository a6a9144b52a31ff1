import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { RegionLook } from '../lens/regionLook';
import { mm } from '../shared/numbers';
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
          <span>thicker than {{ mm(r.threshold, 3) }} mm</span
          ><span class="number">{{ mm(r.area / 100, 2) }} cm², {{ mm(r.volume / 1000, 3) }} cm³</span>
        } @else {
          <span>{{ region.problem() || 'Looking for the region …' }}</span>
        }
      </div>
      @if (region.view()?.stairs; as stairs) {
        <p class="pencil stairs" role="note" data-testid="stairs">
          {{ mm(stairs.area / 100, 2) }} cm² of it are stairs of up to {{ mm(stairs.most, 2) }} mm that steps before
          leave on purpose.
          <button matButton class="plain" (click)="leave(stairs.threshold)">
            leave them: {{ mm(stairs.threshold, 2) }} mm
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
  protected readonly mm = mm;

  protected leave(threshold: number): void {
    const step = this.chosen.step();
    if (step) this.chosen.make(step.id, 'threshold', threshold);
  }
}
