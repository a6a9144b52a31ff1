import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatButtonModule } from '@angular/material/button';
import {
  AS_DRAWN,
  blockInSetup,
  type Box,
  isPlanLimit,
  kindOf,
  MISSED_SHARE,
  NOT_CUT,
  OUT_OF_REACH,
  toolOf,
  type Vec3,
  workZeroPoint,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import type { OrthographicCamera } from 'three';
import { LENSES } from '../lens/lenses';
import { LensData } from '../lens/lensData';
import { Engine } from '../engine/engine';
import { runOf } from '../engine/runs';
import { Keys } from '../shared/keys';
import { Theme } from '../shared/theme';
import { Turns } from '../shared/turns';
import { clock } from '../shared/numbers';
import { told } from '../shared/units';
import { jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { timeBefore } from '../state/planTime';
import { leftoverColour, type Rgb, rgb } from './palette';
import { LEVEL_LIGHT } from './studio';
import { PathChoice } from './pathChoice';
import { BenchScene, type ViewName } from './scene';
import type { LimitLine } from './solids';
import { BenchStage } from './stage';

/** A press that moves less than this is no drag, pixels. */
const STILL_PIXELS = 4;
/** Gouges below this are rounding and chord error of the drawn mesh, mm. */
const GOUGE_MM = 0.01;
/** Steel within this of the block's top is still raw, mm. */
const RAW_MM = 1e-3;
/** Size of the small picture of a job, pixels. */
const PICTURE = [144, 96] as const;
/** Beside what is fitted into the view so much is seen, mm. */
const FIT_BESIDE_MM = 5;
const NONE = new Float64Array();
const NOTHING: readonly never[] = [];
/** Whether two small plain values are equal: what did not change is not drawn again. */
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** A colour that is seen as it is told on a level face in full light. */
const asLit = ([r, g, b]: Rgb): Rgb => [r / LEVEL_LIGHT, g / LEVEL_LIGHT, b / LEVEL_LIGHT];

/** How much of the part is seen through a block that nothing was cut of. */
const PART_INSIDE = 0.55;

/** The bench: part or steel in 3D, the path of the chosen step, and the cutter at the playhead. */
@Component({
  selector: 'esq-bench',
  imports: [MatMenuModule, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './bench.scss',
  template: `
    <canvas
      #canvas
      (pointerdown)="down($event)"
      (pointerup)="up($event)"
      tabindex="0"
      aria-label="Bench: drag to turn, wheel to zoom, right drag to move"
    ></canvas>
    <p class="caption">{{ caption() }}</p>
    @if (wrongHere(); as wrong) {
      <p class="caption wrong" role="status">{{ told(wrong) }}</p>
    }
    <div class="views" role="group" aria-label="Look from">
      @for (view of views.slice(0, 4); track view[0]) {
        <button matButton class="plain" (click)="look(view[0])">{{ view[1] }}</button>
      }
      <button matButton class="plain" [matMenuTriggerFor]="more">More …</button>
      <mat-menu #more="matMenu">
        @for (view of views.slice(4); track view[0]) {
          <button mat-menu-item (click)="look(view[0])">{{ view[1] }}</button>
        }
        <button mat-menu-item (click)="fitTo()" [disabled]="!chosenBox()">Fit to what is chosen</button>
      </mat-menu>
    </div>
    @if (isLost()) {
      <p class="empty" role="status">The graphics of this machine took the view away; it comes back by itself.</p>
    }
    <svg class="rose" viewBox="-30 -30 60 60" aria-hidden="true">
      @for (axis of axes(); track axis.name) {
        <line x1="0" y1="0" [attr.x2]="axis.x" [attr.y2]="axis.y" />
        <text [attr.x]="axis.x * 1.28" [attr.y]="axis.y * 1.28 + 4">{{ axis.name }}</text>
      }
    </svg>
    @if (!part()) {
      <div class="empty">
        <p>
          {{ job()?.part && !ready() ? 'Reading the part …' : 'There is no part yet. Bring one in at Piece.' }}
        </p>
      </div>
    }
  `,
})
export class Bench {
  protected readonly told = told;
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly theme = inject(Theme);
  private readonly lensData = inject(LensData);
  private readonly pathView = inject(PathChoice);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly scene = signal<BenchScene | undefined>(undefined);
  protected readonly job = this.store.selectSignal(jobFeature.selectJob);
  private readonly step = this.store.selectSignal(jobFeature.selectStep);
  protected readonly ready = this.store.selectSignal(planFeature.selectReady);
  private readonly stage = inject(BenchStage);
  private readonly turns = inject(Turns);
  protected readonly partOnly = computed(() => this.stage.slot()?.partOnly() ?? false);
  private readonly chosenLens = this.store.selectSignal(planFeature.selectLens);
  private readonly lens = computed(() => (this.partOnly() ? 'part' : this.chosenLens()));
  private readonly at = this.store.selectSignal(planFeature.selectAt);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  protected readonly isLost = signal(false);
  protected readonly axes = signal<{ name: string; x: number; y: number }[]>([]);
  protected readonly views: [ViewName, string][] = [
    ['isometric', 'Isometric'],
    ['top', 'Top'],
    ['front', 'Front'],
    ['right', 'Right'],
    ['back', 'Back'],
    ['left', 'Left'],
    ['underside', 'Underside'],
  ];

  private readonly colours = computed(() => this.stage.slot()?.colours());
  private readonly edges = computed(() => this.stage.slot()?.edges());
  private readonly lit = computed(() => this.stage.slot()?.lit() ?? NOTHING);
  private readonly marks = computed(() => this.stage.slot()?.marks() ?? NOTHING);

  protected readonly part = computed(() => (this.ready() ? this.engine.piece() : undefined));
  private readonly drawing = computed(() => this.part()?.drawing);
  private readonly fixtures = computed(() => this.part()?.fixtures);
  private readonly lay = computed(() => this.job()?.part?.lay ?? AS_DRAWN, { equal: same });
  /** The view is fitted anew for another part only, not for every change of how it lies or is held. */
  private readonly partKey = computed(() => this.part()?.key);
  private readonly boxes = computed(() => this.part()?.boxes, { equal: same });
  private readonly block = computed(
    () => {
      const job = this.job();
      const boxes = this.boxes();
      return job && boxes ? blockInSetup(job, boxes) : undefined;
    },
    { equal: same },
  );
  private readonly zero = computed(
    (): Vec3 => {
      const job = this.job();
      const boxes = this.boxes();
      return job && boxes ? workZeroPoint(job, boxes) : [0, 0, 0];
    },
    { equal: same },
  );
  /** Plan of a blank that is no box, in the frame of the work zero. */
  private readonly outline = computed((): [number, number][] => this.outlineNow(), { equal: same });

  private outlineNow(): [number, number][] {
    const blank = this.job()?.blank;
    const box = this.block();
    const [x, y] = this.zero();
    if (blank?.kind === 'outline') return blank.points.map(([u, v]) => [u - x, v - y]);
    if (blank?.kind !== 'cylinder' || !box) return [];
    return Array.from({ length: 72 }, (_, k) => [
      (box.minX + box.maxX) / 2 + (blank.diameter / 2) * Math.cos((k * Math.PI) / 36),
      (box.minY + box.maxY) / 2 + (blank.diameter / 2) * Math.sin((k * Math.PI) / 36),
    ]);
  }

  /** Where the chosen step is held in plan, in the frame of the work zero. */
  private readonly limits = computed(
    (): LimitLine[] => {
      const [x, y] = this.zero();
      return (this.step()?.limits ?? []).filter(isPlanLimit).map(({ kind, points }) => ({
        isClosed: kind === 'clear',
        points: points.map(([u, v]) => [u - x, v - y]),
      }));
    },
    { equal: same },
  );

  /** Heights between which the chosen step is held, in the frame of the work zero. */
  private readonly heights = computed(
    (): number[] => {
      const step = this.step();
      const heights = (kindOf(step?.kind ?? '')?.fields ?? []).filter(({ height }) => height);
      return heights.map(({ key }) => step!.values[key]).filter((v): v is number => typeof v === 'number');
    },
    { equal: same },
  );

  /** How much of the part is seen through the steel: a block that nothing was cut of yet tells nothing by itself. */
  private readonly through = computed(() =>
    this.at() === undefined && this.lens() === 'steel'
      ? Math.max(PART_INSIDE, this.lensData.through())
      : this.lensData.through(),
  );

  protected readonly caption = computed(() => {
    const caption = LENSES.find((l) => l.id === this.lens())!.caption;
    if (
      this.lens() === 'part' ||
      this.lensData.shown()?.isRegion ||
      this.lens() === 'reach' ||
      this.lens() === 'ridges' ||
      this.lens() === 'load'
    )
      return caption;
    const at = this.at();
    if (!at) return this.part() ? 'full block, the part inside' : '';
    const index = this.job()?.steps.findIndex((s) => s.id === at.summary.stepId) ?? -1;
    const time =
      timeBefore(this.job()!, this.summaries(), at.summary.stepId) + (runOf(at.summary).times[at.motion] ?? 0);
    return `steel at ${clock(time)}, step ${index + 1}, motion ${at.motion}`;
  });

  /** What is wrong at the motion at which the playhead stands. */
  protected readonly wrongHere = computed((): string | undefined => {
    const at = this.at();
    return at?.summary.figures.findings.flatMap(({ places }) => places).find(({ motion }) => motion === at.motion)
      ?.text;
  });

  /** Where something is wrong: in all steps for the lens, else at the playhead. In the frame of the work zero. */
  private readonly crosses = computed(
    (): Vec3[] => {
      const isLens = this.lens() === 'contacts';
      const at = this.at();
      return this.summaries().flatMap((summary) => {
        const { x, y, z } = runOf(summary).path;
        return summary.figures.findings.flatMap(({ places }) =>
          places
            .filter(({ motion }) => isLens || (summary === at?.summary && motion === at.motion))
            .map(({ motion: k }): Vec3 => [x[k]!, y[k]!, z[k]!]),
        );
      });
    },
    { equal: same },
  );

  constructor() {
    const destroy = inject(DestroyRef);
    inject(Keys).bind([{ keys: ['f'], shown: 'F', what: 'fit the view', run: () => this.look('isometric') }], destroy);
    afterNextRender(() => {
      const canvas = this.canvas().nativeElement;
      const scene = new BenchScene(canvas);
      scene.onLost = (isLost) => this.isLost.set(isLost);
      scene.onDrawn = (camera) => this.turnRose(camera);
      const observer = new ResizeObserver(([entry]) => {
        const { width, height } = entry!.contentRect;
        scene.resize(width, height);
      });
      observer.observe(canvas.parentElement!);
      destroy.onDestroy(() => {
        observer.disconnect();
        for (const key of ['steel', 'path', 'tool']) this.turns.forget(key);
        scene.dispose();
      });
      this.stage.towardsEye = () => scene.towardsEye();
      this.stage.picture = () => (this.part() && this.stage.slot() ? scene.picture(...PICTURE) : Promise.resolve(''));
      this.stage.place(this.host);
      this.scene.set(scene);
    });
    effect(() => this.scene()?.setParked(this.stage.slot() === undefined));
    effect(() => this.scene()?.setPalette(this.theme.palette()));
    effect(() => this.drawPart());
    effect(() => this.drawBlock());
    effect(() => this.drawGlyphs());
    effect(() => this.scene()?.part.light(this.drawing(), this.lit()));
    effect(() => {
      const [x, y, z] = this.zero();
      this.scene()?.around.setMarks(this.marks().map((m): Vec3 => [m[0] - x, m[1] - y, m[2] - z]));
    });
    effect(() => this.scene()?.around.setCrosses(this.lens() === 'part' ? [] : this.crosses()));
    effect(() => this.scene()?.show(this.lens() === 'part' ? 'part' : 'steel', this.through()));
    effect(() => this.drawSteel());
    effect(() => this.drawPath());
    effect(() => this.fitFirst());
  }

  protected look(name: ViewName): void {
    this.scene()?.look(name, this.block());
  }

  /** What is lit or limits the chosen step, as a box in the frame of the work zero. */
  protected readonly chosenBox = computed((): Box | undefined => {
    const block = this.block();
    const plan = this.limits().flatMap((l) => l.points);
    if (!block) return undefined;
    const marks = this.marks().map((m) => m.map((v, k) => v - this.zero()[k]!));
    const points = [
      ...plan.flatMap(([x, y]) => [
        [x, y, block.minZ],
        [x, y, block.maxZ],
      ]),
      ...marks,
    ];
    if (points.length === 0) return undefined;
    const along = (axis: number): [number, number] => {
      const values = points.map((p) => p[axis]!);
      return [Math.min(...values) - FIT_BESIDE_MM, Math.max(...values) + FIT_BESIDE_MM];
    };
    const [[minX, maxX], [minY, maxY], [minZ, maxZ]] = [along(0), along(1), along(2)];
    return { minX, maxX, minY, maxY, minZ, maxZ };
  });

  protected fitTo(): void {
    const box = this.chosenBox();
    if (box) this.scene()?.fit(box);
  }

  private fitFirst(): void {
    const scene = this.scene();
    if (scene && this.partKey()) untracked(() => this.look('isometric'));
  }

  private drawPart(): void {
    const scene = this.scene();
    this.theme.palette();
    scene?.part.set(this.drawing(), this.lay(), this.zero(), this.colours(), this.edges());
  }

  private drawBlock(): void {
    this.theme.palette();
    const scene = this.scene();
    scene?.around.setBlock(this.block(), this.outline(), this.partOnly());
    scene?.around.setFixtures(this.fixtures() ?? NONE);
  }

  private drawGlyphs(): void {
    this.theme.palette();
    const block = this.block();
    this.scene()?.around.setLimits(this.limits(), block?.maxZ ?? 0, this.heights(), block);
  }

  private pressed?: { x: number; y: number };

  protected down(event: PointerEvent): void {
    this.pressed = event.button === 0 ? { x: event.clientX, y: event.clientY } : undefined;
  }

  /** A press without a drag points at the part, or at the path. */
  protected up(event: PointerEvent): void {
    const from = this.pressed;
    this.pressed = undefined;
    if (!from || Math.hypot(event.clientX - from.x, event.clientY - from.y) > STILL_PIXELS) return;
    const frame = this.canvas().nativeElement.getBoundingClientRect();
    const place = [(event.clientX - frame.left) / frame.width, (event.clientY - frame.top) / frame.height] as const;
    if (!this.partOnly()) {
      this.standAt(this.scene()?.motionAt(...place));
      return;
    }
    const hit = this.scene()?.pick(...place);
    if (!hit) return;
    const zero = this.zero();
    const point = hit.point.map((v, k) => v + zero[k]!) as Vec3;
    this.stage.slot()?.pointed.emit({ triangle: hit.triangle, point, reach: hit.reach });
  }

  /** Puts the playhead to a motion of the path that is drawn. */
  private standAt(motion: number | undefined): void {
    const stepId = this.at()?.summary.stepId;
    if (motion !== undefined && stepId) this.store.dispatch(PlanActions.playheadMoved({ moment: { stepId, motion } }));
  }

  private drawSteel(): void {
    const scene = this.scene();
    const shown = this.lensData.shown();
    const palette = this.theme.palette();
    if (!scene || !shown) {
      this.turns.forget('steel');
      scene?.steel.set(undefined);
      return;
    }
    const graphite = rgb(palette.graphite);
    const raw = rgb(palette.graphiteSide);
    const top = this.block()?.maxZ ?? Infinity;
    const { high, isRegion, beyond, ridges } = shown;
    const outOfReach = rgb(palette.ochre);
    const notCut = rgb(palette.indigo);
    const tooMuch = rgb(palette.sanguine);
    const toCut = rgb(palette.verdigris);
    const brushed = this.lensData.brushed();
    const colourOf = (height: number, value: number | undefined): Rgb => {
      if (isRegion && value === 1) return asLit(toCut);
      if (ridges !== undefined && value === OUT_OF_REACH) return asLit(outOfReach);
      if (ridges !== undefined && value === NOT_CUT) return asLit(notCut);
      if (ridges !== undefined && value !== undefined && value > MISSED_SHARE * ridges) return asLit(tooMuch);
      if (beyond !== undefined && value !== undefined && value > beyond) return asLit(tooMuch);
      if (high !== undefined && value !== undefined && !Number.isNaN(value))
        return brushed && (value < brushed[0] || value > brushed[1])
          ? graphite
          : asLit(leftoverColour(value, high, GOUGE_MM));
      return height > top - RAW_MM ? raw : graphite;
    };
    this.turns.next('steel', () => scene.steel.set(shown.steel, colourOf));
  }

  private drawPath(): void {
    const scene = this.scene();
    const at = this.at();
    const job = this.job();
    if (!scene) return;
    this.theme.palette();
    if (this.lens() === 'part' || !at || !job) {
      this.turns.forget('path');
      this.turns.forget('tool');
      scene.setPath({}, this.pathView.view(), 0);
      scene.tool.set(undefined, false);
      return;
    }
    const run = runOf(at.summary);
    const { path } = run;
    const view = this.pathView.view();
    const drawn = this.pathView.isShown() ? run : {};
    this.turns.next('path', () => scene.setPath(drawn, view, at.motion));
    const step = job.steps.find((s) => s.id === at.summary.stepId);
    const tool = step && toolOf(job.crib, step.assemblyId);
    const isWrong = this.wrongHere() !== undefined;
    const shownTool = this.pathView.hasTool() ? tool : undefined;
    const place = [path.x[at.motion]!, path.y[at.motion]!, path.z[at.motion]!] as const;
    this.turns.next('tool', () => scene.tool.set(shownTool, isWrong, place));
  }

  private turnRose(camera: OrthographicCamera): void {
    const e = camera.matrixWorldInverse.elements;
    this.axes.set(
      ['X', 'Y', 'Z'].map((name, k) => ({
        name,
        x: Math.round(e[4 * k]! * 190) / 10,
        y: -Math.round(e[4 * k + 1]! * 190) / 10,
      })),
    );
  }
}
