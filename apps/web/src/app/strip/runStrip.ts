import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  type ElementRef,
  inject,
  signal,
  viewChild,
} from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { MatButtonModule } from '@angular/material/button';
import { type Job, kindOf, toolOf, cutterTitle } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { clock, mm } from '../shared/numbers';
import { House } from '../keeping/house';
import { Keys } from '../shared/keys';
import { withNewStep, withStepAt } from '../state/edit';
import { Editor } from '../state/editor';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { motionAt } from './motionAt';
import { Playback } from './playback';
import { StepChooser } from './stepChooser';

/** Tints by which steps of the same cutter are told, in the order of first use. */
const TINTS = ['#6c7682', '#2e7d74', '#3c4c86', '#8c6a3f', '#7a4a5e', '#56703f'];
/** Narrowest block as a share of the strip, so that its name can be read. */
const NARROWEST = 0.09;

interface Block {
  id: string;
  number: number;
  name: string;
  cutter: string;
  time: string;
  leaves: string;
  tint: string;
  left: number;
  width: number;
  state: 'fresh' | 'stale' | 'new' | 'working' | 'asked';
  findings: { left: number; text: string; motion: number }[];
}

/** The time line: one block a step, as wide as the time it takes; also the scrubber. */
@Component({
  selector: 'esq-run-strip',
  imports: [MatTooltipModule, MatButtonModule, StepChooser],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './runStrip.scss',
  template: `
    <div class="line" #line>
      <svg class="curve" viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
        <polyline class="largest" [attr.points]="curve().largest" />
        <polyline class="median" [attr.points]="curve().median" />
      </svg>
      @for (b of blocks(); track b.id) {
        <button
          class="block"
          [class.chosen]="b.id === selected()"
          [class.stale]="b.state === 'stale' || b.state === 'new'"
          [class.working]="b.state === 'working'"
          [style.left.%]="b.left"
          [style.width.%]="b.width"
          [style.border-top-color]="b.tint"
          [attr.aria-pressed]="b.id === selected()"
          [attr.data-testid]="'step-' + b.number"
          draggable="true"
          (dragstart)="dragged = b.id"
          (dragover)="$event.preventDefault()"
          (drop)="drop(b.number - 1)"
          (click)="select(b.id)"
        >
          <span class="title"
            ><b>{{ b.number }}</b> {{ b.name }}</span
          >
          <span class="mono pencil">{{ b.cutter }}</span>
          <span class="mono pencil">{{ b.time }}{{ b.leaves }}</span>
        </button>
        @for (f of b.findings; track $index) {
          <button
            class="mark"
            [style.left.%]="f.left"
            [attr.aria-label]="f.text"
            [matTooltip]="f.text"
            (click)="stand(b.id, f.motion)"
          ></button>
        }
      }
      <button
        class="add"
        (click)="openChooser()"
        aria-haspopup="menu"
        [attr.aria-expanded]="choosing()"
        aria-label="Add a step"
        data-testid="add-step"
      >
        +
      </button>
      @if (headShown()) {
        <div class="head" [style.left.%]="head()" aria-hidden="true"></div>
      }
      <input
        class="scrub"
        type="range"
        min="0"
        max="10000"
        [value]="head() * 100"
        [disabled]="!headShown()"
        aria-label="Playhead"
        [attr.aria-valuetext]="readout()?.time ?? ''"
        data-testid="scrub"
        (input)="scrub($any($event.target).value)"
      />
    </div>
    @if (choosing()) {
      <esq-step-chooser [index]="place()" (add)="add($event)" (closed)="closeChooser()" />
    }
    <div class="transport">
      <button matButton class="plain" (click)="playback.toggle()" [disabled]="!headShown()" data-testid="play">
        {{ playing() ? '❚❚ stop' : '▸ play' }}
      </button>
      <button matButton class="plain" (click)="playback.slower()" aria-label="Slower">–</button>
      <span class="mono">{{ playback.speed() }}x</span>
      <button matButton class="plain" (click)="playback.faster()" aria-label="Faster">+</button>
      <button matButton class="plain" (click)="playback.byMotion(-1)" aria-label="One motion back">‹</button> motion
      <button matButton class="plain" (click)="playback.byMotion(1)" aria-label="One motion on">›</button>
      <button matButton class="plain" (click)="playback.byStep(-1)" aria-label="One step back">‹</button> step
      <button matButton class="plain" (click)="playback.byStep(1)" aria-label="One step on">›</button>
      <button matButton class="plain" (click)="nextFinding()" [disabled]="!anyFinding()">Next finding</button>
      <button
        matButton="outlined"
        class="press first all"
        (click)="calculateAll()"
        [disabled]="!anyStale()"
        disabledInteractive
        data-testid="calculate-all"
      >
        Calculate all
      </button>
      @if (readout(); as r) {
        <span class="read mono" data-testid="readout">
          X {{ r.x }} Y {{ r.y }} Z {{ r.z }} &nbsp; F {{ r.f }} &nbsp; S {{ r.s }} &nbsp; {{ r.time }}
          <span class="pencil">/ {{ total() }}</span>
        </span>
      }
    </div>
  `,
})
export class RunStrip {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  protected readonly playback = inject(Playback);
  private readonly line = viewChild.required<ElementRef<HTMLElement>>('line');
  protected readonly selected = this.store.selectSignal(jobFeature.selectSelectedStepId);
  protected readonly playing = this.store.selectSignal(planFeature.selectPlaying);
  private readonly calculation = this.store.selectSignal(planFeature.selectCalculation);
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly at = this.store.selectSignal(planFeature.selectAt);
  protected readonly choosing = signal(false);
  protected dragged = '';

