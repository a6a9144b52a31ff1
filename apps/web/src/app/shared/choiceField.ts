import { booleanAttribute, ChangeDetectionStrategy, Component, effect, input, output } from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';

/** One of a list to choose from. */
export interface Choice {
  readonly value: string;
  readonly label: string;
  /** Why it cannot be chosen. */
  readonly refused?: string | undefined;
}

/** A choice out of a list, with its label. A choice that is refused does not stay in sight. */
@Component({
  selector: 'esq-choice-field',
  imports: [MatFormFieldModule, MatSelectModule, ReactiveFormsModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-form-field class="field-row" [class.bare]="bare()" subscriptSizing="dynamic">
      <span matTextPrefix class="name">
        @if (!bare()) {
          <span class="label">{{ label() }}</span>
        }
        <ng-content />
      </span>
      <mat-select
        hideSingleSelectionIndicator
        panelClass="choices"
        [class.house]="house()"
        [formControl]="control"
        [aria-label]="label()"
        [attr.data-key]="key()"
        [attr.data-testid]="testId() || null"
        (selectionChange)="choose($event.value)"
      >
        @for (o of options(); track o.value) {
          <mat-option [value]="o.value" [disabled]="!!o.refused">
            {{ o.label }}
            @if (o.refused) {
              <span class="pencil">{{ o.refused }}</span>
            }
          </mat-option>
        }
      </mat-select>
    </mat-form-field>
  `,
})
export class ChoiceField {
  readonly label = input.required<string>();
  readonly value = input.required<string>();
  readonly options = input.required<readonly Choice[]>();
  readonly key = input<string>('');
  readonly house = input(false);
  /** Without its label in sight, where it stands among others. */
  readonly bare = input(false, { transform: booleanAttribute });
  readonly testId = input('');
  readonly chosen = output<string>();
  protected readonly control = new FormControl('', { nonNullable: true });

  constructor() {
    effect(() => {
      const value = this.value();
      if (this.control.value !== value) this.control.setValue(value);
    });
  }

  protected choose(value: string): void {
    this.chosen.emit(value);
    // after whoever hears of the choice has taken or refused it
    setTimeout(() => this.control.setValue(this.value()));
  }
}

/** Words as choices that are told as they are. */
export function choicesOf(words: readonly string[]): Choice[] {
  return words.map((value) => ({ value, label: value }));
}
