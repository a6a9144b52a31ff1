import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatButtonModule } from '@angular/material/button';
import { type Drilled, upToMicron, type Vec3 } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { length } from '../../shared/units';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { PieceLook } from './pieceLook';

const FIELDS: { key: keyof Drilled; label: string; axis?: 0 | 1 | 2 }[] = [
  { key: 'x', label: 'X', axis: 0 },
  { key: 'y', label: 'Y', axis: 1 },
  { key: 'diameter', label: 'Diameter' },
  { key: 'bottom', label: 'Bottom at height', axis: 2 },
];
/** A hole put in by hand begins with this diameter, mm. */
const DIAMETER = 20;

/** Holes that are in the block before the work begins; places are told from the work zero. */
@Component({
  selector: 'esq-drilled-section',
  imports: [MatExpansionModule, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section">
      <div class="row">
        <h2>Pre-drilled holes</h2>
        <button matButton="outlined" class="press" (click)="add()" data-testid="add-drilled">Add a hole</button>
      </div>
      @for (h of holes(); track $index; let k = $index) {
        <mat-expansion-panel class="fold mat-elevation-z0" data-testid="drilled">
          <mat-expansion-panel-header>{{ title(h) }}</mat-expansion-panel-header>
          @for (f of fields; track f.key) {
            <esq-value-field [label]="f.label" unit="mm" [value]="shown(h, f)" [accept]="acceptor(k, f)" />
          }
          <button matButton class="plain" [attr.aria-label]="'Remove hole ' + (k + 1)" (click)="remove(k)">
            Remove
          </button>
        </mat-expansion-panel>
      } @empty {
        <p class="pencil">Entries into full steel. Point at an upright hole of the part, or put one in.</p>
      }
    </section>
  `,
})
export class DrilledSection {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  private readonly look = inject(PieceLook);
  private readonly store = inject(Store);
  protected readonly fields = FIELDS;
  protected readonly holes = computed(() => this.editor.job()?.drilled ?? []);

  protected title(h: Drilled): string {
    const [x, y, z] = this.look.zero();
    return `⌀ ${length(h.diameter, 2)} at X ${length(h.x - x, 2)} Y ${length(h.y - y, 2)}, down to ${length(h.bottom - z, 2)}`;
  }

  protected shown(h: Drilled, f: (typeof FIELDS)[number]): number {
    return upToMicron(h[f.key] - this.zeroOf(f));
  }

  protected acceptor(k: number, f: (typeof FIELDS)[number]): (value: number | null) => string | undefined {
    return (value) =>
      value === null
        ? 'A hole needs this figure.'
        : this.put(this.holes().map((h, i) => (i === k ? { ...h, [f.key]: value + this.zeroOf(f) } : h)));
  }

  protected add(): void {
    const box = this.engine.piece()?.boxes.part;
    if (!box) return;
    const hole: Drilled = {
      x: upToMicron((box.minX + box.maxX) / 2),
      y: upToMicron((box.minY + box.maxY) / 2),
      diameter: DIAMETER,
      bottom: upToMicron(box.maxZ),
    };
    this.tell(this.put([...this.holes(), hole]));
  }

  protected remove(k: number): void {
    this.tell(this.put(this.holes().filter((_, i) => i !== k)));
  }

  private zeroOf(f: (typeof FIELDS)[number]): number {
    const zero: Vec3 = this.look.zero();
    return f.axis === undefined ? 0 : zero[f.axis];
  }

  private put(drilled: Drilled[]): string | undefined {
    return this.editor.change((job) => ({ ...job, drilled }));
  }

  private tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'piece' } }));
  }
}
