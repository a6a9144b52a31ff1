import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
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
import { toolOf, type Vec3 } from '@esquisse/core';
import { Store } from '@ngrx/store';
import type { OrthographicCamera } from 'three';
import { LensData } from '../lens/lensData';
import { runOf } from '../engine/runs';
import { Keys } from '../shared/keys';
import { Theme } from '../shared/theme';
import { Turns } from '../shared/turns';
import { told } from '../shared/units';
import { PlanActions } from '../state/plan.reducer';
import { BenchContent } from './benchContent';
import { HeightDrag } from './heightDrag';
import { PathChoice } from './pathChoice';
import { BenchScene, type ViewName } from './scene';
import { BenchStage } from './stage';
import { colourOf } from './steelColours';

/** A press that moves less than this is no drag, pixels. */
const STILL_PIXELS = 4;
/** Size of the small picture of a job, pixels. */
const PICTURE = [144, 96] as const;
const NONE = new Float64Array();

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
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (pointercancel)="drag.letGo(false)"
      (keydown.escape)="drag.letGo(false)"
      [class.height]="drag.litKey()"
      tabindex="0"
      aria-label="Bench: drag to turn, wheel to zoom, right drag to move"
    ></canvas>
    <p class="caption">{{ drag.words() || shows.caption() }}</p>
    @if (shows.wrongHere(); as wrong) {
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
        <button mat-menu-item (click)="fitTo()" [disabled]="!shows.chosenBox()">Fit to what is chosen</button>
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
    @if (!shows.part()) {
      <div class="empty">
        <p>
          {{
            shows.job()?.part && !shows.ready() ? 'Reading the part …' : 'There is no part yet. Bring one in at Piece.'
          }}
        </p>
      </div>
    }
  `,
})
export class Bench {
  protected readonly told = told;
  private readonly store = inject(Store);
  private readonly theme = inject(Theme);
  private readonly lensData = inject(LensData);
  private readonly pathView = inject(PathChoice);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly scene = signal<BenchScene | undefined>(undefined);
  private readonly stage = inject(BenchStage);
  protected readonly shows = inject(BenchContent);
  protected readonly drag = inject(HeightDrag);
  private readonly turns = inject(Turns);
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
      this.stage.picture = () =>
        this.shows.part() && this.stage.slot() ? scene.picture(...PICTURE) : Promise.resolve('');
      this.stage.place(this.host);
      this.scene.set(scene);
    });
    effect(() => this.scene()?.setParked(this.stage.slot() === undefined));
    effect(() => this.scene()?.setPalette(this.theme.palette()));
    effect(() => this.scene()?.setTurning(!this.drag.isHeld()));
    effect(() => this.drawPart());
    effect(() => this.drawBlock());
    effect(() => this.drawGlyphs());
    effect(() => this.scene()?.part.light(this.shows.drawing(), this.shows.lit()));
    effect(() => {
      const [x, y, z] = this.shows.zero();
      this.scene()?.around.setMarks(this.shows.marks().map((m): Vec3 => [m[0] - x, m[1] - y, m[2] - z]));
    });
    effect(() => this.scene()?.around.setCrosses(this.shows.lens() === 'part' ? [] : this.shows.crosses()));
    effect(() => this.scene()?.show(this.shows.lens() === 'part' ? 'part' : 'steel', this.shows.through()));
    effect(() => this.drawSteel());
    effect(() => {
      this.theme.palette();
      this.scene()?.around.setSketch(this.shows.sketch(), this.shows.at() === undefined);
    });
    effect(() => this.drawPath());
    effect(() => this.fitFirst());
  }

  protected look(name: ViewName): void {
    this.scene()?.look(name, this.shows.block());
  }

  protected fitTo(): void {
    const box = this.shows.chosenBox();
    if (box) this.scene()?.fit(box);
  }

  private fitFirst(): void {
    const scene = this.scene();
    if (scene && this.shows.partKey()) untracked(() => this.look('isometric'));
  }

  private drawPart(): void {
    const scene = this.scene();
    this.theme.palette();
    scene?.part.set(
      this.shows.drawing(),
      this.shows.lay(),
      this.shows.zero(),
      this.shows.colours(),
      this.shows.edges(),
    );
  }

  private drawBlock(): void {
    this.theme.palette();
    const scene = this.scene();
    scene?.around.setBlock(this.shows.block(), this.shows.outline(), this.shows.partOnly());
    scene?.around.setFixtures(this.shows.fixtures() ?? NONE);
  }

  private drawGlyphs(): void {
    this.theme.palette();
    const block = this.shows.block();
    this.scene()?.around.setLimits(
      this.shows.limits(),
      block?.maxZ ?? 0,
      this.drag.heights(),
      block,
      this.drag.litKey(),
    );
  }

  private pressed?: { x: number; y: number };

  protected down(event: PointerEvent): void {
    const scene = this.scene();
    const isMain = event.button === 0 && event.isPrimary;
    if (isMain && scene && this.drag.take(scene.seen(), [event.offsetX, event.offsetY])) {
      // before the view's own drag, which begins with the same press
      scene.setTurning(false);
      this.canvas().nativeElement.setPointerCapture(event.pointerId);
      return;
    }
    this.pressed = isMain ? { x: event.clientX, y: event.clientY } : undefined;
  }

  protected move(event: PointerEvent): void {
    const scene = this.scene();
    // while the view is turned nothing is taken hold of
    if (scene && (event.buttons === 0 || this.drag.isHeld()))
      this.drag.move(scene.seen(), [event.offsetX, event.offsetY]);
  }

  /** A press without a drag points at the part, or at the path. */
  protected up(event: PointerEvent): void {
    if (this.drag.isHeld()) {
      this.drag.letGo(true);
      return;
    }
    const from = this.pressed;
    this.pressed = undefined;
    if (!from || Math.hypot(event.clientX - from.x, event.clientY - from.y) > STILL_PIXELS) return;
    const frame = this.canvas().nativeElement.getBoundingClientRect();
    const place = [(event.clientX - frame.left) / frame.width, (event.clientY - frame.top) / frame.height] as const;
    if (!this.shows.partOnly()) {
      this.standAt(this.scene()?.motionAt(...place));
      return;
    }
    const hit = this.scene()?.pick(...place);
    if (!hit) return;
    const zero = this.shows.zero();
    const point = hit.point.map((v, k) => v + zero[k]!) as Vec3;
    this.stage.slot()?.pointed.emit({ triangle: hit.triangle, point, reach: hit.reach });
  }

  /** Puts the playhead to a motion of the path that is drawn. */
  private standAt(motion: number | undefined): void {
    const stepId = this.shows.at()?.summary.stepId;
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
    const colour = colourOf(shown, palette, this.shows.block()?.maxZ ?? Infinity, this.lensData.brushed());
    this.turns.next('steel', () => scene.steel.set(shown.steel, colour));
  }

  private drawPath(): void {
    const scene = this.scene();
    const at = this.shows.at();
    const job = this.shows.job();
    if (!scene) return;
    this.theme.palette();
    if (this.shows.lens() === 'part' || !at || !job) {
      this.turns.forget('path');
      this.turns.forget('tool');
      scene.setPath({}, this.pathView.view(), 0);
      scene.tool.set(undefined, false);
      return;
    }
    const run = runOf(at.summary);
    const { path } = run;
    const view = this.pathView.view();
    // beside the pattern of what a step is to be, its path of before would be taken for it
    const isOld = this.shows.sketch() !== undefined && at.summary.stepId === this.shows.stepId();
    const drawn = this.pathView.isShown() && !isOld ? run : {};
    this.turns.next('path', () => scene.setPath(drawn, view, at.motion));
    const step = job.steps.find((s) => s.id === at.summary.stepId);
    const tool = step && toolOf(job.crib, step.assemblyId);
    const isWrong = this.shows.wrongHere() !== undefined;
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
