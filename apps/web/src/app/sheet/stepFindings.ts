import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { MatExpansionModule } from '@angular/material/expansion';
import { MatButtonModule } from '@angular/material/button';
import { type LeftOutPlace, placesLeftOut, type StepFigures, type Tool } from '@esquisse/core';
import type { ChartOptions } from 'chart.js';
import { CHART, chartLook } from '../shared/chart';
import { Editor } from '../state/editor';
import { clock, figure } from '../shared/numbers';
import { area, length, shownUnit, told, unitOf, volume } from '../shared/units';
import { PathChoice } from '../bench/pathChoice';
import { SLOW_PERCENT } from '../bench/pathLines';
import { Theme } from '../shared/theme';
import { StepRidges } from './stepRidges';
import { StepUnfinished } from './stepUnfinished';

/** A ball whose middle does more than this share of the length is told of (common practice). */
const MUCH_SLOW = 0.2;

/** What a step that was calculated does and leaves, in figures, and what was found wrong in it. */
@Component({
  selector: 'esq-step-findings',
  imports: [CHART, MatButtonModule, MatExpansionModule, MatTooltipModule, StepRidges, StepUnfinished],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepFindings.scss',
  template: `
    @let f = figures();
    <div class="row">
      <span>Time at the machine</span><span class="number" data-testid="step-time">{{ clock(f.time) }}</span>
    </div>
    @if (f.plainTime !== undefined) {
      <div class="row pencil" data-testid="plain-time">
        <span>At one feed, before it follows the load</span><span class="number">{{ clock(f.plainTime) }}</span>
      </div>
    }
    <div class="row">
      <span>cut / air / rapid</span>
      <span class="number"
        >{{ way(f.lengths.cut + f.lengths.entry + f.lengths.link - f.air) }} / {{ way(f.air) }} /
        {{ way(f.lengths.rapid) }} <span class="unit">{{ shownUnit() === 'in' ? 'in' : 'm' }}</span></span
      >
    </div>
    <div class="row">
      <span>Retracts</span><span class="number">{{ f.retracts }}</span>
    </div>
    <div class="row">
      <span>Taken off</span
      ><span class="number"
        >{{ volume(f.removed, 1) }} <span class="unit">{{ unitOf('cm³') }}</span></span
      >
    </div>
    @if (rate(); as r) {
      <div class="rate" role="img" [attr.aria-label]="r.words">
        <canvas *esqInTurn baseChart type="line" [data]="r.data" [options]="r.options"></canvas>
      </div>
      <div class="row pencil">
        <span>Removal rate, mean / most</span>
        <span class="number"
          >{{ volume(1000 * r.mean, 1) }} / {{ volume(1000 * r.most, 1) }}
          <span class="unit">{{ unitOf('cm³/min') }}</span></span
        >
      </div>
    }
    @if (f.load; as load) {
      <div class="row">
        <span>Largest engagement</span>
        <button matButton class="plain number" matTooltip="Show" (click)="stand.emit(load.angle.motion)">
          {{ figure(load.angle.most, 0) }}°
        </button>
      </div>
    }
    <div class="row">
      <span>Leaves, median / 99 %</span>
      <span class="number"
        >{{ length(f.leftover.p50) }} / {{ length(f.leftover.p99) }} <span class="unit">{{ unitOf('mm') }}</span></span
      >
    </div>
    <div class="row">
      <span>Evenness, 10 to 90 %</span
      ><span class="number"
        >{{ length(f.leftover.spread) }} <span class="unit">{{ unitOf('mm') }}</span></span
      >
    </div>
    <div class="row">
      <span>Calculated in</span><span class="number">{{ figure(f.seconds, 1) }} <span class="unit">s</span></span>
    </div>
    @for (finding of f.findings; track finding.kind) {
      <button matButton class="finding wrong" (click)="stand.emit(finding.motion)">
        {{ told(finding.text) }} Show.
      </button>
    } @empty {
      <p class="pencil">Nothing but the edges touches steel; no gouge.</p>
    }
    @if (f.ridges; as ridges) {
      <esq-step-ridges [ridges]="ridges" (standNear)="standNear.emit($event)" />
    }
    @if (f.contact; as contact) {
      <div class="row">
        <span>Speed at contact, median</span><span class="number">{{ contact.median }} % of vc at DC</span>
      </div>
      @if (contact.slow > muchSlow) {
        <p class="stale" role="note" data-testid="slow">
          The ball's middle, at under {{ slowPercent }} % of that speed, does {{ figure(100 * contact.slow, 0) }} % of
          the cutting length. A bull-nose, or level ground in a step of its own, would cut there instead of rubbing.
          <button matButton class="plain ask" (click)="path.colour.set('contact')">Show</button>
        </p>
      }
    }
    @if (f.unfinished; as left) {
      <esq-step-unfinished [left]="left" (stand)="stand.emit($event)" />
    }
    @if (notes().length > 0) {
      <mat-expansion-panel class="fold mat-elevation-z0">
        <mat-expansion-panel-header
          >{{ notes().length }} {{ notes().length === 1 ? 'thing' : 'things' }} to look at</mat-expansion-panel-header
        >
        <ng-template matExpansionPanelContent>
          @for (note of notes().slice(0, 20); track $index) {
            <div class="row">
              <span class="place"
                >{{ told(note.why) }}: X {{ length(note.x, 1) }} Y {{ length(note.y, 1) }} Z
                {{ length(note.z, 1) }}</span
              >
              <button matButton class="plain" (click)="standNear.emit({ ...note, count: 1, lowest: note.z })">
                Show
              </button>
            </div>
          }
        </ng-template>
      </mat-expansion-panel>
    }
    @if (leftOut(); as places) {
      <mat-expansion-panel class="fold mat-elevation-z0">
        <mat-expansion-panel-header
          >{{ places.length }} {{ places.length === 1 ? 'place' : 'places' }} left out</mat-expansion-panel-header
        >
        <ng-template matExpansionPanelContent>
          @for (place of places.slice(0, 20); track $index) {
            <div class="row">
              <span class="place">{{ told(place.why) }}: {{ whereIs(place) }}</span>
              <button matButton class="plain" (click)="standNear.emit(place)">Show</button>
            </div>
          }
        </ng-template>
      </mat-expansion-panel>
    }
  `,
})
export class StepFindings {
  readonly figures = input.required<StepFigures>();
  readonly tool = input<Tool>();
  /** A motion to stand at. */
  readonly stand = output<number>();
  /** A place to stand near. */
  readonly standNear = output<LeftOutPlace>();
  private readonly theme = inject(Theme);
  private readonly editor = inject(Editor);
  protected readonly path = inject(PathChoice);
  protected readonly muchSlow = MUCH_SLOW;
  protected readonly slowPercent = SLOW_PERCENT;
  protected readonly area = area;
  protected readonly figure = figure;
  protected readonly length = length;
  protected readonly shownUnit = shownUnit;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  protected readonly volume = volume;
  protected readonly clock = clock;

