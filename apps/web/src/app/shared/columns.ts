import { BreakpointObserver } from '@angular/cdk/layout';
import { NgTemplateOutlet } from '@angular/common';
import {
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  contentChild,
  ElementRef,
  inject,
  input,
  signal,
  TemplateRef,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { AngularSplitModule, type SplitGutterInteractionEvent } from 'angular-split';
import { map } from 'rxjs';

/** On pages smaller than this everything stands below one another. */
const NARROW = '(max-width: 760px), (max-height: 440px)';
/** Least width of a column, pixels. */
const LEAST = 160;

/** The three columns of a place; the outer ones keep the widths that they were drawn to. */
@Component({
  selector: 'esq-columns',
  imports: [AngularSplitModule, NgTemplateOutlet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (isNarrow()) {
      <div class="stack">
        <div class="middle"><ng-container [ngTemplateOutlet]="middle()" /></div>
        <ng-container [ngTemplateOutlet]="left()" />
        <ng-container [ngTemplateOutlet]="right()" />
      </div>
    } @else {
      <as-split
        unit="pixel"
        [gutterSize]="5"
        [gutterStep]="8"
        gutterAriaLabel="Width of the column"
        (dragEnd)="keep($event)"
      >
        <as-split-area
          [size]="folded() ? foldedTo() : widths()[0]!"
          [minSize]="folded() ? foldedTo() : least"
          [maxSize]="most()"
        >
          <ng-container [ngTemplateOutlet]="left()" />
        </as-split-area>
        <as-split-area size="*"><ng-container [ngTemplateOutlet]="middle()" /></as-split-area>
        <as-split-area [size]="widths()[1]!" [minSize]="least" [maxSize]="most()">
          <ng-container [ngTemplateOutlet]="right()" />
        </as-split-area>
      </as-split>
    }
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      min-height: 0;
    }
    .stack {
      display: flex;
      flex-direction: column;
    }
    .middle {
      height: 280px;
      order: -1;
    }
  `,
})
export class Columns {
  /** By which the widths are kept. */
  readonly name = input.required<string>();
  /** Widths of the outer columns to begin with, pixels. */
  readonly begin = input.required<readonly [left: number, right: number]>();
  /** The left column is folded to this width. */
  readonly folded = input(false);
  readonly foldedTo = input(44);
  protected readonly left = contentChild.required('left', { read: TemplateRef });
  protected readonly middle = contentChild.required('middle', { read: TemplateRef });
  protected readonly right = contentChild.required('right', { read: TemplateRef });
  protected readonly least = LEAST;
  private readonly page = inject(BreakpointObserver);
  protected readonly isNarrow = toSignal(this.page.observe(NARROW).pipe(map((r) => r.matches)), {
    initialValue: this.page.isMatched(NARROW),
  });
  private readonly drawn = signal<readonly number[] | undefined>(undefined);
  protected readonly widths = computed(() => this.drawn() ?? kept(this.name()) ?? fitting(this.begin()));

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    // the library tells readers of the screen no size of a column that takes what is left
    afterRenderEffect(() => {
      const [left, right] = this.widths();
      host.querySelectorAll('.as-split-gutter').forEach((gutter, k) => {
        gutter.setAttribute('aria-valuenow', String(Math.round((k === 0 ? left : right) ?? 0)));
        gutter.setAttribute('aria-orientation', 'vertical');
      });
    });
  }

  /** No column takes more than two fifths of the page. */
  protected most(): number {
    return Math.max(LEAST, 0.42 * globalThis.innerWidth);
  }

  protected keep({ sizes }: SplitGutterInteractionEvent): void {
    const outer = [sizes[0], sizes[2]].map(Number);
    if (this.folded()) outer[0] = this.widths()[0]!;
    this.drawn.set(outer);
    localStorage.setItem(keyOf(this.name()), JSON.stringify(outer));
  }
}

const keyOf = (name: string): string => `esquisse.columns.${name}`;

function kept(name: string): number[] | undefined {
  try {
    const widths: unknown = JSON.parse(localStorage.getItem(keyOf(name)) ?? 'null');
    return Array.isArray(widths) && widths.length === 2 && widths.every((w) => Number.isFinite(w) && w >= LEAST)
      ? (widths as number[])
      : undefined;
  } catch {
    return undefined;
  }
}

/** On a small page the columns begin narrower. */
function fitting([left, right]: readonly [number, number]): number[] {
  const share = Math.min(1, globalThis.innerWidth / 1000);
  return [Math.max(LEAST, left * share), Math.max(LEAST, right * share)];
}
