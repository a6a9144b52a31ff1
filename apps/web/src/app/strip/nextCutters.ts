import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { type CutterRow, isCancelled, messageOf, toolOf, toolTitle } from '@esquisse/core';
import { Engine } from '../engine/engine';
import type { ChartOptions } from 'chart.js';
import { CHART, chartLook } from '../shared/chart';
import { clock } from '../shared/numbers';
import { length, size, sizeOfUnit, told, unitOf, volume as volumeIn } from '../shared/units';
import { Theme } from '../shared/theme';
import { Editor } from '../state/editor';
import { Told } from '../state/told';
import { Looking } from '../lens/looking';

/** For the steel at a place of the plan: what each cutter of the crib would take of what is left, and leave. */
@Component({
  selector: 'esq-next-cutters',
  imports: [CHART, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (problem()) {
      <p class="pencil">{{ told(problem()) }}</p>
    } @else if (rows().length === 0) {
      <p class="pencil">Trying the cutters …</p>
    } @else {
      <p class="pencil">
        {{ volume(rows()[0]!.row.left) }} are left above {{ length(allowance(), 2) }} {{ unitOf('mm') }}
        {{ isLast() ? '' : '(roughly, going on …)' }}
      </p>
      <div class="chart" role="img" [attr.aria-label]="described()">
        <canvas *esqInTurn baseChart type="scatter" [data]="chart().data" [options]="chart().options"></canvas>
      </div>
      <div class="head pencil">
        <span>cutter</span><span>takes</span><span>stays</span><span>thickest</span><span>about</span>
      </div>
      @for (r of rows(); track r.row.assemblyId) {
        <button
          matButton
          class="line"
          role="menuitem"
          [class.chosen]="r.row.assemblyId === chosen()"
          [attr.data-testid]="'next-' + r.row.assemblyId"
          (click)="choose.emit(r.row.assemblyId)"
        >
          <span>{{ r.title }}</span><span class="number">{{ r.share }} %</span
          ><span class="number">{{ volume(r.stays) }}</span
          ><span class="number">{{ length(r.row.thickest, 2) }} {{ unitOf('mm') }}</span
          ><span class="number">{{ r.time }}</span>
        </button>
      }
      <p class="pencil note">
        Holders are held against the part, not against steel beside them. Times are of the cuts alone.
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
      font-size: 12px;
    }
    .chart {
      height: 120px;
    }
    .head,
    .line {
      display: grid;
      grid-template-columns: 1fr 46px 68px 62px 50px;
      gap: 4px;
      text-align: right;
      width: 100%;
    }
    .head span:first-child,
    .line span:first-child {
      text-align: left;
    }
    .line {
      border: 0;
      background: none;
      padding: 2px 4px;
      margin: 0 -4px;
      cursor: pointer;
      font-size: 12px;
    }
    .line:hover,
    .line:focus-visible,
    .line.chosen {
      background: var(--chosen);
    }
    .number {
      white-space: nowrap;
    }
    .note {
      margin-top: 6px;
    }
  `,
})
export class NextCutters {
  private readonly engine = inject(Engine);
  private readonly editor = inject(Editor);
  /** Place in the plan: number of steps before it. */
  readonly index = input.required<number>();
  readonly allowance = input.required<number>();
  /** Steel above the allowance that counts, mm; null: what is surely left. */
  readonly threshold = input<number | null>(null);
  /** Assembly that is chosen now. */
  readonly chosen = input('');
  readonly choose = output<string>();

  protected readonly length = length;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  private readonly theme = inject(Theme);
  protected readonly problem = signal('');
  protected readonly isLast = signal(false);
  private readonly found = signal<readonly CutterRow[]>([]);
  private readonly looking = inject(Looking);
  private readonly isTold = inject(Told);
  private asked = 0;

  /** Cutters from the one that leaves least; of equal ones the quicker first. */
  protected readonly rows = computed(() => {
    const job = this.editor.job();
    return this.found()
      .flatMap((row) => {
        const tool = job && toolOf(job.crib, row.assemblyId);
        if (!tool) return [];
        const stays = Math.max(0, row.left - row.taken);
        return [
          {
            row,
            DC: tool.cutter.DC,
            title: toolTitle(tool),
            stays,
            share: row.left > 0 ? ((100 * row.taken) / row.left).toFixed(0) : '0',
            time: clock(row.time),
          },
        ];
      })
      .sort((a, b) => a.stays - b.stays || a.row.time - b.row.time);
  });

  /** Volume that stays against diameter. */
  protected readonly chart = computed(() => {
    const palette = this.theme.palette();
    const rows = this.rows();
    const look = chartLook<'scatter'>(palette);
    const axis = { grid: { color: palette.rule }, ticks: { color: palette.pencil, font: look.font, maxTicksLimit: 4 } };
    const options: ChartOptions<'scatter'> = {
      ...look,
      scales: {
        x: {
          ...axis,
          min: 0,
          title: { display: true, text: `DC, ${unitOf('mm')}`, color: palette.pencil, font: look.font },
        },
        y: {
          ...axis,
          min: 0,
          title: { display: true, text: `would stay, ${unitOf('cm³')}`, color: palette.pencil, font: look.font },
        },
      },
      plugins: {
        tooltip: { ...look.plugins!.tooltip, callbacks: { label: (item) => rows[item.dataIndex]?.title ?? '' } },
      },
    };
    const dots = {
      data: rows.map((r) => ({ x: r.DC / sizeOfUnit('mm'), y: r.stays / 1000 / sizeOfUnit('cm³') })),
      pointRadius: 4,
      backgroundColor: rows.map((r) => (r.row.assemblyId === this.chosen() ? palette.verdigris : palette.indigo)),
    };
    return { options, data: { datasets: [dots] } };
  });
  protected readonly described = computed(
    () =>
      `Volume that would stay by cutter: ${this.rows()
        .map((r) => `DC ${size(r.DC)} ${this.volume(r.stays)}`)
        .join(', ')}`,
  );

  constructor() {
    effect(() => {
      const wish = { index: this.index(), allowance: this.allowance(), threshold: this.threshold() };
      void this.ask(wish);
    });
  }

  protected volume(cubic: number): string {
    return `${volumeIn(cubic, cubic >= 1000 ? 2 : 3)} ${unitOf('cm³')}`;
  }

  private async ask(wish: { index: number; allowance: number; threshold: number | null }): Promise<void> {
    const job = this.editor.job();
    const turn = ++this.asked;
    if (!job) return;
    this.isLast.set(false);
    try {
      await this.isTold.wait();
      if (turn !== this.asked) return;
      await this.looking.watch('comparison', 'trying the cutters', (onProgress) =>
        this.engine.nextCutters(wish, onProgress, (rows, isLast) => {
          if (turn !== this.asked) return;
          this.problem.set('');
          this.found.set(rows);
          this.isLast.set(isLast);
        }),
      );
    } catch (error) {
      if (turn === this.asked) this.problem.set(isCancelled(error) ? 'Stopped.' : messageOf(error));
    }
  }
}
