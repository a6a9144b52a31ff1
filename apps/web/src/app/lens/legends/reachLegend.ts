import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { css, rampColour } from '../../bench/palette';
import { Histogram } from '../../shared/histogram';
import { figure } from '../../shared/numbers';
import { Theme } from '../../shared/theme';
import { length, unitOf } from '../../shared/units';
import { LensData } from '../lensData';
import { barsOf } from './bars';

/** How far the cutter of the chosen step has to stand out over the part. */
@Component({
  selector: 'esq-reach-legend',
  imports: [Histogram],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
    @if (data.reach(); as r) {
      <h3 class="pencil">Stick-out that the chosen cutter needs</h3>
      <esq-histogram [bars]="reachBars()" label="Histogram of the needed stick-out" [brush]="undefined" told="" />
      <dl class="figures">
        <div class="row">
          <dt>needs</dt>
          <dd class="number">
            {{ length(r.most, 1) }} <span class="unit">{{ unitOf('mm') }}</span>
          </dd>
        </div>
        <div class="row">
          <dt>stands out</dt>
          <dd class="number" [class.wrong]="r.most > r.stickOut">
            {{ length(r.stickOut, 1) }} <span class="unit">{{ unitOf('mm') }}</span>
          </dd>
        </div>
        <div class="row">
          <dt>reaches</dt>
          <dd class="number">{{ percent1(r.reached) }}</dd>
        </div>
      </dl>
      <p class="pencil note">With the cutter down on the part and room for its holder. Red is out of reach.</p>
    }
  `,
})
export class ReachLegend {
  private readonly theme = inject(Theme);
  protected readonly data = inject(LensData);
  protected readonly length = length;
  protected readonly unitOf = unitOf;
  protected readonly percent1 = (share: number): string => `${figure(100 * share, 1)} %`;

  /** Those that the assembly does not have stand out. */
  protected readonly reachBars = computed(() => {
    const r = this.data.reach();
    if (!r) return [];
    const high = Math.max(1, r.most);
    const { sanguine } = this.theme.palette();
    const colourAt = (value: number): string => (value > r.stickOut ? sanguine : css(rampColour(value / high)));
    return barsOf(r.bins, [0, high], colourAt, (value) => length(value, 0));
  });
}
