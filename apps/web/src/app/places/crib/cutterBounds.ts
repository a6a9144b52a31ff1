import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { type Cutter, HOUSE_HELIX_DEG, refusesMilling, type Tool } from '@esquisse/core';
import { Fold } from '../../shared/fold';
import { told } from '../../shared/units';
import { ValueField } from '../../shared/valueField';
import { withCutterChange } from '../../state/edit';
import { Editor } from '../../state/editor';

type BoundKey = 'RMPX' | 'DMIN' | 'mostAp' | 'mostAe' | 'FHA' | 'largestPitch';
const BOUNDS: { key: BoundKey; label: string; unit: string; empty: string; why: string }[] = [
  {
    key: 'RMPX',
    label: 'Steepest way down RMPX',
    unit: '°',
    empty: 'as steps ask',
    why: 'Helices and ramps go down no steeper than this, whatever a step asks for.',
  },
  {
    key: 'DMIN',
    label: 'Smallest bore by helix DMIN',
    unit: 'mm',
    empty: 'as steps ask',
    why: 'A helix is no narrower than its bore less DC; where there is no room for it a ramp is tried.',
  },
  {
    key: 'mostAp',
    label: 'Largest ap',
    unit: 'mm',
    empty: 'its flutes',
    why: 'Steps begin with no more; what the steel was cut deeper is told with their load.',
  },
  {
    key: 'mostAe',
    label: 'Largest ae',
    unit: 'mm',
    empty: 'DC',
    why: 'Steps begin with no more; what was cut wider is told with their load.',
  },
  {
    key: 'FHA',
    label: 'Helix angle FHA',
    unit: '°',
    empty: `${HOUSE_HELIX_DEG}`,
    why: 'More teeth share a deep cut where the edges lie aslant: force and bending follow from it.',
  },
  {
    key: 'largestPitch',
    label: 'Largest flute pitch',
    unit: '°',
    empty: 'even',
    why: 'Where edges stand unevenly the one after the largest pitch takes the thickest chip.',
  },
];

/** What a cutter bears by its maker, and how its edges stand. */
@Component({
  selector: 'esq-cutter-bounds',
  imports: [Fold, MatCheckboxModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @let c = tool().cutter;
    <esq-fold name="What it bears" [brief]="brief()">
      <mat-checkbox [checked]="c.centreCutting" (change)="change({ centreCutting: $event.checked })"
        >Cuts over its centre</mat-checkbox
      >
      @for (b of bounds; track b.key) {
        <esq-value-field
          [label]="b.label"
          [key]="b.key"
          [value]="c[b.key]"
          [unit]="b.unit"
          [optional]="true"
          [placeholder]="b.empty"
          [symbols]="{ DC: c.DC, RE: c.RE, APMX: c.APMX }"
          [why]="b.why"
          [accept]="acceptor(b.key)"
        />
      }
    </esq-fold>
  `,
})
export class CutterBounds {
  private readonly editor = inject(Editor);
  readonly tool = input.required<Tool>();
  protected readonly bounds = BOUNDS;

  protected readonly brief = computed(() => {
    const c = this.tool().cutter;
    const words = [
      c.RMPX === null ? '' : `down ${c.RMPX}°`,
      c.mostAp === null ? '' : told(`ap ${c.mostAp} mm`),
      c.mostAe === null ? '' : told(`ae ${c.mostAe} mm`),
    ].filter(Boolean);
    if (words.length > 0) return words.join('  ');
    return refusesMilling(c) === undefined && !c.centreCutting ? 'not over its centre' : '';
  });

  protected change(change: Partial<Cutter>): void {
    this.editor.make('crib', (job) => withCutterChange(job, this.tool().cutter.id, change));
  }

  protected acceptor(key: BoundKey): (value: number | null) => string | undefined {
    return (value) => this.editor.change((job) => withCutterChange(job, this.tool().cutter.id, { [key]: value }));
  }
}
