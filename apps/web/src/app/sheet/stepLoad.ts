import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatTableModule } from '@angular/material/table';
import { LOAD_QUANTITIES, type LoadFigure, type LoadQuantity, type StepFigures } from '@esquisse/core';
import { Store } from '@ngrx/store';
import type { ChartOptions } from 'chart.js';
import { CHART, chartLook } from '../shared/chart';
import { ChoiceField } from '../shared/choiceField';
import { LOAD_OPTIONS, LoadChoice, loadNumber, loadUnit, loadWords } from '../shared/loadChoice';
import { clock, figure } from '../shared/numbers';
import { Theme } from '../shared/theme';
import { PlanActions } from '../state/plan.reducer';

interface Row {
  readonly id: LoadQuantity;
  readonly name: string;
  readonly figure: LoadFigure;
}

/** How hard a calculated step cuts: each quantity with its limits, and the chosen one over the step's time. */
@Component({
  selector: 'esq-step-load',
  imports: [CHART, ChoiceField, MatButtonModule, MatExpansionModule, MatTableModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (load(); as l) {
      <mat-expansion-panel class="fold mat-elevation-z0" data-testid="step-load">
        <mat-expansion-panel-header>
          <span [class.wrong]="over().length > 0">{{ brief() }}</span>
        </mat-expansion-panel-header>
        <ng-template matExpansionPanelContent>
          @for (row of over(); track row.id) {
            <p class="stale" role="note" data-testid="load-over">
              {{ row.name }} is above its limit of {{ words(row.id, row.figure.limit!) }} over
              {{ percent(row.figure.above) }} of the way in steel, {{ words(row.id, row.figure.most) }} at the most.
              <button matButton class="plain" (click)="stand.emit(row.figure.motion)">Show</button>
            </p>
          }
          <esq-choice-field
            label="Over the step's time"
            key="load"
            [value]="choice.quantity()"
            [options]="options"
            (chosen)="choice.quantity.set($any($event))"
          />
          <div class="chart" role="img" [attr.aria-label]="chart().words">
            <canvas *esqInTurn baseChart type="line" [data]="chart().data" [options]="chart().options"></canvas>
          </div>
          <table mat-table class="bands" [dataSource]="rows()" aria-label="Load in steel">
            <ng-container matColumnDef="name">
              <th mat-header-cell *matHeaderCellDef>In steel</th>
              <td mat-cell *matCellDef="let row" [attr.title]="row.name">
                {{ row.symbol }} <span class="unit">{{ unit(row.id) }}</span>
              </td>
            </ng-container>
            <ng-container matColumnDef="p50">
              <th mat-header-cell *matHeaderCellDef class="number">Half</th>
              <td mat-cell *matCellDef="let row" class="number">{{ number(row.id, row.figure.p50) }}</td>
            </ng-container>
            <ng-container matColumnDef="p95">
              <th mat-header-cell *matHeaderCellDef class="number">95 %</th>
              <td mat-cell *matCellDef="let row" class="number">{{ number(row.id, row.figure.p95) }}</td>
            </ng-container>
            <ng-container matColumnDef="most">
              <th mat-header-cell *matHeaderCellDef class="number">Most</th>
              <td mat-cell *matCellDef="let row" class="number">
                <button
                  matButton
                  class="plain cell"
                  [class.wrong]="isOver(row.figure)"
                  [attr.aria-label]="'Show the most of ' + row.name"
                  (click)="stand.emit(row.figure.motion)"
                >
                  {{ number(row.id, row.figure.most) }}
                </button>
              </td>
            </ng-container>
            <tr mat-header-row *matHeaderRowDef="columns"></tr>
            <tr mat-row *matRowDef="let row; columns: columns"></tr>
          </table>
          <p class="pencil">
            Half and 95 % of the way in steel are below these. Angle and width are those of cuts, all else with the ways
            in; the force is that of all teeth, on the mean of a turn.
            <button matButton class="plain ask" data-testid="show-load" (click)="show()">Show on the steel</button>
          </p>
        </ng-template>
      </mat-expansion-panel>
    }
  `,
  styleUrl: './stepFindings.scss',
})
export class StepLoad {
  private readonly store = inject(Store);
  private readonly theme = inject(Theme);
  protected readonly choice = inject(LoadChoice);
  readonly figures = input.required<StepFigures>();
  /** A motion to stand at. */
  readonly stand = output<number>();
  protected readonly options = LOAD_OPTIONS;
  protected readonly words = loadWords;
  protected readonly number = loadNumber;
  protected readonly unit = loadUnit;
  protected readonly columns = ['name', 'p50', 'p95', 'most'];
  protected readonly load = computed(() => this.figures().load);
  protected readonly rows = computed((): (Row & { symbol: string })[] => {
    const load = this.load();
    return load ? LOAD_QUANTITIES.map(({ id, name, symbol }) => ({ id, name, symbol, figure: load[id] })) : [];
  });
  protected readonly over = computed((): Row[] => this.rows().filter((row) => this.isOver(row.figure)));
  protected readonly brief = computed(() => {
    const load = this.load();
    if (!load) return '';
    const isOver = this.over().length > 0;
    return `Load: ${words(load, 'angle')}, ${words(load, 'power')}${isOver ? ', too much' : ''}`;
  });

  /** The chosen quantity over the step's time, with its limit. */
  protected readonly chart = computed(() => {
    const id = this.choice.quantity();
    const own = this.load()![id];
    const { time } = this.figures();
    const palette = this.theme.palette();
    const look = chartLook<'line'>(palette);
    const options: ChartOptions<'line'> = {
      ...look,
      interaction: { mode: 'index', intersect: false },
      scales: {
        x: { type: 'linear', display: false, max: time },
        y: {
          min: 0,
          suggestedMax: own.limit !== undefined && own.limit < 1.5 * own.most ? own.limit * 1.05 : own.most,
          grid: { color: palette.rule },
          ticks: { color: palette.pencil, font: look.font!, maxTicksLimit: 4 },
        },
      },
      plugins: {
        tooltip: {
          ...look.plugins!.tooltip,
          filter: ({ datasetIndex }) => datasetIndex === 0,
          callbacks: {
            title: ([item]) => clock(item?.parsed.x ?? 0),
            label: (item) => loadWords(id, item.parsed.y ?? 0),
          },
        },
      },
    };
    const n = own.spans.length;
    const line = {
      data: [...own.spans, own.spans.at(-1)!].map((y, k) => ({ x: (k / n) * time, y })),
      stepped: true,
      borderColor: palette.indigo,
      borderWidth: 1,
      pointRadius: 0,
    } as const;
    const limit = {
      data: own.limit === undefined ? [] : [0, time].map((x) => ({ x, y: own.limit! })),
      borderColor: palette.sanguine,
      borderWidth: 1,
      pointRadius: 0,
    };
    const name = LOAD_QUANTITIES.find((q) => q.id === id)!.name;
    const told = own.limit === undefined ? '' : `, limit ${loadWords(id, own.limit)}`;
    return {
      options,
      data: { datasets: [line, limit] },
      words: `${name} over the step's time, ${loadWords(id, own.most)} at the most${told}`,
    };
  });

  protected isOver({ limit, most }: LoadFigure): boolean {
    return limit !== undefined && most > limit;
  }

  protected percent(share: number): string {
    return share < 0.0005 ? 'less than 0.1 %' : `${figure(100 * share, 1)} %`;
  }

  protected show(): void {
    this.store.dispatch(PlanActions.lensChosen({ lens: 'load' }));
  }
}

function words(load: NonNullable<StepFigures['load']>, id: LoadQuantity): string {
  return loadWords(id, load[id].most);
}
