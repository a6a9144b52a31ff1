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
import { readValue, type Value } from '@esquisse/core';

/** Something that can be made of a value: in words, and what it is. */
export interface Offer {
  text: string;
  value: Value | undefined;
}

let fields = 0;

/** A number with its label and unit. What cannot be taken stays in the field, with the reason under it. */
@Component({
  selector: 'esq-value-field',
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      display: block;
    }
    .error {
      text-align: right;
      font-size: 12px;
    }
    .why {
      font-size: 12px;
      border-left: 2px solid var(--indigo);
      padding: 2px 0 2px 8px;
      margin: 2px 0 6px;
    }
    .offer {
      opacity: 0;
      position: absolute;
      right: 100%;
      background: var(--sheet);
    }
    .row:hover .offer,
    .row:focus-within .offer,
    .offer[aria-expanded='true'] {
      opacity: 1;
    }
    .field {
      position: relative;
      white-space: nowrap;
    }
    .offers .press {
      margin: 2px 0 0 6px;
    }
    .ask {
      color: var(--indigo);
      padding: 0 4px;
    }
    label {
      flex: 1;
    }
    input {
      min-width: 88px;
      max-width: 138px;
    }
    .unit {
      display: inline-block;
      min-width: 22px;
      margin-left: 4px;
    }
  `,
  template: `
    <div class="row">
      <label [for]="id">{{ label() }}</label>
      @if (why()) {
        <button class="plain ask" [attr.aria-label]="'Why: ' + label()" (click)="asked.set(!asked())">why</button>
      }
      <span class="field">
        @if (offers().length > 0) {
          <button
            class="plain ask offer"
            [attr.aria-label]="offerWord() + ': ' + label()"
            [attr.aria-expanded]="offering()"
            (click)="offering.set(!offering())"
          >
            {{ offerWord() }}
          </button>
        }
        <input
          #typed
          class="value"
          [id]="id"
          [class.house]="house()"
          [class.bad]="problem()"
          [style.width]="width()"
          [placeholder]="placeholder()"
          [attr.aria-invalid]="!!problem()"
          [attr.aria-describedby]="problem() ? id + 'e' : null"
          [attr.data-key]="key()"
          (input)="isTyping = true"
          (change)="take($any($event.target).value)"
          (blur)="isTyping = false"
          (keydown.escape)="leave($any($event.target))"
          autocomplete="off"
        />
        <span class="unit mono"> {{ shown() === '' && placeholder() ? '' : unit() }}</span>
      </span>
    </div>
    @if (asked()) {
      <p class="why">{{ why() }}</p>
    }
    @if (offering()) {
      <p class="why offers">
        {{ offerTitle() }}
        @for (o of offers(); track o.text) {
          <button class="press" (click)="chooseOffer(o)">{{ o.text }}</button>
        }
      </p>
    }
    @if (problem()) {
      <p class="error wrong" [id]="id + 'e'">{{ problem() }}</p>
    }
  `,
})
export class ValueField {
  readonly label = input.required<string>();
  readonly value = input.required<Value>();
  readonly unit = input<string>('');
  readonly key = input<string>('');
  readonly house = input(false);
  readonly optional = input(false);
  readonly placeholder = input('');
  readonly why = input<string>('');
  /** Values that can be typed by their symbol, mm: `0.3 DC`. */
  readonly symbols = input<Readonly<Record<string, number>>>({});
  /** Takes the number; gives back why not, or undefined. */
  readonly accept = input.required<(value: number | null) => string | undefined>();
  readonly entered = output<number | null>();
  /** What can be made of the value as it is, in words; asked for beside the field. */
  readonly offers = input<readonly Offer[]>([]);
  readonly offerWord = input('');
  readonly offerTitle = input('');
  readonly offered = output<Offer>();

  protected readonly id = `value-${++fields}`;
  protected readonly problem = signal('');
  protected readonly asked = signal(false);
  protected readonly offering = signal(false);
  protected readonly shown = computed(() => {
    const value = this.value();
    return value === null ? '' : String(value);
  });

  /** As wide as what stands for no value. */
  protected readonly width = computed(() =>
    this.optional() && this.shown() === '' ? `${this.placeholder().length + 1}ch` : null,
  );

  /** Something is typed that was not entered yet. */
  protected isTyping = false;
  private readonly typed = viewChild.required<ElementRef<HTMLInputElement>>('typed');

  constructor() {
    // what could not be taken was meant for the value before
    effect(() => {
      this.value();
      untracked(() => {
        // the value may change while the next one is typed already
        if (!this.isTyping) this.leave(this.typed().nativeElement);
      });
    });
  }

  /** Back to the value that holds. */
  protected leave(input: HTMLInputElement): void {
    this.isTyping = false;
    this.problem.set('');
    input.value = this.shown();
  }

  protected take(text: string): void {
    this.isTyping = false;
    if (text === this.shown() && !this.problem()) return;
    if (text.trim() === '' && this.optional()) {
      this.finish(null);
      return;
    }
    const typed = readValue(text, this.symbols());
    if ('problem' in typed) this.problem.set(typed.problem);
    else this.finish(typed.value);
  }

  protected chooseOffer(offer: Offer): void {
    this.offering.set(false);
    this.offered.emit(offer);
  }

  private finish(value: number | null): void {
    this.problem.set(this.accept()(value) ?? '');
    if (!this.problem()) this.entered.emit(value);
  }
}
