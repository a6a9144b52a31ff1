import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import type { ChartOptions, Scale } from 'chart.js';
import { CHART, chartLook } from '../shared/chart';
import { length, unitOf } from '../shared/units';
import { Theme } from '../shared/theme';
import { planFeature } from '../state/plan.reducer';
import type { Block } from './layout';

/** An axis that is not seen needs no numbers written for it. */
const withoutTicks = (axis: Scale): void => {
  axis.ticks = [];
};

/** What is left over after each step, over the strip. */
@Component({
  selector: 'esq-leftover-curve',
  imports: [CHART],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (leftover(); as l) {
      <div class="curve" role="img" [attr.aria-label]="l.words">
        <canvas *esqInTurn baseChart type="line" [data]="l.data" [options]="l.options"></canvas>
      </div>
    }
  `,
  styles: `
    .curve {
      position: absolute;
      left: 0;
      top: 2px;
      width: 100%;
      height: 22px;
    }
  `,
})
export class LeftoverCurve {
  private readonly summaries = inject(Store).selectSignal(planFeature.selectSummaries);
  private readonly theme = inject(Theme);
  readonly blocks = input.required<readonly Block[]>();
  /** Length of the whole strip, pixels. */
  readonly length = input.required<number>();

  /** Largest and median leftover at the end of each step, on a root scale. */
  protected readonly leftover = computed(() => {
    const ends = this.blocks().flatMap((b) => {
      const figures = this.summaries().find((s) => s.stepId === b.id)?.figures;
      return figures ? [{ x: b.left + b.width, name: b.name, ...figures.leftover }] : [];
    });
    if (ends.length === 0) return undefined;
    const palette = this.theme.palette();
    const most = Math.max(...ends.map((e) => e.largest), 1e-3);
    const root = (v: number): number => Math.sqrt(Math.max(0, v) / most);
    const line = (key: 'largest' | 'p50', colour: string, dash: number[]) => ({
      data: ends.map((e) => ({ x: e.x, y: root(e[key]) })),
      borderColor: colour,
      backgroundColor: colour,
      borderWidth: 1.2,
      borderDash: dash,
      pointRadius: 1.5,
    });
    const options: ChartOptions<'line'> = {
      ...chartLook<'line'>(palette),
      layout: { padding: { top: 3, bottom: 3 } },
      scales: {
        x: { type: 'linear', min: 0, max: this.length(), display: false, afterBuildTicks: withoutTicks },
        y: { min: 0, max: 1.02, display: false, afterBuildTicks: withoutTicks },
      },
      events: [],
    };
    return {
      options,
      data: { datasets: [line('largest', palette.indigo, []), line('p50', palette.pencil, [2, 2])] },
      words: `Left over after each step: ${ends.map((e) => `${e.name} largest ${length(e.largest, 2)}, median ${length(e.p50)} ${unitOf('mm')}`).join('; ')}`,
    };
  });
}
