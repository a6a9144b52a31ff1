import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import {
  hasSize,
  type Cutter,
  CUTTER_KINDS,
  CUTTER_WORDS,
  type CutterKind,
  cutterSchema,
  type Told,
  usualCutter,
} from '@esquisse/core';
import { ChoiceField } from '../../shared/choiceField';
import { TextField } from '../../shared/textField';
import { told } from '../../shared/units';
import { ValueField } from '../../shared/valueField';

/** Kinds that there is a reason for not offering, with it. */
export interface CutterWish {
  readonly kind: CutterKind;
  readonly refused: (kind: CutterKind) => string | undefined;
}

type Size = 'RE' | 'APMX' | 'DN' | 'LN' | 'DMM' | 'OAL' | 'ZEFP' | 'SIG' | 'TP';
const SIZES: readonly { key: Size; label: string; unit: string; empty?: string }[] = [
  { key: 'RE', label: 'Corner radius RE', unit: 'mm' },
  { key: 'APMX', label: 'Flute length APMX', unit: 'mm' },
  { key: 'DN', label: 'Neck diameter DN', unit: 'mm', empty: 'no neck' },
  { key: 'LN', label: 'Usable length LN', unit: 'mm', empty: 'no neck' },
  { key: 'DMM', label: 'Shank DMM', unit: 'mm' },
  { key: 'OAL', label: 'Overall length OAL', unit: 'mm' },
  { key: 'ZEFP', label: 'Edges ZEFP', unit: '' },
  { key: 'SIG', label: 'Point or taper angle SIG', unit: '°' },
  { key: 'TP', label: 'Thread pitch TP', unit: 'mm' },
];

/** Makes a cutter from its kind and diameter: every other size begins as such cutters usually have it. */
@Component({
  selector: 'esq-new-cutter',
  imports: [ChoiceField, MatButtonModule, MatDialogModule, TextField, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 mat-dialog-title>New cutter</h2>
    <mat-dialog-content>
      <esq-choice-field label="Kind" [value]="kind()" [options]="kinds" (chosen)="become($any($event))" />
      <esq-value-field label="Cutting diameter DC" key="newDC" unit="mm" [value]="DC()" [accept]="takeDiameter" />
      @for (row of rows(); track row.key) {
        <esq-value-field
          [label]="row.label"
          [key]="'new' + row.key"
          [unit]="row.unit"
          [value]="row.value"
          [house]="row.isUsual"
          [optional]="true"
          [placeholder]="row.empty ?? ''"
          [symbols]="{ DC: DC() }"
          [accept]="taker(row.key)"
        />
      }
      <esq-text-field label="Name" [value]="cutter().name" [accept]="rename" />
      @if (problem()) {
        <p class="wrong" role="alert">{{ told(problem()) }}</p>
      }
      <p class="pencil">Grey is usual for such a cutter (common practice): type what is printed on yours.</p>
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton="filled" [disabled]="!!problem()" disabledInteractive (click)="make()">Make it</button>
      <button matButton mat-dialog-close>Cancel</button>
    </mat-dialog-actions>
  `,
})
export class NewCutterDialog {
  private readonly dialog = inject<MatDialogRef<NewCutterDialog, Omit<Cutter, 'id'>>>(MatDialogRef);
  protected readonly wish = inject<CutterWish>(MAT_DIALOG_DATA);
  protected readonly told = told;
  protected readonly kind = signal<CutterKind>(this.wish.kind);
  protected readonly DC = signal(6);
  /** What was typed in place of what is usual. */
  private readonly own = signal<Told>({});
  protected readonly kinds = CUTTER_KINDS.map((value) => ({
    value: value as string,
    label: CUTTER_WORDS[value],
    refused: this.wish.refused(value),
  }));

  protected readonly cutter = computed(() => usualCutter(this.kind(), this.DC(), this.own()));
  protected readonly rows = computed(() => {
    const cutter = this.cutter();
    const fixed: readonly Size[] = cutter.kind === 'ball' || cutter.kind === 'flat' ? ['RE'] : [];
    return SIZES.filter(({ key }) => hasSize(cutter.kind, key) && !fixed.includes(key)).map((row) => ({
      ...row,
      value: cutter[row.key],
      isUsual: !(row.key in this.own()),
    }));
  });
  protected readonly problem = computed(() => {
    const read = cutterSchema.safeParse({ ...this.cutter(), id: 'new' });
    return read.success ? '' : read.error.issues[0]!.message;
  });

  protected become(kind: CutterKind): void {
    this.kind.set(kind);
    this.own.set({});
  }

  protected readonly takeDiameter = (value: number | null): string | undefined => {
    if (value === null || !(value > 0 && value <= 500)) return 'A diameter above 0 and up to 500 mm.';
    this.DC.set(value);
    return undefined;
  };

  protected taker(key: Size): (value: number | null) => string | undefined {
    return (value) => {
      this.own.update((own) => {
        const next: Record<string, unknown> = { ...own };
        if (value !== null) next[key] = value;
        else if (key === 'DN' || key === 'LN') Object.assign(next, { DN: null, LN: null });
        else delete next[key];
        return next as Told;
      });
      return undefined;
    };
  }

  protected readonly rename = (name: string): string | undefined => {
    if (name.trim() === '' || name.length > 80) return 'A name of 1 to 80 characters.';
    this.own.update((own) => ({ ...own, name: name.trim() }));
    return undefined;
  };

  protected make(): void {
    this.dialog.close(this.cutter());
  }
}
