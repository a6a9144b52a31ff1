import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { type FinisherRow, type Finishers, isCancelled, messageOf, toolOf, toolTitle } from '@esquisse/core';
import type { ChartOptions } from 'chart.js';
import { Engine } from '../engine/engine';
import { Looking } from '../lens/looking';
import { CHART, chartLook } from '../shared/chart';
import { Newest } from '../shared/newest';
import { clock, figure } from '../shared/numbers';
import { length, shown, told, unitOf } from '../shared/units';
import { Theme } from '../shared/theme';
import { Editor } from '../state/editor';
import { Told } from '../state/told';
import { ChosenStep } from './chosenStep';

/** For the chosen finishing step: what each cutter of the crib, and each pattern, would take and leave. */
@Component({
  selector: 'esq-finisher-chooser',
  imports: [CHART, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem()) {
      <p class="pencil">{{ told(problem()) }}</p>
    } @else if (!found()) {
      <p class="pencil">Trying the cutters …</p>
    } @else {
      <div class="chart" role="img" [attr.aria-label]="described()">
        <canvas *esqInTurn baseChart type="scatter" [data]="chart().data" [options]="chart().options"></canvas>
      </div>
      @for (r of rows(); track r.row.assemblyId) {
        <button
          matButton
          class="line"
          [class.chosen]="r.row.assemblyId === step()?.assemblyId"
          [attr.data-testid]="'finisher-' + r.row.assemblyId"
          (click)="cutter.emit(r.row.assemblyId)"
        >
          <span>{{ r.title }}</span><span class="number">{{ r.time }}</span
          ><span class="pencil words"
            >{{ r.stays }} · <span [class.wrong]="r.isShort">{{ r.reach }}</span></span
          >
        </button>
      }
      <div class="head pencil"><span>pattern</span><span>ridges, 99 %</span><span>length</span><span>time</span></div>
      @for (p of patterns(); track p.kind) {
        <button
          matButton
          class="line patterns"
          [class.chosen]="p.kind === step()?.kind"
          [attr.data-testid]="'pattern-' + p.kind"
          (click)="pattern.emit(p.kind)"
        >
          <span>{{ p.name }}</span><span class="number" [class.wrong]="p.isMissed">{{ p.ridges }}</span
          ><span class="number">{{ p.length }}</span
          ><span class="number">{{ p.time }}</span>
        </button>
      }
      <p class="pencil">
        Held against the part alone, with this step's scallop and limits. Shares are of the area that is to be finished.
      </p>
    }
  `,
  styleUrl: './finisherChooser.scss',
})
export class FinisherChooser {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  private readonly chosen = inject(ChosenStep);
  private readonly theme = inject(Theme);
  private readonly looking = inject(Looking);
  private readonly isTold = inject(Told);
  /** A cutter, or a kind of step, is chosen. */
  readonly cutter = output<string>();
  readonly pattern = output<string>();

  protected readonly step = this.chosen.step;
  protected readonly problem = signal('');
  protected readonly found = signal<Finishers | undefined>(undefined);
  private readonly newest = new Newest((stepId: string) => this.ask(stepId));
  protected readonly told = told;

  /** The quickest first; what has nothing to cut last. */
  protected readonly rows = computed(() => {
    const job = this.editor.job();
    return (this.found()?.cutters ?? [])
      .flatMap((row) => {
        const tool = job && toolOf(job.crib, row.assemblyId);
        if (!tool) return [];
        const isShort = row.neededStickOut > row.stickOut;
        return [
          {
            row,
            isShort,
            title: toolTitle(tool),
            time: row.expected?.time === undefined ? 'nothing' : clock(row.expected.time),
            stays: staysWords(row),
            reach: `stands out ${length(row.stickOut, 1)}, needs ${length(Math.max(0, row.neededStickOut), 1)} ${unitOf('mm')}`,
          },
        ];
      })
      .sort((a, b) => (a.row.expected?.time ?? Infinity) - (b.row.expected?.time ?? Infinity));
  });
  protected readonly patterns = computed(() =>
    (this.found()?.patterns ?? []).map(({ kind, name, expected }) => ({
      kind,
      name,
      ...this.ridgeWords(expected?.ridges ?? 0),
      length: `${shown((expected?.length ?? 0) / 1000, 'm', 1)} ${unitOf('m')}`,
      time: clock(expected?.time ?? 0),
    })),
  );

  /** Minutes against the share of the area that stays. */
  protected readonly chart = computed(() => {
    const palette = this.theme.palette();
    const rows = this.rows().filter(({ row }) => row.expected?.time !== undefined);
    const look = chartLook<'scatter'>(palette);
    const axis = { grid: { color: palette.rule }, ticks: { color: palette.pencil, font: look.font, maxTicksLimit: 4 } };
    const title = (text: string) => ({ display: true, text, color: palette.pencil, font: look.font! });
    const options: ChartOptions<'scatter'> = {
      ...look,
      scales: {
        x: { ...axis, min: 0, title: title('minutes') },
        y: { ...axis, min: 0, title: title('stays, %') },
      },
      plugins: {
        tooltip: { ...look.plugins!.tooltip, callbacks: { label: (item) => rows[item.dataIndex]?.title ?? '' } },
      },
    };
    const dots = {
      data: rows.map(({ row }) => ({ x: (row.expected!.time ?? 0) / 60, y: 100 * (row.stays + row.narrow) })),
      pointRadius: 4,
      backgroundColor: rows.map(({ row }) =>
        row.assemblyId === this.step()?.assemblyId ? palette.verdigris : palette.indigo,
      ),
    };
    return { options, data: { datasets: [dots] } };
  });
  protected readonly described = computed(
    () =>
      `Time and what stays by cutter: ${this.rows()
        .map((r) => `${r.title} ${r.time}, ${percent(r.row.stays + r.row.narrow)}`)
        .join('; ')}`,
  );

  constructor() {
    effect(() => {
      const id = this.step()?.id;
      this.editor.job();
      untracked(() => {
        // rows of other values or another step are not shown for these
        this.found.set(undefined);
        if (id !== undefined) this.newest.wish(id);
      });
    });
  }

  /** Ridges of a pattern; as high as a good part of the cutter they are none any more. */
  private ridgeWords(ridges: number): { ridges: string; isMissed: boolean } {
    const scallop = Number(this.step()?.values['scallop']);
    const isMissed = ridges > MISSED * scallop;
    return { ridges: ridges > FAR_MISSED * scallop ? 'not held' : length(ridges, 4), isMissed };
  }

  private async ask(stepId: string): Promise<void> {
    const job = this.editor.job();
    try {
      await this.isTold.wait();
      const found = await this.looking.watch('comparison', 'trying the cutters', (onProgress) =>
        this.engine.finishers(stepId, onProgress),
      );
      if (this.step()?.id !== stepId || this.editor.job() !== job) return;
      this.problem.set('');
      this.found.set(found);
    } catch (error) {
      this.problem.set(isCancelled(error) ? 'Stopped.' : messageOf(error));
    }
  }
}

/** Ridges are missed at more than this many times what is asked for. */
const MISSED = 1.25;
const FAR_MISSED = 20;
/** From these shares of the area on it is told that the cutter's middle rubs, and that its shank is in the way. */
const MUCH_SLOW = 0.3;
const SHANK_TOUCHES = 0.002;

const percent = (share: number): string => `${figure(100 * share, 1)}\u00a0%`;

/** What a cutter leaves, and what speaks against it. */
function staysWords({ stays, thickest, narrow, slow, shankTouches }: FinisherRow): string {
  const words = [
    `corners ${percent(stays)}, up to ${length(thickest, 2)} ${unitOf('mm')}`,
    `too narrow ${percent(narrow)}`,
  ];
  if (shankTouches > SHANK_TOUCHES) words.push(`shank in the way ${percent(shankTouches)}`);
  if (slow > MUCH_SLOW) words.push(`middle rubs ${percent(slow)}`);
  return words.join(' · ');
}
