import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { css, leftoverColour } from '../../bench/palette';
import { Histogram } from '../../shared/histogram';
import { figure } from '../../shared/numbers';
import { length, unitOf } from '../../shared/units';
import { LensData } from '../lensData';
import { barsOf } from './bars';

/** What the steel stands above the part, along its normal: how often, and the figures. */
@Component({
  selector: 'esq-leftover-legend',
  imports: [Histogram],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
    @if (view(); as v) {
      <h3 class="pencil">Leftover, normal to the part</h3>
      <esq-histogram
        [bars]="bars()"
        [label]="described()"
        [brush]="data.brush()"
        [told]="told()"
        (brushed)="data.brush.set($event)"
      />
      <dl class="figures">
        @for (f of figures(); track f[0]) {
          <div class="row">
            <dt>{{ f[0] }}</dt>
            <dd
              class="number"
              [class.wrong]="f[0] === 'gouge' && v.figures.gouge > 0.01"
              [attr.data-testid]="'leftover-' + f[0]"
            >
              {{ f[1] }} <span class="unit">{{ unitOf('mm') }}</span>
            </dd>
          </div>
        }
      </dl>
    }
  `,
})
export class LeftoverLegend {
  protected readonly data = inject(LensData);
  protected readonly view = this.data.leftover;
  protected readonly unitOf = unitOf;

  protected readonly bars = computed(() => {
    const v = this.view();
    if (!v) return [];
    const colourAt = (value: number): string => css(leftoverColour(value, v.high, 0.01));
    return barsOf(v.bins, [v.low, v.high], colourAt, (value) => length(value, 2));
  });

  /** The brushed values, and the share of all places that has them. */
  protected readonly told = computed(() => {
    const v = this.view();
    const brush = this.data.brush();
    const values = this.data.brushed();
    if (!v || !brush || !values) return '';
    const all = v.bins.reduce((sum, n) => sum + n, 0);
    const own = [...v.bins].reverse().slice(brush[0], brush[1] + 1);
    const share = (own.reduce((sum, n) => sum + n, 0) / (all || 1)) * 100;
    const [low, high] = values;
    const range =
      low === -Infinity
        ? `up to ${length(high, 2)}`
        : high === Infinity
          ? `${length(low, 2)} and more`
          : `${length(low, 2)} to ${length(high, 2)}`;
    return `${range} ${unitOf('mm')}: ${figure(share, 1)} %`;
  });

  protected readonly figures = computed((): [string, string][] => {
    const f = this.view()?.figures;
    if (!f) return [];
    return [
      ['median', length(f.p50)],
      ['99 %', length(f.p99)],
      ['largest', length(f.largest)],
      ['gouge', length(f.gouge)],
    ];
  });

  protected readonly described = computed(
    () =>
      `Histogram of leftover: ${this.figures()
        .map((f) => f.join(' '))
        .join(', ')} ${unitOf('mm')}`,
  );
}
