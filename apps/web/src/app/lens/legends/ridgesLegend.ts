import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MISSED_SHARE } from '@esquisse/core';
import { css, leftoverColour } from '../../bench/palette';
import { Histogram } from '../../shared/histogram';
import { figure } from '../../shared/numbers';
import { Theme } from '../../shared/theme';
import { length, unitOf } from '../../shared/units';
import { LensData } from '../lensData';
import { barsOf } from './bars';

/** Ridges that the chosen step leaves. */
@Component({
  selector: 'esq-ridges-legend',
  imports: [Histogram],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
    @if (data.ridges(); as r) {
      <h3 class="pencil">Ridges that the chosen step leaves</h3>
      <esq-histogram [bars]="ridgeBars()" label="Histogram of the ridges" [brush]="undefined" told="" />
      <dl class="figures">
        <div class="row">
          <dt>asked</dt>
          <dd class="number">
            {{ length(r.asked, 4) }} <span class="unit">{{ unitOf('mm') }}</span>
          </dd>
        </div>
        <div class="row">
          <dt><span class="key missed" aria-hidden="true"></span>above it</dt>
          <dd class="number">{{ percent1(r.missed) }}</dd>
        </div>
        <div class="row">
          <dt><span class="key out" aria-hidden="true"></span>out of its reach</dt>
          <dd class="number">{{ percent1(r.outOfReach) }}</dd>
        </div>
        <div class="row">
          <dt><span class="key uncut" aria-hidden="true"></span>not cut</dt>
          <dd class="number">{{ percent1(r.notCut) }}</dd>
        </div>
      </dl>
      <p class="pencil note">By the balls that pass each place; upright walls are told in the findings only.</p>
    } @else {
      <p class="pencil note">{{ data.noRidges() || 'Measuring them …' }}</p>
    }
  `,
})
export class RidgesLegend {
  private readonly theme = inject(Theme);
  protected readonly data = inject(LensData);
  protected readonly length = length;
  protected readonly unitOf = unitOf;
  protected readonly percent1 = (share: number): string => `${figure(100 * share, 1)} %`;

  /** Those above what was asked for stand out. */
  protected readonly ridgeBars = computed(() => {
    const r = this.data.ridges();
    if (!r) return [];
    const { sanguine } = this.theme.palette();
    const colourAt = (value: number): string =>
      value > MISSED_SHARE * r.asked ? sanguine : css(leftoverColour(value, r.high, 0.01));
    return barsOf(r.bins, [0, r.high], colourAt, (value) => length(value, 4));
  });
}
