import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { stepCutting, stepsOn, toolOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { runOf } from '../engine/runs';
import { clock } from '../shared/numbers';
import { feed, length } from '../shared/units';
import { Editor } from '../state/editor';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { timeBefore } from '../state/planTime';
import { LeftoverLegend } from './leftoverLegend';
import { Playback } from './playback';

/** How much longer than its room the strip can be drawn at most. */
export const MOST_ZOOM = 64;

/** What moves the playhead, and what stands at it: place, feed, speed and time. */
@Component({
  selector: 'esq-transport',
  imports: [LeftoverLegend, MatButtonModule, MatIconModule, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './transport.scss',
  template: `
    <div class="transport">
      <button
        matIconButton
        (click)="playback.toggle()"
        [disabled]="!headShown()"
        [attr.aria-label]="playing() ? 'Stop' : 'Play'"
        [matTooltip]="playing() ? 'Stop (Space)' : 'Play (Space)'"
        data-testid="play"
      >
        <mat-icon [svgIcon]="playing() ? 'pause' : 'play'" />
      </button>
      <button matIconButton (click)="playback.slower()" aria-label="Slower" matTooltip="Slower">
        <mat-icon svgIcon="remove" />
      </button>
      <span class="mono">{{ playback.speed() }}x</span>
      <button matIconButton (click)="playback.faster()" aria-label="Faster" matTooltip="Faster">
        <mat-icon svgIcon="add" />
      </button>
      <button
        matIconButton
        (click)="playback.byMotion(-1)"
        aria-label="One motion back"
        matTooltip="One motion back (,)"
      >
        <mat-icon svgIcon="chevron-left" />
      </button>
      motion
      <button matIconButton (click)="playback.byMotion(1)" aria-label="One motion on" matTooltip="One motion on (.)">
        <mat-icon svgIcon="chevron-right" />
      </button>
      <button matIconButton (click)="playback.byStep(-1)" aria-label="One step back" matTooltip="One step back (;)">
        <mat-icon svgIcon="chevron-left" />
      </button>
      step
      <button matIconButton (click)="playback.byStep(1)" aria-label="One step on" matTooltip="One step on (')">
        <mat-icon svgIcon="chevron-right" />
      </button>
      <button matButton class="plain" (click)="nextFinding.emit()" [disabled]="!hasFindings()">Next finding</button>
      <span class="zoom" role="group" aria-label="Zoom along time">
        <button
          matIconButton
          aria-label="Shorter strip"
          matTooltip="Shorter strip"
          (click)="zoomed.emit(0.5)"
          [disabled]="zoom() <= 1"
        >
          <mat-icon svgIcon="remove" />
        </button>
        time
        <button
          matIconButton
          aria-label="Longer strip"
          matTooltip="Longer strip (Ctrl and wheel)"
          (click)="zoomed.emit(2)"
          [disabled]="zoom() >= most"
        >
          <mat-icon svgIcon="add" />
        </button>
      </span>
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
      <esq-leftover-legend class="legend" />
      @if (readout(); as r) {
        <span class="read mono" data-testid="readout">
          <span>X {{ r.x }} Y {{ r.y }} Z {{ r.z }}</span> <span>F {{ r.f }}</span> <span>S {{ r.s }}</span>
          <span
            >{{ r.time }} <span class="pencil">/ {{ total() }}</span></span
          >
        </span>
      }
    </div>
  `,
})
export class Transport {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  protected readonly playback = inject(Playback);
  /** How much longer than its room the strip is drawn. */
  readonly zoom = input.required<number>();
  readonly hasFindings = input.required<boolean>();
  /** The strip is to be drawn so many times longer. */
  readonly zoomed = output<number>();
  readonly nextFinding = output();
  protected readonly most = MOST_ZOOM;
  protected readonly playing = this.store.selectSignal(planFeature.selectPlaying);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly at = this.store.selectSignal(planFeature.selectAt);
  protected readonly headShown = computed(() => this.summaries().length > 0);

  protected readonly readout = computed(() => {
    const at = this.at();
    const job = this.editor.job();
    if (!at || !job) return undefined;
    const { path, times } = runOf(at.summary);
    const before = timeBefore(job, this.summaries(), at.summary.stepId);
    const step = job.steps.find((s) => s.id === at.summary.stepId);
    const tool = step && toolOf(job.crib, step.assemblyId);
    const vf = path.feed[at.motion]!;
    return {
      x: length(path.x[at.motion]!),
      y: length(path.y[at.motion]!),
      z: length(path.z[at.motion]!),
      f: vf > 0 ? feed(vf) : 'rapid',
      s: tool ? String(Math.round(stepCutting(job, step, tool).n)) : '',
      time: clock(before + times[at.motion]!),
    };
  });

  protected readonly total = computed(() => {
    const job = this.editor.job();
    return job ? clock(timeBefore(job, this.summaries())) : '';
  });
  protected readonly anyStale = computed(() => {
    const job = this.editor.job();
    return !!job && this.fresh().length < stepsOn(job).length;
  });

  protected calculateAll(): void {
    const job = this.editor.job();
    const last = job && stepsOn(job).at(-1);
    if (last) this.store.dispatch(PlanActions.calculate({ through: last.id }));
  }
}