  protected readonly notes = computed(() => {
    const { notes, hardSteel } = this.figures();
    return this.editor.job()?.hardSteel ? [...notes, ...hardSteel] : notes;
  });
  protected readonly leftOut = computed(() => {
    const places = placesLeftOut(this.figures().leftOut, this.tool()?.cutter.DC ?? 0);
    return places.length > 0 ? places : undefined;
  });
  /** How fast steel goes away over the step's time. */
  protected readonly rate = computed(() => {
    const { rate, time } = this.figures();
    const most = Math.max(0, ...rate);
    if (!(most > 0)) return undefined;
    const palette = this.theme.palette();
    const mean = rate.reduce((a, b) => a + b, 0) / rate.length;
    const words = `Removal rate from the step's beginning to its end, ${volume(1000 * mean, 1)} on the mean and ${volume(1000 * most, 1)} ${unitOf('cm³/min')} at most`;
    const look = chartLook<'line'>(palette);
    const options: ChartOptions<'line'> = {
      ...look,
      interaction: { mode: 'index', intersect: false },
      scales: { x: { type: 'linear', display: false, max: time }, y: { display: false, min: 0 } },
      plugins: {
        tooltip: {
          ...look.plugins!.tooltip,
          callbacks: {
            title: ([item]) => clock(item!.parsed.x ?? 0),
            label: (item) => `${volume(1000 * (item.parsed.y ?? 0), 1)} ${unitOf('cm³/min')}`,
          },
        },
      },
    };
    const line = {
      data: [...rate, rate.at(-1)!].map((y, k) => ({ x: (k / rate.length) * time, y })),
      stepped: true,
      borderColor: palette.verdigris,
      borderWidth: 1,
      pointRadius: 0,
    } as const;
    return { mean, most, words, options, data: { datasets: [line] } };
  });

  protected whereIs({ x, y, z, count, lowest, volume: steel }: LeftOutPlace): string {
    const down = count > 1 ? ` down to ${length(lowest, 1)}` : '';
    return `X ${length(x, 1)} Y ${length(y, 1)} Z ${length(z, 1)}${down}${steel ? `, ${volume(steel, 2)} ${unitOf('cm³')}` : ''}`;
  }

  /** Length of a way: in inches as it is, or in metres. */
  protected way(way: number): string {
    return shownUnit() === 'in' ? length(way, 0) : figure(way / 1000, 1);
  }
}
