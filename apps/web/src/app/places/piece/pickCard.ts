import { ChangeDetectionStrategy, Component, computed, HostListener, inject } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { MatButtonModule } from '@angular/material/button';
import {
  blockBox,
  EsquisseError,
  type FaceLimit,
  type Job,
  kindOf,
  layWithX,
  layWithZ,
  type Measure,
  messageOf,
  middleBetween,
  outlineBlank,
  type Picked,
  type PlanLimit,
  pickTitle,
  type StepLimit,
  unlaid,
  upToMicron,
  type WorkZero,
  zeroAtPick,
  zeroOnAxis,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { figure } from '../../shared/numbers';
import { length, told, unitOf } from '../../shared/units';
import { withBoundValue, withStep } from '../../state/edit';
import { Editor } from '../../state/editor';
import { jobFeature } from '../../state/job.reducer';
import { Told } from '../../state/told';
import { PlanActions } from '../../state/plan.reducer';
import { FacePicking } from '../../sheet/facePicking';
import { PartSteps } from './partSteps';
import { PieceLook } from './pieceLook';

/** Outlines of one place taken as limits at most. */
const MOST_OUTLINES = 20;
/** A direction is upright, or level, to this. */
const UPRIGHT_COS = 0.99999;
const LEVEL_SIN = 1e-3;
/** Holes whose diameters differ by less than this are of one sort, mm. */
const SAME_DIAMETER_MM = 0.02;

/** What was pointed at in the view: its figures, and what can be made of it. */
@Component({
  selector: 'esq-pick-card',
  imports: [MatTooltipModule, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="cards">
      @if (height(); as here) {
        <div class="card" role="region" aria-label="Height">
          <p>
            Place at <b class="mono">{{ heightText(here.at) }}</b> {{ unitOf('mm') }}
          </p>
          <div class="deeds">
            @for (limit of limits(); track limit.key) {
              <button matButton="outlined" class="press" (click)="limitHere(limit.key)">
                {{ limit.label }} of "{{ step()!.name }}"
              </button>
            } @empty {
              <span class="pencil">No step takes a height yet.</span>
            }
          </div>
        </div>
      }
      @if (step() && look.allLit().length > 0) {
        <div class="card" role="region" aria-label="Place in plan">
          <p>In plan, for "{{ step()!.name }}":</p>
          <div class="deeds">
            <button matButton="outlined" class="press" (click)="hold('within')">Stay within it</button>
            <button matButton="outlined" class="press" (click)="hold('clear')">Keep clear of it</button>
            <button matButton class="plain" (click)="look.clear()">Done</button>
          </div>
          <div class="deeds">
            @if (canBeHeld()) {
              <button matButton="outlined" class="press" (click)="holdBy('faces')">Only on these faces</button>
            }
            <button matButton="outlined" class="press" (click)="holdBy('off-faces')">Clear of these faces</button>
            <button matButton="outlined" class="press" (click)="holdBy('more-on-faces')">Leave more on them</button>
          </div>
        </div>
      }
      @if (look.picks().length > 0) {
        <div class="card" role="region" aria-label="Picked">
          @for (p of look.picks(); track $index; let k = $index) {
            <p>
              <b class="mono">{{ k + 1 }}</b> {{ told(title(p)) }}
            </p>
          }
          @for (group of look.measures(); track group.title) {
            @for (m of group.rows; track m.label) {
              <button
                matButton
                class="measure"
                matTooltip="Copy"
                (click)="copy(m)"
                [attr.data-testid]="'measure-' + m.label"
              >
                <span class="pencil">{{ group.title }} {{ m.label }}</span>
                <span class="number"
                  >{{ measured(m) }} <span class="unit">{{ unitOf(m.unit) }}</span></span
                >
              </button>
            }
          }
          <div class="deeds">
            @if (up()) {
              <button matButton="outlined" class="press" (click)="zUp()">Z normal to the face</button>
            }
            @if (alongX()) {
              <button matButton="outlined" class="press" (click)="xAlong()">X along the edge</button>
            }
            @if (zeroPlace()) {
              <button matButton="outlined" class="press" (click)="zeroHere()">Work zero here</button>
            }
            @if (hole(); as h) {
              <button matButton="outlined" class="press" (click)="drilledHere(h)">Pre-drilled hole</button>
              <button matButton="outlined" class="press" (click)="stepsFor(h)">Steps for such holes …</button>
            }
            @if (last()?.outline) {
              <button matButton="outlined" class="press" (click)="blankOfOutline()">Blank of this outline</button>
            }
            @if (middle(); as m) {
              <button matButton="outlined" class="press" (click)="zeroMiddle(m)">
                zero {{ 'XYZ'[m.axis] }} in the middle
              </button>
            }
          </div>
        </div>
      }
    </div>
  `,
  styles: `
    .cards {
      position: absolute;
      left: 12px;
      bottom: 84px;
      width: 232px;
      display: flex;
      flex-direction: column-reverse;
      gap: 6px;
    }
    .card {
      padding: 8px 10px;
      background: var(--sheet);
      border: 1px solid var(--rule);
      font-size: 12px;
    }
    .measure {
      display: flex;
      justify-content: space-between;
      width: 100%;
      border: 0;
      background: none;
      padding: 1px 0;
      cursor: copy;
    }
    .measure:hover {
      background: var(--chosen);
    }
    .deeds {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      margin-top: 6px;
    }
    .deeds .press {
      padding: 2px 6px;
    }
  `,
})
export class PickCard {
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  private readonly editor = inject(Editor);
  private readonly steps = inject(PartSteps);
  private readonly engine = inject(Engine);
  private readonly store = inject(Store);
  private readonly isTold = inject(Told);
  protected readonly look = inject(PieceLook);
  private readonly picking = inject(FacePicking);
  protected readonly title = pickTitle;
  protected readonly step = this.store.selectSignal(jobFeature.selectStep);
  protected heightText(at: number): string {
    return length(this.look.heightInZero(at));
  }
  /** Heights that the chosen step takes. */
  protected readonly limits = computed(() => (kindOf(this.step()?.kind ?? '')?.fields ?? []).filter((f) => f.height));

  protected readonly last = computed(() => this.look.picks()[this.look.picks().length - 1]);
  /** A place that has one height, in the laid frame, mm: it can be made a limit of a step. */
  protected readonly height = computed((): { at: number; what: string; x?: number; y?: number } | undefined => {
    const lit = this.look.litHeight();
    if (lit !== undefined) return { at: lit, what: this.look.litName() };
    const p = this.last();
    if (!p) return undefined;
    const along = Math.abs(p.direction?.[2] ?? 0);
    const isLevel =
      p.kind === 'vertex' ||
      (p.kind === 'plane' && along > UPRIGHT_COS) ||
      (p.kind === 'hole' && along > UPRIGHT_COS) ||
      (p.kind === 'edge' && along < LEVEL_SIN);
    const [x, y, at] = p.at;
    return isLevel ? { at, what: pickTitle(p), x: upToMicron(x), y: upToMicron(y) } : undefined;
  });
  protected readonly up = computed(() => {
    const p = this.last();
    return p && (p.kind === 'plane' || p.kind === 'edge' || p.kind === 'cylinder' || p.kind === 'hole') ? p : undefined;
  });
  protected readonly alongX = computed(() => {
    const p = this.last();
    return p?.direction && Math.abs(p.direction[2]) < 0.999 ? p : undefined;
  });
  protected readonly zeroPlace = computed(() => {
    const p = this.last();
    return p && (p.kind === 'vertex' || p.kind === 'hole' || p.kind === 'plane') ? p : undefined;
  });
  protected readonly middle = computed(() => {
    const [a, b] = this.look.picks();
    return a && b ? middleBetween(a, b) : undefined;
  });

  @HostListener('document:keydown.escape')
  protected escape(): void {
    this.look.clear();
  }

  protected measured(m: Measure): string {
    return m.unit === '°' ? figure(m.value, 2) : length(m.value);
  }

  protected copy(m: Measure): void {
    void navigator.clipboard?.writeText(m.value.toFixed(m.unit === '°' ? 3 : 4));
  }

  protected zUp(): void {
    const direction = this.up()?.direction;
    if (direction)
      this.editor.make('piece', (job) => ({
        ...job,
        part: job.part && { ...job.part, lay: layWithZ(job.part.lay, unlaid(job.part.lay, direction)) },
      }));
  }

  protected xAlong(): void {
    const direction = this.alongX()?.direction;
    if (direction)
      this.editor.make('piece', (job) => ({
        ...job,
        part: job.part && { ...job.part, lay: layWithX(job.part.lay, unlaid(job.part.lay, direction)) },
      }));
  }

  /** A corner or hole gives all three; a face only the height or side that it stands at. */
  protected zeroHere(): void {
    const p = this.zeroPlace();
    if (!p) return;
    if (p.kind !== 'plane') {
      const what = p.kind === 'hole' ? `middle of the ${pickTitle(p)}, at its upper rim` : 'picked corner';
      this.put((job) => zeroAtPick(job, p.at, what));
      return;
    }
    const axis = [0, 1, 2].find((k) => Math.abs(p.direction![k]!) > 0.99999) as 0 | 1 | 2 | undefined;
    if (axis !== undefined) this.putOnAxis(axis, p.at[axis], this.faceWords(p, axis));
  }

  protected zeroMiddle({ axis, value }: { axis: 0 | 1 | 2; value: number }): void {
    const apart = this.look.picks().map((p) => p.at[axis]);
    const wide = Math.abs(apart[1]! - apart[0]!).toFixed(2);
    this.putOnAxis(axis, value, `half way between the two faces ${wide} mm apart`);
  }

  /** A face in words that tell it from others: how far it stands from the part's top, or from its side. */
  private faceWords(p: Picked, axis: 0 | 1 | 2): string {
    const box = this.engine.piece()!.boxes.part;
    const [low, high] = [
      [box.minX, box.maxX],
      [box.minY, box.maxY],
      [box.minZ, box.maxZ],
    ][axis]!;
    const at = p.at[axis];
    if (axis === 2) return `the ${pickTitle(p)} ${(high! - at).toFixed(2)} mm under the part's top`;
    const name = 'XY'[axis];
    const toHigh = high! - at < at - low!;
    return `the ${pickTitle(p)} ${(toHigh ? high! - at : at - low!).toFixed(2)} mm inside the part's ${toHigh ? '+' : '−'}${name} side`;
  }

  /** A picked hole that stands upright. */
  protected readonly hole = computed(() => {
    const p = this.last();
    return p?.kind === 'hole' && p.radius && Math.abs(p.direction?.[2] ?? 0) > 0.999 ? p : undefined;
  });

  /** Steps for all holes of its diameter. */
  protected stepsFor({ radius }: Picked): void {
    const holes = this.look.survey()?.holes ?? [];
    this.steps.forHoles(holes.filter((h) => Math.abs(h.diameter - 2 * radius!) < SAME_DIAMETER_MM));
  }

  /** The hole is there before the work begins. */
  protected drilledHere({ at, radius, length }: Picked): void {
    const hole = {
      x: upToMicron(at[0]),
      y: upToMicron(at[1]),
      diameter: 2 * upToMicron(radius!),
      bottom: upToMicron(at[2] - (length ?? 0)),
    };
    const problem = this.editor.change((job) => ({ ...job, drilled: [...job.drilled, hole] }));
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'piece' } }));
    else this.look.clear();
  }

  /** The closed row of edges, drawn straight down: a pre-cut plate of this outline. */
  protected blankOfOutline(): void {
    const pick = this.last();
    const boxes = this.engine.piece()?.boxes;
    if (!pick?.outline || !boxes) return;
    const { outline } = pick;
    const source = `edges around the ${pickTitle(pick)}`;
    const problem = this.editor.change((job) => ({
      ...job,
      blank: outlineBlank(source, outline, boxes.part, blockBox(job, boxes)),
    }));
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'piece' } }));
    else this.look.clear();
  }

  protected limitHere(key: string): void {
    const step = this.step();
    const here = this.height();
    if (!step || !here) return;
    const value = Math.round(this.look.heightInZero(here.at) * 1e4) / 1e4;
    this.editor.make('piece', (job) => withBoundValue(job, step.id, key, value, { to: 'place', ...here }));
    this.look.clear();
  }

  /** Holds the chosen step within the outline of what is lit, or clear of it. */
  protected async hold(kind: PlanLimit['kind']): Promise<void> {
    const step = this.step();
    const pick = this.last();
    if (!step) return;
    try {
      await this.isTold.wait();
      const outlines = pick?.outline
        ? [pick.outline]
        : await this.engine.outlinesUnder(this.look.lay(), this.look.allLit());
      const source = pick ? pickTitle(pick) : this.look.litName();
      const held = outlines.slice(0, MOST_OUTLINES).map((points): StepLimit => {
        const of = { source, points };
        return kind === 'within' ? { kind, ...of, side: 'on', offset: 0 } : { kind, ...of, distance: 0.5 };
      });
      if (held.length === 0)
        throw new EsquisseError('value-invalid', 'This encloses nothing in plan: pick a face, or an edge that closes.');
      const problem = this.editor.change((job) => withStep(job, step.id, { limits: [...step.limits, ...held] }));
      if (problem) throw new EsquisseError('value-invalid', problem);
      this.look.clear();
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }

  protected readonly canBeHeld = computed(() => kindOf(this.step()?.kind ?? '')?.byFaces ?? false);

  /** Holds the chosen step by the faces that are lit. */
  protected async holdBy(kind: FaceLimit['kind']): Promise<void> {
    try {
      await this.isTold.wait();
      await this.picking.add(kind, this.look.allLit());
      this.look.clear();
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'piece' } }));
    }
  }

  private putOnAxis(axis: 0 | 1 | 2, value: number, what: string): void {
    const boxes = this.engine.piece()?.boxes;
    if (boxes) this.put((job) => zeroOnAxis(job, boxes, axis, value, what));
  }

  private put(zero: (job: Job) => WorkZero): void {
    this.editor.make('piece', (job) => (job.part ? { ...job, setup: { ...job.setup, workZero: zero(job) } } : job));
  }
}
