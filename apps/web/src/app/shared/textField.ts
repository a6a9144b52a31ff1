import {
  booleanAttribute,
  ChangeDetectionStrategy,
  Component,
  effect,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { AT_ONCE } from './errors';
import { told } from './units';

/** A text with its label. What cannot be taken stays in the field, with the reason under it. */
@Component({
  selector: 'esq-text-field',
  imports: [MatFormFieldModule, MatInputModule, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-form-field class="field-row wide" [class.bare]="bare()" subscriptSizing="dynamic">
      <span matTextPrefix class="name">
        @if (!bare()) {
          <span class="label">{{ label() }}</span>
        }
      </span>
      <input
        matInput
        autocomplete="off"
        [formControl]="control"
        [errorStateMatcher]="atOnce"
        [placeholder]="placeholder()"
        [attr.aria-label]="label()"
        [attr.data-key]="key() || null"
        [class.house]="house()"
        (input)="typed.emit(control.value)"
        (change)="take()"
        (keydown.escape)="leave()"
      />
      @if (problem()) {
        <mat-error>{{ told(problem()) }}</mat-error>
      }
    </mat-form-field>
  `,
})
export class TextField {
  protected readonly told = told;
  readonly label = input.required<string>();
  readonly value = input('');
  readonly placeholder = input('');
  readonly key = input('');
  readonly house = input(false);
  /** Without its label in sight, where it stands among others. */
  readonly bare = input(false, { transform: booleanAttribute });
  /** Takes the text; gives back why not, or undefined. */
  readonly accept = input<(text: string) => string | undefined>(() => undefined);
  /** Each change while it is typed. */
  readonly typed = output<string>();
  protected readonly atOnce = AT_ONCE;
  protected readonly problem = signal('');
  protected readonly control = new FormControl('', {
    nonNullable: true,
    validators: () => (this.problem() ? { refused: true } : null),
  });

  constructor() {
    effect(() => {
      this.value();
      untracked(() => {
        // the text may change while the next one is typed already
        if (!this.control.dirty) this.leave();
      });
    });
  }

  /** Back to the text that holds. */
  protected leave(): void {
    this.problem.set('');
    this.control.reset(this.value());
  }

  protected take(): void {
    this.control.markAsPristine();
    this.problem.set(this.accept()(this.control.value) ?? '');
    this.control.updateValueAndValidity();
  }
}
