import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { type Extension, type Holder, HOLDER_KINDS, readValue } from '@esquisse/core';
import { ValueField } from '../../shared/valueField';

type Clamp = Holder | Extension;
type Frustum = Clamp['stack'][number];

const SIDES: readonly [keyof Frustum, string][] = [
  ['bottomDiameter', 'lower ⌀'],
  ['topDiameter', 'upper ⌀'],
  ['length', 'length'],
];

/** A holder or extension: its name, its connections, and its outline as stacked cylinders and cones. */
@Component({
  selector: 'esq-clamp-panel',
  imports: [ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let c = clamp();
    <div class="row">
      <label [for]="c.id + 'name'">Name</label>
      <input
        [id]="c.id + 'name'"
        class="value name"
        [value]="c.name"
        (change)="put({ name: $any($event.target).value })"
      />
    </div>
    @if (holder(); as h) {
      <div class="row">
        <label [for]="c.id + 'kind'">Kind of holder</label>
        <select [id]="c.id + 'kind'" class="value" (change)="put({ kind: $any($event.target).value })">
          @for (k of kinds; track k) {
            <option [value]="k" [selected]="k === h.kind">{{ k }}</option>
          }
        </select>
      </div>
    }
    <esq-value-field
      label="Clamps DCONWS"
      key="DCONWS"
      [value]="c.DCONWS"
      unit="mm"
      [optional]="true"
      placeholder="not told"
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
      <div class="row">
        <label [for]="c.id + 'spindle'">Spindle side</label>
        <input
          [id]="c.id + 'spindle'"
          class="value name"
          [value]="h.spindle"
          (change)="put({ spindle: $any($event.target).value })"
        />
      </div>
    } @else {
      <esq-value-field
        label="Connection DCONMS"
        key="DCONMS"
        [value]="$any(c).DCONMS"
        unit="mm"
        [optional]="true"
        placeholder="not told"
        [accept]="acceptor('DCONMS')"
      />
    }
    <p class="pencil">Outline from the cutter's side up, mm:</p>
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
              <input
                class="value"
                [attr.aria-label]="c.name + ', piece ' + (k + 1) + ', ' + s[1]"
                [value]="f[s[0]]"
                (change)="size(k, s[0], $any($event.target))"
              />
            </td>
          }
          <td>
            <button class="plain" [attr.aria-label]="'Take piece ' + (k + 1) + ' out'" (click)="out(k)">×</button>
          </td>
        </tr>
      }
    </table>
    <button class="plain" (click)="add()">one more piece above</button>
  `,
  styles: `
    .name {
      width: 190px;
      text-align: left;
    }
    table {
      width: 100%;
      font-size: 12px;
    }
    th {
      font-weight: normal;
      text-align: right;
    }
    td .value {
      width: 100%;
    }
  `,
})
export class ClampPanel {
  readonly clamp = input.required<Clamp>();
  /** Takes changed values; gives back why not, or undefined. */
  readonly accept = input.required<(change: Partial<Holder & Extension>) => string | undefined>();
  readonly refused = output<string>();
  protected readonly kinds = HOLDER_KINDS;
  protected readonly sides = SIDES;
  protected readonly holder = computed(() => {
    const c = this.clamp();
    return 'spindle' in c ? c : undefined;
  });

  protected acceptor(key: 'DCONWS' | 'clampFrom' | 'DCONMS'): (value: number | null) => string | undefined {
    return (value) => this.accept()({ [key]: value });
  }

  protected size(piece: number, side: keyof Frustum, field: HTMLInputElement): void {
    const typed = readValue(field.value);
    if ('problem' in typed) this.refused.emit(typed.problem);
    else if (this.put({ stack: this.clamp().stack.map((f, k) => (k === piece ? { ...f, [side]: typed.value } : f)) }))
      return;
    field.value = String(this.clamp().stack[piece]![side]);
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
