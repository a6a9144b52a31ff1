import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  viewChild,
} from '@angular/core';
import type { ChartOptions } from 'chart.js';
import { CHART, chartLook } from './chart';
import { Theme } from './theme';
import { MatButtonModule } from '@angular/material/button';

/** One bin of a histogram. */
export interface Bar {
  /** Colour of the lens for this bin. */
  colour: string;
  /** Share of the longest bar, 0 to 1. */
  length: number;
  /** Written beside it, where there is room for it. */
  label?: string;
}

/** Bins that are brushed: the first and the last, both included. */
export type Brush = readonly [number, number];

/** A histogram that is its lens's legend too. Dragging over it, or the arrow keys, brush bins; Esc takes the brush off. */
@Component({
  selector: 'esq-histogram',
  imports: [CHART, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      #reach
      class="reach"
      [style.height.px]="height()"
      tabindex="0"
      role="group"
      [attr.aria-label]="label() + '; drag over it or press an arrow key to look at a part of it alone'"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (keydown)="key($event)"
    >
      <div class="legend" aria-hidden="true">
        @for (bar of bars(); track $index) {
          <span [class.out]="isOut($index)" [style.height.px]="row()">
            <i [style.background]="bar.colour"></i>{{ bar.label }}
          </span>
        }
      </div>
      <div class="bars" aria-hidden="true">
        <canvas *esqInTurn baseChart type="bar" [data]="chart().data" [options]="chart().options"></canvas>
      </div>
    </div>
    @if (brush()) {
      <div class="row told">
        <span class="mono pencil" data-testid="brushed">{{ told() }}</span>
        <button matButton class="plain" (click)="brushed.emit(undefined)">Show all</button>
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      margin-top: 8px;
    }
    .reach {
      display: grid;
      grid-template: 100% / 72px minmax(0, 1fr);
      cursor: ns-resize;
      touch-action: none;
      user-select: none;
    }
    .legend span {
      display: flex;
      align-items: center;
      gap: 6px;
      font: 10px var(--mono);
      color: var(--pencil);
    }
    .legend i {
      width: 12px;
      height: 100%;
    }
    .legend .out {
      opacity: 0.25;
    }
    .bars {
      position: relative;
      min-height: 0;
      pointer-events: none;
    }
    .bars canvas {
      position: absolute;
      inset: 0;
    }
    .told {
      min-height: 22px;
      font-size: 11px;
    }
  `,
})
export class Histogram {
  readonly bars = input.required<readonly Bar[]>();
  readonly label = input.required<string>();
  readonly brush = input<Brush>();
  /** What is brushed, in words. */
  readonly told = input('');
  /** Height of a bin, pixels. */
  readonly row = input(12);
  readonly brushed = output<Brush | undefined>();

  private readonly theme = inject(Theme);
  protected readonly height = computed(() => this.bars().length * this.row());
  /** The bars, one under the other; those that are not brushed are pale. */
  protected readonly chart = computed(() => {
    const palette = this.theme.palette();
    const options: ChartOptions<'bar'> = {
      ...chartLook<'bar'>(palette),
      indexAxis: 'y',
      events: [],
      scales: { x: { display: false, min: 0, max: 1 }, y: { display: false } },
    };
    const data = this.bars().map((b) => b.length);
    const colours = data.map((_, k) => (this.isOut(k) ? `${palette.ink}40` : palette.ink));
    const bars = { data, backgroundColor: colours, barPercentage: 0.5, categoryPercentage: 1, minBarLength: 0 };
    return { options, data: { labels: data.map((_, k) => k), datasets: [bars] } };
  });
  private readonly reach = viewChild.required<ElementRef<HTMLElement>>('reach');
  /** The brush as it was wished last: the next key may come before it has come round as an input. */
  private readonly wished = linkedSignal(() => this.brush());
  private from = -1;
  private moved = false;

  protected isOut(bin: number): boolean {
    const brush = this.brush();
    return !!brush && (bin < brush[0] || bin > brush[1]);
  }

  protected down(event: PointerEvent): void {
    this.from = this.binAt(event);
    this.moved = false;
    this.reach().nativeElement.setPointerCapture(event.pointerId);
  }

  protected move(event: PointerEvent): void {
    if (this.from < 0) return;
    const to = this.binAt(event);
    if (to === this.from && !this.moved) return;
    this.moved = true;
    this.wish([Math.min(this.from, to), Math.max(this.from, to)]);
  }

  /** A press without a drag brushes one bin; on the only brushed bin it takes the brush off. */
  protected up(event: PointerEvent): void {
    const bin = this.binAt(event);
    const brush = this.wished();
    if (this.from >= 0 && !this.moved)
      this.wish(brush && brush[0] === bin && brush[1] === bin ? undefined : [bin, bin]);
    this.from = -1;
  }

  /** Arrows move the brush, with shift its lower end; Esc takes it off. */
  protected key(event: KeyboardEvent): void {
    const last = this.bars().length - 1;
    const brush = this.wished();
    if (event.key === 'Escape' && brush) {
      event.stopPropagation();
      this.wish(undefined);
    }
    const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    if (!brush) this.wish(by > 0 ? [0, 0] : [last, last]);
    else if (event.shiftKey) this.wish([brush[0], Math.min(last, Math.max(brush[0], brush[1] + by))]);
    else if (brush[0] + by >= 0 && brush[1] + by <= last) this.wish([brush[0] + by, brush[1] + by]);
  }

  private wish(brush: Brush | undefined): void {
    this.wished.set(brush);
    this.brushed.emit(brush);
  }

  private binAt(event: PointerEvent): number {
    const frame = this.reach().nativeElement.getBoundingClientRect();
    const bin = Math.floor((event.clientY - frame.top) / this.row());
    return Math.min(this.bars().length - 1, Math.max(0, bin));
  }
}
