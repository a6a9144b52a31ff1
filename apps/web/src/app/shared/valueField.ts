import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatTooltipModule } from '@angular/material/tooltip';
import { readValue, type Relation, type Value } from '@esquisse/core';
import { AT_ONCE } from './errors';
import { length, refusal, shownUnit, sizeOfUnit, told, typed, unitOf } from './units';

/** Something that can be made of a value: in words, and what it is. */
export interface Offer {
  text: string;
  value: Value | undefined;
}

let fields = 0;

/** A number with its label and unit. What cannot be taken stays in the field, with the reason under it. */
@Component({
  selector: 'esq-value-field',
  imports: [MatButtonModule, MatFormFieldModule, MatInputModule, MatTooltipModule, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    .why {
      font-size: 12px;
      border-left: 2px solid var(--indigo);
      padding: 2px 0 2px 8px;
      margin: 2px 0 6px;
    }
  `,
  template: `
    <mat-form-field class="field-row" subscriptSizing="dynamic">
      <span matTextPrefix class="name">
        <label [for]="id">{{ label() }}</label>
        @if (offers().length > 0) {
          <button
            matButton
            class="plain ask offer"
            type="button"
            [attr.aria-label]="offerWord() + ': ' + label()"
            [matTooltip]="offerWord()"
            [attr.aria-expanded]="offering()"
            (click)="$event.stopPropagation(); offering.set(!offering())"
          >
            {{ offerWord().split(' ')[0] }}
          </button>
        }
        @if (why()) {
          <button
            matButton
            class="plain ask"
            type="button"
            [attr.aria-label]="'Why: ' + label()"
            [attr.aria-expanded]="asked()"
            (click)="$event.stopPropagation(); asked.set(!asked())"
          >
            Why
          </button>
        }
      </span>
      <input
        #entry
        matInput
        autocomplete="off"
        [formControl]="control"
        [errorStateMatcher]="atOnce"
        [id]="id"
        [class.house]="house()"
        [style.min-width]="width()"
        [placeholder]="placeholder()"
        [attr.data-key]="key()"
        (input)="isTyping = true"
        (change)="take()"
        (blur)="isTyping = false"
        (keydown.escape)="leave()"
      />
      <span matTextSuffix class="unit mono">{{ suffix() }}</span>
      @if (problem()) {
        <mat-error>{{ refusal(problem(), unit()) }}</mat-error>
      }
    </mat-form-field>
    @if (asked()) {
      <p class="why">{{ told(why()) }}</p>
    }
    @if (offering()) {
      <p class="why">
        {{ told(offerTitle()) }}
        @for (o of offers(); track o.text) {
          <button matButton="outlined" class="press" (click)="chooseOffer(o)">{{ told(o.text) }}</button>
        }
      </p>
    }
  `,
})
export class ValueField {
  readonly label = input.required<string>();
  readonly value = input.required<Value>();
  /** Metric unit of the value; it is shown and typed in the unit that is chosen for all. */
  readonly unit = input<string>('');
  readonly key = input<string>('');
  readonly house = input(false);
  readonly optional = input(false);
  readonly placeholder = input('');
  readonly why = input<string>('');
  /** Values that can be typed by their symbol, mm: `0.3 DC`. */
  readonly symbols = input<Readonly<Record<string, number>>>({});
  /** What the value was typed as, where it was typed by symbols. */
  readonly relation = input<Relation | undefined>();
  /** What is wrong with the value as it is. */
  readonly trouble = input('');
  /** Takes the number, with what it was typed as by symbols; gives back why not, or undefined. */
  readonly accept = input.required<(value: number | null, relation?: Relation) => string | undefined>();
  readonly entered = output<number | null>();
  /** What can be made of the value as it is, in words; asked for beside the field. */
  readonly offers = input<readonly Offer[]>([]);
  /** What taking an offer does; on the button its first word stands. */
  readonly offerWord = input('');
  readonly offerTitle = input('');
  readonly offered = output<Offer>();

  protected readonly refusal = refusal;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  protected readonly id = `value-${++fields}`;
  protected readonly atOnce = AT_ONCE;
  protected readonly problem = signal('');
  /** What is typed; wrong for as long as what was entered last could not be taken. */
  protected readonly control = new FormControl('', {
    nonNullable: true,
    validators: () => (this.problem() ? { refused: true } : null),
  });
  protected readonly asked = signal(false);
  protected readonly offering = signal(false);
  protected readonly shown = computed(() => {
    const value = this.value();
    if (value === null) return '';
    const relation = this.relation();
    if (relation && this.isAsTyped(relation)) return relation.expr;
    return typeof value === 'number' ? typed(value, this.unit()) : String(value);
  });

  /** The unit; of a relation the value that it gives, too. */
  protected readonly suffix = computed(() => {
    const unit = unitOf(this.unit());
    const value = this.value();
    if (this.shown() === '' && this.placeholder()) return '';
    if (!this.relation() || typeof value !== 'number') return unit;
    return `= ${this.unit() === 'mm' ? length(value) : typed(value, this.unit())} ${unit}`;
  });

  /** Whether a relation means the same in the unit that is shown as in the one that it was typed in. */
  private isAsTyped({ expr, unit }: Relation): boolean {
    if (unit === shownUnit()) return true;
    const [a, b] = [readValue(expr, this.symbols(), 1), readValue(expr, this.symbols(), 25.4)];
    return !('value' in a) || !('value' in b) || Math.abs(a.value - b.value) < 1e-9;
  }

  /** As wide as what stands for no value. */
  protected readonly width = computed(() =>
    this.optional() && this.shown() === '' ? `${this.placeholder().length + 1}ch` : null,
  );

  /** Something is typed that was not entered yet. */
  protected isTyping = false;
  private readonly entry = viewChild.required<ElementRef<HTMLInputElement>>('entry');

  constructor() {
    // what could not be taken was meant for the value before
    effect(() => {
      this.shown();
      this.trouble();
      untracked(() => {
        // the value may change while the next one is typed already
        if (!this.isTyping) this.leave();
      });
    });
  }

  /** Back to the value that holds. */
  protected leave(): void {
    this.isTyping = false;
    this.problem.set(this.trouble());
    this.control.setValue(this.shown());
  }

  protected take(): void {
    this.isTyping = false;
    // what stands in the field, whether or not the form has heard of it yet
    const text = this.entry().nativeElement.value;
    if (text === this.shown() && !this.problem()) return;
    if (text.trim() === '' && this.optional()) {
      this.finish(null);
      return;
    }
    const read = readValue(text, this.symbols(), sizeOfUnit(this.unit()));
    if ('problem' in read) this.tell(read.problem);
    else if (read.symbols.length === 0) this.finish(read.value);
    else this.finish(read.value, { expr: text.trim(), unit: this.unit() === 'mm' ? shownUnit() : 'mm' });
  }

  protected chooseOffer(offer: Offer): void {
    this.offering.set(false);
    this.offered.emit(offer);
  }

  private finish(value: number | null, relation?: Relation): void {
    this.tell(this.accept()(value, relation) ?? '');
    if (!this.problem()) this.entered.emit(value);
  }

  private tell(problem: string): void {
    this.problem.set(problem);
    this.control.updateValueAndValidity();
  }
}
