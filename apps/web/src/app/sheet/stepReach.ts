import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatExpansionModule } from '@angular/material/expansion';
import { advisedStickOut, clearShare, HOUSE_BODY_ROOM, type StepFigures, toolOf, toolsOf } from '@esquisse/core';
import type { ChartOptions } from 'chart.js';
import { House } from '../keeping/house';
import { CHART, chartLook } from '../shared/chart';
import { clock, figure } from '../shared/numbers';
import { Theme } from '../shared/theme';
import { length, sizeOfUnit, unitOf } from '../shared/units';
import { Editor } from '../state/editor';
import { type Longer, reachWays, withDivided, withLonger, withSafe } from '../state/reachWays';
import { ChosenStep } from './chosenStep';

/** A cutter that stands out so much more than it needs is told of, mm (common practice). */
const MUCH_LONGER_MM = 10;

/** How far the chosen step's cutter has to stand out, along its cutting length; and the ways out when it does not. */
@Component({
  selector: 'esq-step-reach',
  imports: [CHART, MatButtonModule, MatExpansionModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (shown(); as s) {
      <mat-expansion-panel class="fold mat-elevation-z0" data-testid="reach" [expanded]="s.isShort">
        <mat-expansion-panel-header>
          <span [class.wrong]="s.isShort" [class.stale]="s.close">{{ s.brief }}</span>
        </mat-expansion-panel-header>
        <ng-template matExpansionPanelContent>
          <div class="chart" role="img" [attr.aria-label]="s.brief">
            <canvas *esqInTurn baseChart type="line" [data]="chart().data" [options]="chart().options"></canvas>
          </div>
          @if (isSafe()) {
            <div class="ways" role="group" aria-label="Ways out">
              <button matButton class="way" data-testid="way-whole" (click)="keepSafe(false)">
                <span>Plan all of it again</span>
                <span class="pencil"
                  >Now only what shank and holder clear is cut. What all of it needs is known when it is planned
                  whole.</span
                >
              </button>
            </div>
          } @else if (s.isShort) {
            <div class="ways" role="group" aria-label="Ways out">
              @if (s.ways?.longer; as longer) {
                <button matButton class="way" data-testid="way-longer" (click)="take(longer)">
                  <span>{{ longerWords(longer) }}</span>
                  <span class="number">{{ clock(longer.time) }}</span>
                  <span class="pencil">All of it is cut.</span>
                </button>
              } @else if (s.ways?.isHolder) {
                <p class="pencil">
                  This cutter can stand out {{ length(s.ways?.longest ?? 0, 0) }} {{ unitOf('mm') }} at most, and the
                  crib has no longer one like it.
                </p>
              } @else {
                <p class="pencil">
                  It is the shank or neck that touches: standing out farther does not help, a slimmer one does.
                </p>
              }
              <button matButton class="way" data-testid="way-safe" (click)="keepSafe(true)">
                <span>Cut only what clears</span>
                @if (s.ways?.isHolder) {
                  <span class="number">{{ clock(s.ways?.safeTime ?? 0) }}</span>
                  <span class="pencil"
                    >About {{ percent(1 - (s.ways?.share ?? 1)) }} of the length stays for a later step.</span
                  >
                }
              </button>
              @if (s.ways?.longer; as longer) {
                <button matButton class="way" data-testid="way-divide" (click)="divide(longer)">
                  <span>Divide: the rest by a longer one</span>
                  <span class="number">{{ s.divided }}</span>
                  <span class="pencil"
                    >A step behind this one does what it cannot reach, from the steel it leaves.</span
                  >
                </button>
              }
            </div>
          } @else if (s.close) {
            <p class="stale" role="note" data-testid="reach-close">{{ s.close }}</p>
          } @else if (s.tooLong) {
            <p class="pencil">{{ s.tooLong }}</p>
          }
        </ng-template>
      </mat-expansion-panel>
    }
  `,
  styles: `
    .chart {
      height: 96px;
    }
    .way {
      display: grid;
      grid-template-columns: 1fr auto;
      gap: 0 8px;
      width: 100%;
      margin: 2px 0;
      padding: 4px 6px;
      border: 1px solid var(--rule);
      text-align: left;
      line-height: 1.4;
    }
    .way:hover,
    .way:focus-visible {
      background: var(--chosen);
    }
    .way .pencil {
      grid-column: 1 / -1;
      font-size: 12px;
    }
  `,
})
export class StepReach {
  private readonly editor = inject(Editor);
  private readonly chosen = inject(ChosenStep);
  private readonly house = inject(House);
  private readonly theme = inject(Theme);
  readonly figures = input.required<StepFigures>();
  protected readonly clock = clock;
  protected readonly length = length;
  protected readonly unitOf = unitOf;

  protected readonly isSafe = computed(() => this.chosen.step()?.travel.reach === 'safe');
  private readonly stickOut = computed(() => this.chosen.tool()?.assembly.stickOut ?? 0);
  protected readonly shown = computed(() => {
    const f = this.figures();
    const [job, step] = [this.editor.job(), this.chosen.step()];
    if (!job || !step || f.reach.length === 0) return undefined;
    const stickOut = this.stickOut();
    const needed = Math.max(
      f.neededStickOut,
      f.reach.findLastIndex((l) => l > 0),
    );
    const isShort = needed > stickOut || f.findings.some(({ kind }) => kind === 'holder' || kind === 'shank');
    const ways = reachWays(job, step, f);
    const spare = stickOut - needed;
    const room = step.travel.holderClearance ?? HOUSE_BODY_ROOM.holder;
    return {
      isShort,
      ways,
      divided: ways?.longer ? clock(ways.safeTime + (1 - ways.share) * ways.longer.time) : '',
      brief: `Reach: needs ${length(needed, 1)} of ${length(stickOut, 1)} ${unitOf('mm')}${isShort ? ', too short' : ''}`,
      // nothing touches, but a worn collet or a cutter set by eye takes more than that
      close:
        !isShort && spare < room
          ? `The holder clears by ${length(spare, 2)} ${unitOf('mm')} only: ${length(room, 1)} ${unitOf('mm')} are usual.`
          : '',
      tooLong:
        spare >= MUCH_LONGER_MM && advisedStickOut(needed) < stickOut
          ? `It stands out ${length(spare, 0)} ${unitOf('mm')} more than this step needs: ${length(advisedStickOut(needed), 0)} would be stiffer.`
          : '',
    };
  });

  /** Share of the length that clears, against the stick-out; marks where assemblies of this cutter stand. */
  protected readonly chart = computed(() => {
    const palette = this.theme.palette();
    const { reach } = this.figures();
    const job = this.editor.job();
    const own = this.chosen.tool();
    const mm = sizeOfUnit('mm');
    const most = Math.max(this.stickOut(), reach.length) * 1.1;
    const look = chartLook<'line'>(palette);
    const axis = { grid: { color: palette.rule }, ticks: { color: palette.pencil, font: look.font, maxTicksLimit: 5 } };
    const title = (text: string) => ({ display: true, text, color: palette.pencil, font: look.font! });
    const options: ChartOptions<'line'> = {
      ...look,
      scales: {
        x: { ...axis, type: 'linear', min: 0, max: most / mm, title: title(`stick-out, ${unitOf('mm')}`) },
        y: { ...axis, min: 0, max: 100, title: title('clears, %') },
      },
      plugins: { tooltip: { ...look.plugins!.tooltip, enabled: false } },
    };
    const at = (stickOut: number): { x: number; y: number } => ({
      x: stickOut / mm,
      y: 100 * clearShare(reach, stickOut),
    });
    const others = toolsOf(job?.crib ?? { cutters: [], holders: [], extensions: [], assemblies: [] }).filter(
      ({ cutter: c, assembly: a }) =>
        c.kind === own?.cutter.kind && c.DC === own.cutter.DC && c.RE === own.cutter.RE && a.id !== own.assembly.id,
    );
    const line = {
      data: [...reach.keys(), reach.length, Math.ceil(most)].map(at),
      borderColor: palette.indigo,
      borderWidth: 1.5,
      pointRadius: 0,
    };
    const now = {
      data: [
        { x: this.stickOut() / mm, y: 0 },
        { x: this.stickOut() / mm, y: 100 },
      ],
      borderColor: palette.verdigris,
      borderWidth: 1.5,
      pointRadius: 0,
    };
    const marks = {
      data: others.map(({ assembly }) => at(assembly.stickOut)),
      showLine: false,
      borderColor: palette.pencil,
      backgroundColor: palette.sheet,
      pointRadius: 4,
    };
    return { options, data: { datasets: [marks, now, line] } };
  });

  protected percent(share: number): string {
    return `${figure(100 * share, 0)}\u00a0%`;
  }

  protected longerWords({ assemblyId, stickOut }: Longer): string {
    const job = this.editor.job();
    const tool = assemblyId !== undefined && job ? toolOf(job.crib, assemblyId) : undefined;
    const out = `${length(stickOut, 0)} ${unitOf('mm')}`;
    return tool ? `Take T${tool.assembly.number}, out ${out}` : `Set it out to ${out}`;
  }

  protected take(longer: Longer): void {
    const step = this.chosen.step();
    if (step) this.editor.make('workplan', (job) => withLonger(job, step, longer));
  }

  protected keepSafe(isSafe: boolean): void {
    const step = this.chosen.step();
    if (step) this.editor.make('workplan', (job) => withSafe(job, step.id, isSafe));
  }

  protected divide(longer: Longer): void {
    const [job, step] = [this.editor.job(), this.chosen.step()];
    const divided = job && step && withDivided(job, step, longer, this.house.steps());
    if (divided) this.editor.make('workplan', () => divided.job, divided.stepId);
  }
}
