import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import { ValueField } from '../../shared/valueField';

/** A number of an entry: its key, label and unit. */
export type EntryField = readonly [key: string, label: string, unit: string];

let entries = 0;

/** An entry of a house list as the job has it: chosen by name, its values changed, kept in the list or taken off it. */
@Component({
  selector: 'esq-house-entry',
  imports: [ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row">
      <label [for]="id">{{ label() }}</label>
      <select [id]="id" class="value" (change)="chosen.emit($any($event.target).value)">
        @if (!known()) {
          <option selected>{{ name() }}</option>
        }
        @for (n of names(); track n) {
          <option [value]="n" [selected]="n === name()">{{ n }}</option>
        }
      </select>
    </div>
    <ng-content />
    <button class="plain" [attr.aria-expanded]="open()" (click)="open.set(!open())">
      {{ open() ? 'less' : 'change its values' }}
    </button>
    @if (open()) {
      <div class="row">
        <label [for]="id + 'n'">Name</label>
        <input [id]="id + 'n'" class="value name" [value]="name()" (change)="rename($any($event.target).value)" />
      </div>
      @if (problem()) {
        <p class="wrong">{{ problem() }}</p>
      }
      @for (f of fields(); track f[0]) {
        <esq-value-field [label]="f[1]" [key]="f[0]" [value]="number(f[0])" [unit]="f[2]" [accept]="acceptor(f[0])" />
      }
      <button class="press" (click)="keep.emit()">keep in the house list</button>
      @if (known()) {
        <button class="plain" (click)="takenOff.emit()">take off the list</button>
      }
    }
  `,
  styles: `
    .name {
      width: 210px;
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
  protected readonly id = `house-${++entries}`;
  protected readonly open = signal(false);
  protected readonly problem = signal('');
  protected readonly known = computed(() => this.names().includes(this.name()));

  protected number(key: string): number {
    return (this.values() as Record<string, number>)[key]!;
  }

  protected rename(name: string): void {
    this.problem.set(this.accept()({ name }) ?? '');
  }

  protected acceptor(key: string): (value: number | null) => string | undefined {
    return (value) => this.accept()({ [key]: value ?? 0 });
  }
}
