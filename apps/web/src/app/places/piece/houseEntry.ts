import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { TextField } from '../../shared/textField';
import { MatButtonModule } from '@angular/material/button';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { ValueField } from '../../shared/valueField';

/** A number of an entry: its key, label and unit. */
export type EntryField = readonly [key: string, label: string, unit: string];

/** An entry of a house list as the job has it: chosen by name, its values changed, kept in the list or taken off it. */
@Component({
  selector: 'esq-house-entry',
  imports: [TextField, ChoiceField, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <esq-choice-field [label]="label()" [value]="name()" [options]="options()" (chosen)="chosen.emit($event)" />
    <ng-content />
    <button matButton class="plain" [attr.aria-expanded]="open()" (click)="open.set(!open())">
      {{ open() ? 'Less' : 'Change its values' }}
    </button>
    @if (open()) {
      <esq-text-field label="Name" [value]="name()" [accept]="rename" />
      @for (f of fields(); track f[0]) {
        <esq-value-field [label]="f[1]" [key]="f[0]" [value]="number(f[0])" [unit]="f[2]" [accept]="acceptor(f[0])" />
      }
      <button matButton="outlined" class="press" (click)="keep.emit()">Keep in the house list</button>
      @if (known()) {
        <button matButton class="plain" (click)="takenOff.emit()">Take off the list</button>
      }
    }
  `,
})
export class HouseEntry {
  readonly label = input.required<string>();
  readonly name = input.required<string>();
  readonly names = input.required<readonly string[]>();
  readonly fields = input.required<readonly EntryField[]>();
  readonly values = input.required<object>();
  /** Takes changed values; gives back why not, or undefined. */
  readonly accept = input.required<(change: Record<string, string | number>) => string | undefined>();
  readonly chosen = output<string>();
  readonly keep = output();
  readonly takenOff = output();
  protected readonly open = signal(false);
  protected readonly known = computed(() => this.names().includes(this.name()));
  protected readonly options = computed(() => choicesOf([...(this.known() ? [] : [this.name()]), ...this.names()]));

  protected number(key: string): number {
    return (this.values() as Record<string, number>)[key]!;
  }

  protected readonly rename = (name: string): string | undefined => this.accept()({ name });

  protected acceptor(key: string): (value: number | null) => string | undefined {
    return (value) => this.accept()({ [key]: value ?? 0 });
  }
}
