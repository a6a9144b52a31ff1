import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { length, unitOf } from '../shared/units';
import { planFeature } from '../state/plan.reducer';

/** What the two lines of the leftover curve are, and where it ends. */
@Component({
  selector: 'esq-leftover-legend',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (most() !== undefined) {
      <span aria-hidden="true"
        ><span class="wide">left over: </span><b>largest</b> <b class="median">median</b> to
        <span class="mono">{{ length(most()!, 2) }}</span> {{ unitOf('mm') }}</span
      >
    }
  `,
  styles: `
    :host {
      color: var(--pencil);
      font-size: 12px;
      white-space: nowrap;
    }
    b {
      margin-right: 4px;
      font-weight: 400;
      border-bottom: 1.5px solid var(--indigo);
    }
    @media (max-width: 1400px) {
      .wide {
        display: none;
      }
    }
    .median {
      border-bottom: 1.5px dotted var(--pencil);
    }
  `,
})
export class LeftoverLegend {
  protected readonly length = length;
  protected readonly unitOf = unitOf;
  private readonly summaries = inject(Store).selectSignal(planFeature.selectSummaries);

  protected readonly most = computed(() => {
    const all = this.summaries().map((s) => s.figures.leftover.largest);
    return all.length > 0 ? Math.max(...all) : undefined;
  });
}
