import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { ChoiceField } from '../../shared/choiceField';
import { MatButtonModule } from '@angular/material/button';
import {
  type Blank,
  blockBox,
  outlineArea,
  outlineBlank,
  planOf,
  sizeOf,
  standardBlock,
  upToMicron,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { Drawings } from '../../keeping/drawings';
import { figure } from '../../shared/numbers';
import { length, told, unitOf } from '../../shared/units';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { Fold } from '../../shared/fold';

const KINDS: { value: Blank['kind']; label: string }[] = [
  { value: 'offset', label: 'allowance on each side of the part' },
  { value: 'fixed', label: 'block of a fixed size' },
  { value: 'cylinder', label: 'round bar, upright' },
  { value: 'outline', label: 'plate by an outline' },
  { value: 'body', label: 'a body: cast, pre-milled, hardened' },
];

/** Fields of each kind of blank: key and label. */
const FIELDS: Record<Blank['kind'], [string, string][]> = {
  offset: [
    ['minX', 'Allowance at −X'],
    ['maxX', 'Allowance at +X'],
    ['minY', 'Allowance at −Y'],
    ['maxY', 'Allowance at +Y'],
    ['minZ', 'Allowance below'],
    ['maxZ', 'Allowance above'],
  ],
  fixed: [
    ['sizeX', 'Size in X'],
    ['sizeY', 'Size in Y'],
    ['sizeZ', 'Size in Z'],
    ['below', 'Below the part'],
    ['shiftX', 'Moved in X'],
    ['shiftY', 'Moved in Y'],
  ],
  cylinder: [
    ['diameter', 'Diameter'],
    ['height', 'Height'],
    ['below', 'Below the part'],
    ['shiftX', 'Moved in X'],
    ['shiftY', 'Moved in Y'],
  ],
  outline: [
    ['below', 'Below the part'],
    ['above', 'Above the part'],
  ],
  body: [['allowance', 'Allowance all round']],
};

/** What steel the work begins with. */
@Component({
  selector: 'esq-blank-section',
  imports: [ChoiceField, Fold, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (job(); as j) {
      <esq-fold name="Blank" open>
        <esq-choice-field label="Blank" [value]="j.blank.kind" [options]="kinds" (chosen)="chooseKind($any($event))" />
        @if (j.blank.kind === 'outline') {
          <div class="row">
            <span>Outline</span><span class="mono">{{ j.blank.source }}, {{ j.blank.points.length }} corners</span>
          </div>
        }
        @for (f of fields(); track f.key) {
          <esq-value-field [label]="f.label" [key]="f.key" [value]="f.value" unit="mm" [accept]="acceptor(f.key)" />
        }
        <button matButton class="plain" (click)="standard()">Next standard size that holds the part</button>
        <button matButton class="plain" (click)="file.click()">Outline from DXF or SVG …</button>
        <p class="pencil">or point at an edge or face in the view and take its outline.</p>
        <input #file type="file" hidden accept=".dxf,.svg" data-testid="outline-file" (change)="outline($event)" />
        @for (note of drawings.notes(); track $index) {
          <p class="pencil" data-testid="drawing-note">{{ told(note) }}</p>
        }
        @if (figures(); as f) {
          <div class="row">
            <span>Block</span
            ><span class="number"
              >{{ f.size }} <span class="unit">{{ unitOf('mm') }}</span></span
            >
          </div>
          <div class="row">
            <span>Weight</span
            ><span class="number" data-testid="weight">{{ figure(f.weight, 2) }} <span class="unit">kg</span></span>
          </div>
        }
      </esq-fold>
    }
  `,
})
export class BlankSection {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly drawings = inject(Drawings);
  private readonly store = inject(Store);
  protected readonly job = this.editor.job;
  protected readonly kinds = KINDS;
  protected readonly figure = figure;
  protected readonly told = told;
  protected readonly unitOf = unitOf;

  private readonly box = computed(() => {
    const job = this.job();
    const boxes = this.engine.piece()?.boxes;
    return job && boxes ? blockBox(job, boxes) : undefined;
  });

  protected readonly fields = computed(() => {
    const blank = this.job()?.blank;
    if (!blank) return [];
    const values = blank as unknown as Record<string, number>;
    return FIELDS[blank.kind].map(([key, label]) => ({ key, label, value: values[key]! }));
  });

  protected readonly figures = computed(() => {
    const box = this.box();
    const job = this.job();
    if (!box || !job) return undefined;
    const [x, y, z] = sizeOf(box);
    const b = job.blank;
    const plan =
      b.kind === 'cylinder' ? (Math.PI / 4) * b.diameter ** 2 : b.kind === 'outline' ? outlineArea(b.points) : x * y;
    // a body weighs what its mesh holds, its allowance left aside
    const volume = (b.kind === 'body' && this.engine.piece()?.blankVolume) || plan * z;
    return {
      size: `${length(x, 1)} x ${length(y, 1)} x ${length(z, 1)}`,
      weight: (volume * job.material.density) / 1e6,
    };
  });

  protected acceptor(key: string): (value: number | null) => string | undefined {
    return (value) => this.editor.change((job) => ({ ...job, blank: { ...job.blank, [key]: value ?? 0 } as Blank }));
  }

  protected chooseKind(kind: Blank['kind']): void {
    const box = this.box();
    const part = this.engine.piece()?.boxes.part;
    const before = this.job()?.blank.kind;
    if (!box || !part || !before || before === kind) return;
    const [x, y, z] = sizeOf(box).map(upToMicron) as [number, number, number];
    const below = upToMicron(Math.max(0, part.minZ - box.minZ));
    const shift = { shiftX: 0, shiftY: 0 };
    const blanks: Record<Blank['kind'], Blank> = {
      offset: { kind: 'offset', minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: 1 },
      fixed: { kind: 'fixed', sizeX: x, sizeY: y, sizeZ: z, below, ...shift },
      cylinder: { kind: 'cylinder', diameter: Math.ceil(Math.hypot(x, y)), height: z, below, ...shift },
      outline: outlineBlank('plan of the block', planOf(box), part, box),
      body: { kind: 'body', allowance: 0 },
    };
    this.take(this.editor.change((job) => ({ ...job, blank: blanks[kind] })));
  }

  /** The smallest block of the standard sizes that holds the part. */
  protected standard(): void {
    const part = this.engine.piece()?.boxes.part;
    if (!part) return;
    const [sizeX, sizeY, sizeZ] = standardBlock(sizeOf(part));
    this.take(
      this.editor.change((job) => ({
        ...job,
        blank: { kind: 'fixed', sizeX, sizeY, sizeZ, below: 0, shiftX: 0, shiftY: 0 },
      })),
    );
  }

  protected outline(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (file) void this.drawings.importBlank(file);
  }

  private take(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'piece' } }));
  }
}