  constructor() {
    const { playback } = this;
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
      ],
      inject(DestroyRef),
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
    return job ? this.layOut(job) : [];
  });

  protected readonly headShown = computed(() => this.summaries().length > 0);

  /** Place of the playhead, % of the strip. */
  protected readonly head = computed(() => {
    const at = this.at();
    const block = this.blocks().find((b) => b.id === at?.summary.stepId);
    if (!at || !block) return 0;
    const share = at.summary.figures.time > 0 ? at.summary.times[at.motion]! / at.summary.figures.time : 0;
    return block.left + block.width * share;
  });

  /** Largest and median leftover against time, on a root scale. */
  protected readonly curve = computed(() => {
    const largest: string[] = [];
    const median: string[] = [];
    const y = (value: number): string => (92 - Math.min(1, Math.sqrt(Math.max(0, value) / 12)) * 84).toFixed(1);
    for (const b of this.blocks()) {
      const f = this.summaries().find((s) => s.stepId === b.id)?.figures;
      if (!f) continue;
      largest.push(`${b.left + b.width},${y(f.leftover.largest)}`);
      median.push(`${b.left + b.width},${y(f.leftover.p50)}`);
    }
    return { largest: largest.join(' '), median: median.join(' ') };
  });

  protected readonly readout = computed(() => {
    const at = this.at();
    const job = this.editor.job();
    if (!at || !job) return undefined;
    const { path, times } = at.summary;
    const before = this.timeBefore(at.summary.stepId);
    const step = job.steps.find((s) => s.id === at.summary.stepId);
    const tool = step && toolOf(job.crib, step.assemblyId);
    const feed = path.feed[at.motion]!;
    return {
      x: mm(path.x[at.motion]!),
      y: mm(path.y[at.motion]!),
      z: mm(path.z[at.motion]!),
      f: feed > 0 ? String(Math.round(feed)) : 'rapid',
      s: String(tool?.assembly.n ?? ''),
      time: clock(before + times[at.motion]!),
    };
  });

  protected readonly total = computed(() => clock(this.summaries().reduce((t, s) => t + s.figures.time, 0)));
  protected readonly anyStale = computed(() => this.fresh().length < (this.editor.job()?.steps.length ?? 0));
  protected readonly anyFinding = computed(() => this.summaries().some((s) => s.figures.findings.length > 0));

  protected select(id: string): void {
    this.store.dispatch(JobActions.stepSelected({ stepId: id }));
    const s = this.summaries().find((x) => x.stepId === id);
    if (s) this.stand(id, s.path.x.length - 1);
  }

  protected stand(stepId: string, motion: number): void {
    this.store.dispatch(JobActions.stepSelected({ stepId }));
    this.store.dispatch(PlanActions.playheadMoved({ moment: { stepId, motion } }));
  }

  protected scrub(value: string): void {
    const at = Number(value) / 100;
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
    this.stand(block.id, motionAt(summary.times, time));
  }

  private openChooserByKey(): void {
    this.choosing.set(true);
    setTimeout(() => this.line().nativeElement.parentElement?.querySelector<HTMLElement>('.chooser button')?.focus());
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
    setTimeout(() => this.line().nativeElement.querySelector<HTMLElement>(selector)?.focus());
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

  protected drop(to: number): void {
    const id = this.dragged;
    if (id) this.editor.make('workplan', (job) => withStepAt(job, id, to));
    this.dragged = '';
  }

  protected calculateAll(): void {
    const last = this.editor.job()?.steps.at(-1);
    if (last) this.store.dispatch(PlanActions.calculate({ through: last.id }));
  }

  protected nextFinding(): void {
    const all = this.blocks().flatMap((b) => b.findings.map((f) => ({ id: b.id, motion: f.motion, left: f.left })));
    const next = all.sort((a, b) => a.left - b.left).find((f) => f.left > this.head() + 1e-6) ?? all[0];
    if (next) this.stand(next.id, next.motion);
  }

  private timeBefore(stepId: string): number {
    const steps = this.editor.job()?.steps ?? [];
    let t = 0;
    for (const s of steps) {
      if (s.id === stepId) return t;
      t += this.summaries().find((x) => x.stepId === s.id)?.figures.time ?? 0;
    }
    return t;
  }

  private layOut(job: Job): Block[] {
    const times = job.steps.map((s) => this.summaries().find((x) => x.stepId === s.id)?.figures.time ?? 0);
    const known = times.reduce((a, b) => a + b, 0);
    const typical = known > 0 ? known / Math.max(1, times.filter((t) => t > 0).length) : 1;
    const shares = times.map((t) => (t > 0 ? t : typical * 0.6));
    const sum = shares.reduce((a, b) => a + b, 0);
    const widths = shares.map((t) => Math.max(NARROWEST, t / sum));
    // 96 % of the strip; the rest is room for the sign that adds a step
    const scale = 96 / widths.reduce((a, b) => a + b, 0);
    const cutters = [...new Set(job.steps.map((s) => s.assemblyId))];
    let left = 0;
    return job.steps.map((step, i): Block => {
      const summary = this.summaries().find((x) => x.stepId === step.id);
      const tool = toolOf(job.crib, step.assemblyId);
      const width = widths[i]! * scale;
      const isFresh = this.fresh().includes(step.id);
      const isWorking = this.calculation()?.stepId === step.id;
      const isTold = this.isTold();
      const block: Block = {
        id: step.id,
        number: i + 1,
        name: step.name || (kindOf(step.kind)?.name ?? ''),
        cutter: tool ? cutterTitle(tool.cutter) : '',
        time: isWorking ? 'calculating' : summary ? clock(summary.figures.time) : 'not calculated',
        leaves: summary && !isFresh && !isWorking ? (isTold ? ' · out of date' : ' · …') : '',
        tint: TINTS[cutters.indexOf(step.assemblyId) % TINTS.length]!,
        left,
        width,
        state: isWorking ? 'working' : isFresh ? 'fresh' : !isTold ? 'asked' : summary ? 'stale' : 'new',
        findings: (summary?.figures.findings ?? []).map((f) => ({
          left: left + (width * summary!.times[f.motion]!) / Math.max(1e-9, summary!.figures.time),
          text: f.text,
          motion: f.motion,
        })),
      };
      left += width;
      return block;
    });
  }
}
