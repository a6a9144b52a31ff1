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
  viewChild,
} from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { MatButtonModule } from '@angular/material/button';
import { type CdkDragEnd, DragDropModule } from '@angular/cdk/drag-drop';
import { kindOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { clock } from '../shared/numbers';
import { House } from '../keeping/house';
import { Keys } from '../shared/keys';
import { withNewStep, withStepAt } from '../state/edit';
import { Editor } from '../state/editor';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { timeBefore } from '../state/planTime';
import { SeveralSteps } from '../state/severalSteps';
import { type Block, stripBlocks } from './layout';
import { LeftoverCurve } from './leftoverCurve';
import { MOST_ZOOM, Transport } from './transport';
import { runOf } from '../engine/runs';
import { motionAt } from './motionAt';
import { Playback } from './playback';
import { StepChooser } from './stepChooser';
import { Turns } from '../shared/turns';
import { told } from '../shared/units';

/** Room for the steps before it was measured, pixels. */
const USUAL_ROOM = 1180;

/** The time line: one block a step, as wide as the time it takes; also the scrubber. */
@Component({
  selector: 'esq-run-strip',
  imports: [DragDropModule, LeftoverCurve, MatButtonModule, MatTooltipModule, StepChooser, Transport],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './runStrip.scss',
  template: `
    <div class="along" #along tabindex="-1" (wheel)="wheel($event)">
      <div class="line" [style.width.px]="length() + 2">
        <esq-leftover-curve [blocks]="blocks()" [length]="length()" />
        @for (b of blocks(); track b.id) {
          <button
            class="block"
            cdkDrag
            cdkDragLockAxis="x"
            cdkDragBoundary=".line"
            [cdkDragStartDelay]="{ touch: 200, mouse: 0 }"
            [class.chosen]="b.id === selected() || several.ids().includes(b.id)"
            [class.stale]="b.state === 'stale' || b.state === 'new'"
            [class.off]="b.state === 'off'"
            [class.working]="b.state === 'working'"
            [style.left.px]="b.left"
            [style.width.px]="b.width"
            [style.border-top-color]="b.tint"
            [attr.aria-pressed]="b.id === selected() || several.ids().includes(b.id)"
            [attr.data-testid]="'step-' + b.number"
            (cdkDragStarted)="isDragged = true"
            (cdkDragEnded)="drop(b.id, $event)"
            (click)="isDragged || press(b.id, $event)"
            (keydown.control.enter)="pressByKey($event, b.id)"
            (keydown.shift.enter)="pressByKey($event, b.id)"
          >
            <span class="title"
              ><b>{{ b.number }}</b> {{ b.name }}</span
            >
            <span class="mono pencil">{{ b.cutter }}</span>
            <span class="mono pencil">{{ b.time }}{{ b.leaves }}</span>
          </button>
          @if (b.change || b.unattended) {
            <span
              class="change mono"
              [class.hand]="b.isByHand"
              [style.left.px]="b.left"
              [matTooltip]="changeWords(b)"
              [attr.data-testid]="b.unattended ? 'unattended' : null"
              >{{ b.isByHand ? 'by hand' : b.change ? b.change + ' s' : '' }}
              @if (b.unattended) {
                <span>unattended {{ b.unattended }}</span>
              }
            </span>
          }
          @for (f of b.findings; track $index) {
            <button
              class="mark"
              [style.left.px]="f.left"
              [attr.aria-label]="told(f.text)"
              [matTooltip]="told(f.text)"
              (click)="stand(b.id, f.motion)"
            ></button>
          }
        }
        @if (headShown()) {
          <div class="head" [style.left.px]="head()" aria-hidden="true"></div>
        }
        <input
          class="scrub"
          type="range"
          min="0"
          max="10000"
          [value]="(head() / length()) * 10000"
          [disabled]="!headShown()"
          aria-label="Playhead"
          [attr.aria-valuetext]="headTime()"
          data-testid="scrub"
          (input)="scrub($any($event.target).value)"
        />
      </div>
    </div>
    <button
      matButton
      class="add"
      (click)="openChooser()"
      aria-haspopup="menu"
      [attr.aria-expanded]="choosing()"
      aria-label="Add a step"
      matTooltip="Add a step (A)"
      data-testid="add-step"
    >
      +
    </button>
    @if (choosing()) {
      <esq-step-chooser [index]="place()" (add)="add($event)" (closed)="closeChooser()" />
    }
    <esq-transport
      [zoom]="zoom()"
      [hasFindings]="anyFinding()"
      (zoomed)="zoomBy($event)"
      (nextFinding)="nextFinding()"
    />
  `,
})
export class RunStrip {
  protected readonly told = told;
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  protected readonly playback = inject(Playback);
  protected readonly several = inject(SeveralSteps);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly along = viewChild.required<ElementRef<HTMLElement>>('along');
  /** Room for the strip, pixels, and how much longer it is drawn. */
  private readonly room = signal(USUAL_ROOM);
  protected readonly zoom = signal(1);
  protected readonly selected = this.store.selectSignal(jobFeature.selectSelectedStepId);
  private readonly calculation = this.store.selectSignal(planFeature.selectCalculation);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly at = this.store.selectSignal(planFeature.selectAt);
  protected readonly choosing = signal(false);
  /** A block is dragged: letting it go is no press of it. */
  protected isDragged = false;

  private readonly turns = inject(Turns);

  constructor() {
    const { playback } = this;
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const observer = new ResizeObserver(([entry]) => this.room.set(entry!.contentRect.width - 2 || USUAL_ROOM));
      observer.observe(this.along().nativeElement);
      destroy.onDestroy(() => observer.disconnect());
    });
    destroy.onDestroy(() => this.turns.forget('reveal'));
    // the playhead is kept in sight, as soon as what was drawn has its place
    effect(() => {
      const head = this.head();
      this.turns.next('reveal', () => this.reveal(head));
    });
    inject(Keys).bind(
      [
        { keys: [' '], shown: 'Space', what: 'play, stop', run: () => playback.toggle() },
        { keys: [','], shown: ', .', what: 'one motion back, on', run: () => playback.byMotion(-1) },
        { keys: ['.'], shown: ', .', what: 'one motion back, on', run: () => playback.byMotion(1) },
        { keys: [';'], shown: "; '", what: 'one step back, on', run: () => playback.byStep(-1) },
        { keys: ["'"], shown: "; '", what: 'one step back, on', run: () => playback.byStep(1) },
        {
          keys: ['b'],
          shown: 'B',
          what: 'this step: steel before, after, leftover, part',
          run: () => playback.compare(),
        },
        { keys: ['a'], shown: 'A', what: 'add a step', run: () => this.openChooserByKey() },
        {
          keys: [],
          shown: 'Ctrl Enter, Shift Enter',
          what: 'on a step of the plan: choose it besides, or all up to it',
          run: () => undefined,
        },
      ],
      destroy,
    );
  }

  /** Where a new step would come: behind the chosen one. */
  protected readonly place = computed(() => {
    const steps = this.editor.job()?.steps ?? [];
    const chosen = steps.findIndex((s) => s.id === this.selected());
    return chosen < 0 ? steps.length : chosen + 1;
  });

  protected readonly blocks = computed((): Block[] => {
    const job = this.editor.job();
    const state = {
      summaries: this.summaries(),
      fresh: this.fresh(),
      workingId: this.calculation()?.stepId,
      isTold: this.isTold(),
      magazine: job ? this.house.magazineOf(job.setup.machine.name) : undefined,
    };
    return job ? stripBlocks(job, state, this.room() * this.zoom(), textWidth) : [];
  });

  /** Length of the whole strip, pixels. */
  protected readonly length = computed(() => {
    const last = this.blocks().at(-1);
    return Math.max(this.room(), last ? last.left + last.width : 0);
  });

  protected readonly headShown = computed(() => this.summaries().length > 0);

  /** Place of the playhead along the strip, pixels. */
  protected readonly head = computed(() => {
    const at = this.at();
    const block = this.blocks().find((b) => b.id === at?.summary.stepId);
    if (!at || !block) return 0;
    const share = at.summary.figures.time > 0 ? runOf(at.summary).times[at.motion]! / at.summary.figures.time : 0;
    return block.left + block.width * share;
  });

  /** Time at the playhead, in words. */
  protected readonly headTime = computed(() => {
    const at = this.at();
    const job = this.editor.job();
    if (!at || !job) return '';
    return clock(timeBefore(job, this.summaries(), at.summary.stepId) + runOf(at.summary).times[at.motion]!);
  });
  protected readonly anyFinding = computed(() => this.summaries().some((s) => s.figures.findings.length > 0));

  protected changeWords({ change, isByHand, unattended }: Block): string {
    const words = [
      isByHand
        ? 'Cutter changed by hand: it, or the one before, has no place in the magazine.'
        : change
          ? 'Cutter change.'
          : '',
      unattended ? `From here nobody has to come to the machine for ${unattended}.` : '',
    ];
    return words.filter(Boolean).join(' ');
  }

  /** With Ctrl a step is chosen besides, with Shift all up to it. */
  protected press(id: string, { ctrlKey, metaKey, shiftKey }: MouseEvent | KeyboardEvent): void {
    if (shiftKey) this.several.upTo(id);
    else if (ctrlKey || metaKey) this.several.toggle(id);
    else this.select(id);
  }

  protected pressByKey(event: Event, id: string): void {
    event.preventDefault();
    this.press(id, event as KeyboardEvent);
  }

  protected select(id: string): void {
    this.several.clear();
    this.store.dispatch(JobActions.stepSelected({ stepId: id }));
    const s = this.summaries().find((x) => x.stepId === id);
    if (s) this.stand(id, s.motions - 1);
  }

  protected stand(stepId: string, motion: number): void {
    this.store.dispatch(PlanActions.playheadMoved({ moment: { stepId, motion } }));
  }

  protected scrub(value: string): void {
    const at = (Number(value) / 10_000) * this.length();
    const block =
      this.blocks().find(
        (b) => at >= b.left && at <= b.left + b.width && this.summaries().some((s) => s.stepId === b.id),
      ) ??
      this.blocks()
        .filter((b) => this.summaries().some((s) => s.stepId === b.id))
        .pop();
    if (!block) return;
    const summary = this.summaries().find((s) => s.stepId === block.id)!;
    const time = Math.max(0, Math.min(1, (at - block.left) / block.width)) * summary.figures.time;
    this.stand(block.id, motionAt(runOf(summary).times, time));
  }

  private openChooserByKey(): void {
    this.choosing.set(true);
    setTimeout(() => this.host.querySelector<HTMLElement>('.chooser button')?.focus());
  }

  protected openChooser(): void {
    if (this.choosing()) this.closeChooser();
    else this.openChooserByKey();
  }

  /** Closes it; the keys go on from the button that opens it. */
  protected closeChooser(): void {
    this.choosing.set(false);
    this.focusSoon('.add');
  }

  /** Gives the focus to something in the strip once it is drawn. */
  private focusSoon(selector: string): void {
    setTimeout(() => this.host.querySelector<HTMLElement>(selector)?.focus());
  }

  protected add({ kind: kindId, assemblyId }: { kind: string; assemblyId?: string }): void {
    this.choosing.set(false);
    const job = this.editor.job();
    const after = this.selected() ?? job?.steps[job.steps.length - 1]?.id ?? null;
    const made = job && withNewStep(job, kindId, after, this.house.steps(), assemblyId);
    if (made) {
      this.editor.make('workplan', () => made.job, made.stepId);
      this.focusSoon('.block.chosen');
    } else
      this.store.dispatch(
        PlanActions.failed({
          trouble: {
            message: `No cutter in the crib can do "${kindOf(kindId)?.name}". Add one in Crib.`,
            place: 'crib',
          },
        }),
      );
  }

  /** A block that was dragged goes to where its middle lies. */
  protected drop(id: string, { source, distance }: CdkDragEnd): void {
    source.reset();
    // the press that comes with letting it go comes first
    setTimeout(() => (this.isDragged = false));
    const blocks = this.blocks();
    const from = blocks.findIndex((b) => b.id === id);
    const own = blocks[from]!;
    const middle = own.left + own.width / 2 + distance.x;
    const to = blocks.filter((b) => b.id !== id && b.left + b.width / 2 < middle).length;
    if (to !== from) this.editor.make('workplan', (job) => withStepAt(job, id, to));
  }

  protected wheel(event: WheelEvent): void {
    if (!event.ctrlKey) return;
    event.preventDefault();
    this.zoomBy(event.deltaY < 0 ? 1.25 : 0.8, event.clientX);
  }

  /** Draws the strip longer or shorter; what lies under the pointer, or the playhead, stays where it is. */
  protected zoomBy(factor: number, clientX?: number): void {
    const along = this.along().nativeElement;
    const seen = clientX === undefined ? this.head() - along.scrollLeft : clientX - along.getBoundingClientRect().left;
    const share = (along.scrollLeft + seen) / this.length();
    this.zoom.update((z) => Math.min(MOST_ZOOM, Math.max(1, z * factor)));
    setTimeout(() => (along.scrollLeft = share * this.length() - seen));
  }

  private reveal(head: number): void {
    const along = this.along().nativeElement;
    if (head < along.scrollLeft || head > along.scrollLeft + this.room()) along.scrollLeft = head - this.room() / 2;
  }

  protected nextFinding(): void {
    const all = this.blocks().flatMap((b) => b.findings.map((f) => ({ id: b.id, motion: f.motion, left: f.left })));
    const next = all.sort((a, b) => a.left - b.left).find((f) => f.left > this.head() + 1e-6) ?? all[0];
    if (next) this.stand(next.id, next.motion);
  }
}

const measures = new Map<string, number>();
let ruler: CanvasRenderingContext2D | null | undefined;

/** Width of a text on the strip, pixels. */
function textWidth(text: string, isName: boolean): number {
  const key = `${isName}${text}`;
  let width = measures.get(key);
  if (width === undefined) {
    ruler ??=
      typeof CanvasRenderingContext2D === 'undefined' ? null : document.createElement('canvas').getContext('2d');
    if (ruler) ruler.font = isName ? '600 13px Archivo, sans-serif' : "12px 'IBM Plex Mono', monospace";
    width = ruler ? ruler.measureText(text).width : 7 * text.length;
    measures.set(key, width);
  }
  return width;
}
