import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { TextField } from '../../shared/textField';
import { MatButtonModule } from '@angular/material/button';
import { type Extension, type Holder, HOLDER_KINDS, readValue } from '@esquisse/core';
import type { Clamp, ClampChange } from '../../state/edit';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { ValueField } from '../../shared/valueField';
import { sizeOfUnit, typed, unitOf } from '../../shared/units';

type Frustum = Clamp['stack'][number];

const SIDES: readonly [keyof Frustum, string][] = [
  ['bottomDiameter', 'lower ⌀'],
  ['topDiameter', 'upper ⌀'],
  ['length', 'length'],
];

/** A holder or extension: its name, its connections, and its outline as stacked cylinders and cones. */
@Component({
  selector: 'esq-clamp-panel',
  imports: [TextField, ChoiceField, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let c = clamp();
    <esq-text-field label="Name" [value]="c.name" [accept]="rename" />
    @if (holder(); as h) {
      <esq-choice-field
        label="Kind of holder"
        [value]="h.kind"
        [options]="kinds"
        (chosen)="put({ kind: $any($event) })"
      />
    }
    <esq-value-field
      label="Clamps DCONWS"
      key="DCONWS"
      [value]="c.DCONWS"
      unit="mm"
      [optional]="true"
      placeholder="not given"
      [accept]="acceptor('DCONWS')"
    />
    <esq-value-field
      label="or, a collet, from"
      key="clampFrom"
      [value]="c.clampFrom"
      unit="mm"
      [optional]="true"
      placeholder="that only"
      [accept]="acceptor('clampFrom')"
    />
    @if (holder(); as h) {
      <esq-text-field label="Spindle side" [value]="h.spindle" [accept]="respindle" />
    } @else {
      <esq-value-field
        label="Connection DCONMS"
        key="DCONMS"
        [value]="$any(c).DCONMS"
        unit="mm"
        [optional]="true"
        placeholder="not given"
        [accept]="acceptor('DCONMS')"
      />
    }
    <p class="pencil">Outline from the cutter's side up, {{ unitOf('mm') }}:</p>
    <table>
      <tr>
        <th></th>
        @for (s of sides; track s[0]) {
          <th class="pencil">{{ s[1] }}</th>
        }
        <th></th>
      </tr>
      @for (f of c.stack; track $index; let k = $index) {
        <tr>
          <td class="pencil mono">{{ k + 1 }}</td>
          @for (s of sides; track s[0]) {
            <td>
              <esq-text-field
                bare
                [label]="c.name + ', piece ' + (k + 1) + ', ' + s[1]"
                [value]="typed(f[s[0]], 'mm')"
                [accept]="sizeAcceptor(k, s[0])"
              />
            </td>
          }
          <td>
            <button matButton class="plain" [attr.aria-label]="'Remove piece ' + (k + 1)" (click)="out(k)">×</button>
          </td>
        </tr>
      }
    </table>
    <button matButton class="plain" (click)="add()">Add a piece above</button>
  `,
  styles: `
    table {
      width: 100%;
      font-size: 12px;
    }
    th {
      font-weight: normal;
      text-align: right;
    }
  `,
})
export class ClampPanel {
  protected readonly typed = typed;
  protected readonly unitOf = unitOf;
  readonly clamp = input.required<Clamp>();
  /** Takes changed values, or what changes the clamp as it is by then; gives back why not, or undefined. */
  readonly accept = input.required<(change: ClampChange) => string | undefined>();
  readonly refused = output<string>();
  protected readonly kinds = choicesOf(HOLDER_KINDS);
  protected readonly sides = SIDES;
  protected readonly holder = computed(() => {
    const c = this.clamp();
    return 'spindle' in c ? c : undefined;
  });

  protected acceptor(key: 'DCONWS' | 'clampFrom' | 'DCONMS'): (value: number | null) => string | undefined {
    return (value) => this.accept()({ [key]: value });
  }

  protected readonly rename = (name: string): string | undefined => this.accept()({ name });
  protected readonly respindle = (spindle: string): string | undefined => this.accept()({ spindle });

  protected sizeAcceptor(piece: number, side: keyof Frustum): (text: string) => string | undefined {
    return (text) => {
      const typed = readValue(text, {}, sizeOfUnit('mm'));
      if ('problem' in typed) return typed.problem;
      // the size beside it may have been entered since the panel was drawn
      return this.accept()(({ stack }) => ({
        stack: stack.map((f, k) => (k === piece ? { ...f, [side]: typed.value } : f)),
      }));
    };
  }

  protected add(): void {
    const { stack } = this.clamp();
    const top = stack[stack.length - 1]!.topDiameter;
    this.put({ stack: [...stack, { bottomDiameter: top, topDiameter: top, length: 20 }] });
  }

  protected out(piece: number): void {
    this.put({ stack: this.clamp().stack.filter((_, k) => k !== piece) });
  }

  /** @returns whether it was taken */
  protected put(change: Partial<Holder & Extension>): boolean {
    const problem = this.accept()(change);
    if (problem) this.refused.emit(problem);
    return !problem;
  }
}
