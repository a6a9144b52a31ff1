import { ChangeDetectionStrategy, Component, computed, HostListener, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import {
  blockBox,
  cutterSymbols,
  type FaceLimit,
  isPlanLimit,
  kindOf,
  type LimitSide,
  outlineOfShape,
  planOf,
  type Relation,
  type Shape,
  shapeProblem,
  SHAPES,
  type StepLimit,
  workZeroPoint,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../engine/engine';
import { Drawings } from '../keeping/drawings';
import { ChoiceField } from '../shared/choiceField';
import { ValueField } from '../shared/valueField';
import { withRelation, withStep } from '../state/edit';
import { Editor } from '../state/editor';
import { jobFeature } from '../state/job.reducer';
import { told } from '../shared/units';
import { ChosenStep } from './chosenStep';
import { FacePicking } from './facePicking';

const SIDES: { value: LimitSide; label: string }[] = [
  { value: 'inside', label: 'whole cutter inside' },
  { value: 'on', label: 'axis up to it' },
  { value: 'outside', label: 'cutter just past it' },
];

const FACE_WORDS: Record<FaceLimit['kind'], string> = {
  faces: 'only on',
  'off-faces': 'clear of',
  'more-on-faces': 'more on',
};

/** Sizes of shapes, and which shapes have them. */
const SHAPE_FIELDS: readonly { key: keyof Shape; label: string; unit: string; of: readonly Shape['kind'][] }[] = [
  { key: 'x', label: 'Middle in X', unit: 'mm', of: SHAPES },
  { key: 'y', label: 'Middle in Y', unit: 'mm', of: SHAPES },
  { key: 'length', label: 'Length', unit: 'mm', of: ['rectangle', 'slot'] },
  { key: 'length', label: 'Diameter', unit: 'mm', of: ['circle'] },
  { key: 'length', label: 'Across its corners', unit: 'mm', of: ['polygon'] },
  { key: 'width', label: 'Width', unit: 'mm', of: ['rectangle', 'slot'] },
  { key: 'corner', label: 'Corner radius', unit: 'mm', of: ['rectangle'] },
  { key: 'sides', label: 'Sides', unit: '', of: ['polygon'] },
  { key: 'turn', label: 'Turned by', unit: '°', of: ['rectangle', 'slot', 'polygon'] },
];

/** What a limit keeps of a shape. */
const drawnLimit = (shape: Shape): { shape: Shape; points: [number, number][]; source: string } => ({
  shape,
  points: outlineOfShape(shape).map(([x, y]): [number, number] => [x, y]),
  source: `a ${shape.kind}`,
});

/** Where the chosen step is held in plan: outlines to stay within, and what to keep clear of. */
@Component({
  selector: 'esq-step-limits',
  imports: [ChoiceField, MatButtonModule, MatMenuModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (limit of limits(); track $index; let k = $index) {
      <div class="limit" data-testid="limit">
        <div class="row">
          @if (limit.kind === 'within' || limit.kind === 'clear') {
            <span class="source"
              ><b>{{ limit.kind === 'within' ? 'within' : 'clear of' }}</b> {{ limit.source }}</span
            >
          } @else {
            <span class="source"
              ><b>{{ faceWords[limit.kind] }}</b> {{ facesWords(limit) }}</span
            >
            <button
              matButton="outlined"
              class="press"
              [class.on]="picking.at() === k"
              [attr.aria-pressed]="picking.at() === k"
              (click)="picking.pick(k)"
            >
              {{ picking.at() === k ? 'Done' : 'Pick' }}
            </button>
          }
          <button matButton class="plain" [attr.aria-label]="'Remove limit ' + (k + 1)" (click)="remove(k)">
            Remove
          </button>
        </div>
        @if (picking.at() === k) {
          <p class="pencil hint" role="status">Press faces on the bench: each is taken, or let go again.</p>
        }
        @if (faceTrouble(limit, k); as trouble) {
          <p class="trouble" data-testid="face-trouble">{{ trouble }}</p>
        }
        @if ((limit.kind === 'within' || limit.kind === 'clear') && limit.shape; as shape) {
          @for (size of sizesOf(shape); track size.key) {
            <esq-value-field
              [label]="size.label"
              [unit]="size.unit"
              [value]="size.value"
              [accept]="shaper(k, size.key)"
            />
          }
        }
        @if (limit.kind === 'within') {
          <esq-choice-field
            label="Cutter stops"
            [value]="limit.side"
            [options]="sides"
            (chosen)="change(k, { side: $any($event) })"
          />
        }
        @if (numberOf(limit); as n) {
          <esq-value-field
            [label]="n.label"
            unit="mm"
            [value]="n.value"
            [symbols]="symbols()"
            [relation]="limit.relations?.[n.key]"
            [trouble]="chosen.problems()['limits.' + k + '.' + n.key] ?? ''"
            [accept]="acceptor(k, n.key)"
          />
        }
      </div>
    }
    <div class="row">
      <span class="pencil">{{ limits().length > 0 ? 'More' : 'Boundary' }}</span>
      <span class="ways">
        <button matButton="outlined" class="press" (click)="block()">Block</button>
        <button matButton="outlined" class="press" (click)="file.click()">Drawing …</button>
        <button matButton="outlined" class="press" [matMenuTriggerFor]="byShape">Shape …</button>
        <mat-menu #byShape="matMenu">
          @for (kind of shapes; track kind) {
            <button mat-menu-item (click)="draw('within', kind)">Within a {{ kind }}</button>
          }
          @for (kind of shapes; track kind) {
            <button mat-menu-item (click)="draw('clear', kind)">Clear of a {{ kind }}</button>
          }
        </mat-menu>
        <button matButton="outlined" class="press" [matMenuTriggerFor]="byFaces">Faces …</button>
        <mat-menu #byFaces="matMenu">
          @if (canBeHeld()) {
            <button mat-menu-item (click)="picking.begin('faces')">Only on picked faces</button>
          }
          <button mat-menu-item (click)="picking.begin('off-faces')">Clear of picked faces</button>
          <button mat-menu-item (click)="picking.begin('more-on-faces')">Leave more on picked faces</button>
        </mat-menu>
        <input #file hidden type="file" accept=".dxf,.svg" data-testid="limit-file" (change)="drawing($event)" />
      </span>
    </div>
    @for (note of drawings.notes(); track $index) {
      <p class="pencil" data-testid="drawing-note">{{ told(note) }}</p>
    }
    <p class="pencil hint">Outlines of faces and edges are picked in Piece.</p>
  `,
  styles: `
    .limit {
      border-left: 2px solid var(--verdigris);
      padding-left: 8px;
      margin-bottom: 6px;
    }
    .source {
      overflow-wrap: anywhere;
    }
    .press {
      padding: 2px 6px;
    }
    .ways {
      display: flex;
      flex-wrap: wrap;
      justify-content: flex-end;
      gap: 4px;
    }
    .on {
      background: var(--chosen);
    }
    .trouble {
      font-size: 12px;
      color: var(--sanguine);
    }
    .hint {
      font-size: 12px;
    }
  `,
})
export class StepLimits {
  protected readonly told = told;
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly drawings = inject(Drawings);
  protected readonly chosen = inject(ChosenStep);
  protected readonly picking = inject(FacePicking);
  private readonly step = inject(Store).selectSignal(jobFeature.selectStep);
  protected readonly sides = SIDES;
  protected readonly shapes = SHAPES;
  protected readonly faceWords = FACE_WORDS;
  protected readonly limits = computed((): readonly StepLimit[] => this.step()?.limits ?? []);

  protected readonly symbols = computed((): Record<string, number> => {
    const tool = this.chosen.tool();
    return tool ? cutterSymbols(tool.cutter) : {};
  });

  protected readonly canBeHeld = computed(() => kindOf(this.step()?.kind ?? '')?.byFaces ?? false);

  /** The length that a limit has, with what it is called. */
  protected numberOf(limit: StepLimit): { key: string; label: string; value: number } | undefined {
    switch (limit.kind) {
      case 'within':
        return { key: 'offset', label: 'Outline wider by', value: limit.offset };
      case 'more-on-faces':
        return { key: 'amount', label: 'Beside the allowance', value: limit.amount };
      case 'faces':
        return undefined;
      default:
        return { key: 'distance', label: 'Distance', value: limit.distance };
    }
  }

  protected facesWords({ faces }: FaceLimit): string {
    const { length } = faces;
    return length === 0 ? 'no face yet' : length === 1 ? 'one face' : `${length} faces`;
  }

  /** Why the step cannot be calculated with a limit by faces, as far as its picks tell. */
  protected faceTrouble(limit: StepLimit, k: number): string {
    if (isPlanLimit(limit)) return '';
    const gone = limit.faces.filter((pick) => pick.lost).length;
    if (gone > 0)
      return `${gone === 1 ? 'One face is' : `${gone} faces are`} gone from the part: pick again what takes ${gone === 1 ? 'its' : 'their'} place, or remove this limit.`;
    if (limit.faces.length === 0 && this.picking.at() !== k) return 'Pick faces, or remove this limit.';
    return limit.kind === 'faces' && !this.canBeHeld()
      ? 'This kind of step cannot be held to faces: remove this limit.'
      : '';
  }

  @HostListener('document:keydown.escape')
  protected escape(): void {
    this.picking.end();
  }

  protected acceptor(k: number, key: string) {
    return (value: number | null, relation?: Relation): string | undefined =>
      this.change(k, {
        [key]: value ?? 0,
        relations: withRelation(this.limits()[k]?.relations, key, relation),
      });
  }

  protected change(k: number, change: Partial<StepLimit>): string | undefined {
    return this.put(this.limits().map((limit, i) => (i === k ? ({ ...limit, ...change } as StepLimit) : limit)));
  }

  protected remove(k: number): void {
    this.make(this.limits().filter((_, i) => i !== k));
  }

  protected block(): void {
    const job = this.editor.job();
    const boxes = this.engine.piece()?.boxes;
    if (!job || !boxes) return;
    const points = planOf(blockBox(job, boxes));
    this.make([...this.limits(), { kind: 'within', source: 'outline of the block', points, side: 'on', offset: 0 }]);
  }

  /** A shape in the middle of the block, half as large: its sizes are then typed. */
  protected draw(kind: 'within' | 'clear', shape: Shape['kind']): void {
    const job = this.editor.job();
    const boxes = this.engine.piece()?.boxes;
    if (!job || !boxes) return;
    const { minX, minY, maxX, maxY } = blockBox(job, boxes);
    const size = Math.max(1, Math.round(Math.min(maxX - minX, maxY - minY) / 2));
    const [x, y] = [(minX + maxX) / 2, (minY + maxY) / 2];
    const drawn = drawnLimit({ kind: shape, x, y, turn: 0, length: size, width: size / 2, corner: 0, sides: 6 });
    const limit =
      kind === 'within' ? { kind, ...drawn, side: 'inside' as const, offset: 0 } : { kind, ...drawn, distance: 0 };
    this.make([...this.limits(), limit]);
  }

  /** Sizes of a shape as they are typed: its middle from the work zero. */
  protected sizesOf(shape: Shape): { key: keyof Shape; label: string; unit: string; value: number }[] {
    const [zeroX, zeroY] = this.zero();
    return SHAPE_FIELDS.filter(({ of }) => of.includes(shape.kind)).map(({ key, label, unit }) => {
      const value = shape[key] as number;
      return { key, label, unit, value: key === 'x' ? value - zeroX : key === 'y' ? value - zeroY : value };
    });
  }

  protected shaper(k: number, key: keyof Shape) {
    return (value: number | null): string | undefined => {
      // as it is by now: the field beside it may have been entered since this one was drawn
      const limit = this.limits()[k];
      const shape = limit && 'shape' in limit ? limit.shape : undefined;
      if (!shape) return undefined;
      const [zeroX, zeroY] = this.zero();
      const typed = (value ?? 0) + (key === 'x' ? zeroX : key === 'y' ? zeroY : 0);
      const changed = { ...shape, [key]: typed };
      // sizes that cannot be would give no outline
      if (!(changed.length > 0) || !(changed.width > 0)) return 'Above 0.';
      return shapeProblem(changed)?.message ?? this.change(k, drawnLimit(changed));
    };
  }

  private zero(): readonly [number, number] {
    const job = this.editor.job();
    const boxes = this.engine.piece()?.boxes;
    const [x, y] = job?.part && boxes ? workZeroPoint(job, boxes) : [0, 0];
    return [x, y];
  }

  protected drawing(event: Event): void {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    const step = this.step();
    input.value = '';
    if (file && step) void this.drawings.importLimit(file, step.id);
  }

  private put(limits: StepLimit[]): string | undefined {
    const id = this.step()?.id;
    return id ? this.editor.change((job) => withStep(job, id, { limits })) : undefined;
  }

  private make(limits: StepLimit[]): void {
    const id = this.step()?.id;
    if (id) this.editor.make('workplan', (job) => withStep(job, id, { limits }));
  }
}
