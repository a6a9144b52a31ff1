import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  input,
  linkedSignal,
  output,
  viewChild,
} from '@angular/core';
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

const COLOUR = 12;
const BARS_AT = 72;

/** A histogram that is its lens's legend too. Dragging over it, or the arrow keys, brush bins; Esc takes the brush off. */
@Component({
  selector: 'esq-histogram',
  imports: [MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      #svg
      [attr.viewBox]="'0 0 ' + width() + ' ' + height()"
      [style.width.px]="width()"
      tabindex="0"
      role="group"
      [attr.aria-label]="label() + '; drag over it or press an arrow key to look at a part of it alone'"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (keydown)="key($event)"
    >
      @for (bar of bars(); track $index) {
        <g [attr.transform]="'translate(0 ' + ($index * row() + 2) + ')'" [class.out]="isOut($index)">
          <rect class="reach" x="0" y="0" [attr.width]="width()" [attr.height]="row()" />
          <rect x="0" y="0" [attr.width]="colourWidth" [attr.height]="row() + 0.5" [attr.fill]="bar.colour" />
          <rect
            class="bar"
            [attr.x]="barsAt"
            [attr.y]="row() / 4"
            [attr.width]="bar.length * room()"
            [attr.height]="row() / 2"
          />
          @if (bar.label) {
            <text x="18" [attr.y]="row() / 2 + 4">{{ bar.label }}</text>
          }
        </g>
      }
    </svg>
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
    svg {
      display: block;
      cursor: ns-resize;
      touch-action: none;
      user-select: none;
    }
    .reach {
      fill: transparent;
    }
    .bar {
      fill: var(--ink);
    }
    .out {
      opacity: 0.25;
    }
    text {
      font: 10px var(--mono);
      fill: var(--pencil);
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
  readonly width = input(184);
  /** Height of a bin, pixels. */
  readonly row = input(12);
  readonly brushed = output<Brush | undefined>();

  protected readonly colourWidth = COLOUR;
  protected readonly barsAt = BARS_AT;
  protected readonly room = computed(() => this.width() - BARS_AT - 2);
  protected readonly height = computed(() => this.bars().length * this.row() + 6);
  private readonly svg = viewChild.required<ElementRef<SVGSVGElement>>('svg');
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
    this.svg().nativeElement.setPointerCapture(event.pointerId);
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
    const frame = this.svg().nativeElement.getBoundingClientRect();
    const bin = Math.floor((event.clientY - frame.top - 2) / this.row());
    return Math.min(this.bars().length - 1, Math.max(0, bin));
  }
}
