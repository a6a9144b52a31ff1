import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatSliderModule } from '@angular/material/slider';
import { MatButtonModule } from '@angular/material/button';
import { MISSED_SHARE, messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { css, leftoverColour, rampColour } from '../bench/palette';
import { Engine } from '../engine/engine';
import { ChoiceField } from '../shared/choiceField';
import { saveFile } from '../shared/files';
import { LOAD_OPTIONS, LoadChoice, loadWords } from '../shared/loadChoice';
import { type Bar, Histogram } from '../shared/histogram';
import { Theme } from '../shared/theme';
import { LensChoice } from '../shared/lensChoice';
import { figure } from '../shared/numbers';
import { area, length, unitOf, volume } from '../shared/units';
import { type Lens, PlanActions, planFeature } from '../state/plan.reducer';
import { LensData } from './lensData';
import { LENSES } from './lenses';
import { PathPanel } from './pathPanel';
import { RegionLook } from './regionLook';

/** Choice of lens, its legend and its histogram. */
@Component({
  selector: 'esq-lens-panel',
  imports: [MatSliderModule, PathPanel, MatButtonModule, ChoiceField, Histogram, LensChoice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './lensPanel.scss',
  template: `
    <esq-lens-choice label="Lens" [lenses]="lenses" [chosen]="lens()" (choose)="choose($any($event))" />
    @if (lens() === 'leftover' && view(); as v) {
      <h3 class="pencil">Leftover, normal to the part</h3>
      <esq-histogram
        [bars]="bars()"
        [label]="described()"
        [brush]="data.brush()"
        [told]="told()"
        (brushed)="data.brush.set($event)"
      />
      <dl class="figures">
        @for (f of figures(); track f[0]) {
          <div class="row">
            <dt>{{ f[0] }}</dt>
            <dd
              class="number"
              [class.wrong]="f[0] === 'gouge' && v.figures.gouge > 0.01"
              [attr.data-testid]="'leftover-' + f[0]"
            >
              {{ f[1] }} <span class="unit">{{ unitOf('mm') }}</span>
            </dd>
          </div>
        }
      </dl>
    } @else if (lens() === 'steel') {
      <p class="pencil note">Graphite is steel as it stands at the playhead; darker where the block is still raw.</p>
      <button matButton class="plain save" data-testid="save-steel" (click)="save('stl')">
        Save this steel as STL
      </button>
      <button matButton class="plain save" data-testid="save-steel-3mf" (click)="save('3mf')">
        Save this steel as 3MF
      </button>
      <label class="through" for="through">Part through the steel</label>
      <mat-slider min="0" max="1" step="0.05" discrete [displayWith]="percent">
        <input id="through" matSliderThumb [value]="data.through()" (valueChange)="data.through.set($event)" />
      </mat-slider>
    } @else if (lens() === 'region') {
      @if (region.view(); as r) {
        <p class="pencil note">Verdigris is where the chosen step would cut: steel above its threshold.</p>
        <dl class="figures">
          <div class="row">
            <dt>area</dt>
            <dd class="number">
              {{ area(r.area, 2) }} <span class="unit">{{ unitOf('cm²') }}</span>
            </dd>
          </div>
          <div class="row">
            <dt>volume</dt>
            <dd class="number">
              {{ volume(r.volume, 3) }} <span class="unit">{{ unitOf('cm³') }}</span>
            </dd>
          </div>
        </dl>
      } @else {
        <p class="pencil note">
          {{
            region.has() ? region.problem() || 'Looking for it …' : 'The chosen step cuts wherever its limits let it.'
          }}
        </p>
      }
    } @else if (lens() === 'reach') {
      @if (data.reach(); as r) {
        <h3 class="pencil">Stick-out that the chosen cutter needs</h3>
        <esq-histogram [bars]="reachBars()" label="Histogram of the needed stick-out" [brush]="undefined" told="" />
        <dl class="figures">
          <div class="row">
            <dt>needs</dt>
            <dd class="number">
              {{ length(r.most, 1) }} <span class="unit">{{ unitOf('mm') }}</span>
            </dd>
          </div>
          <div class="row">
            <dt>stands out</dt>
            <dd class="number" [class.wrong]="r.most > r.stickOut">
              {{ length(r.stickOut, 1) }} <span class="unit">{{ unitOf('mm') }}</span>
            </dd>
          </div>
          <div class="row">
            <dt>reaches</dt>
            <dd class="number">{{ percent1(r.reached) }}</dd>
          </div>
        </dl>
        <p class="pencil note">With the cutter down on the part and room for its holder. Red is out of reach.</p>
      }
    } @else if (lens() === 'ridges') {
      @if (data.ridges(); as r) {
        <h3 class="pencil">Ridges that the chosen step leaves</h3>
        <esq-histogram [bars]="ridgeBars()" label="Histogram of the ridges" [brush]="undefined" told="" />
        <dl class="figures">
          <div class="row">
            <dt>asked</dt>
            <dd class="number">
              {{ length(r.asked, 4) }} <span class="unit">{{ unitOf('mm') }}</span>
            </dd>
          </div>
          <div class="row">
            <dt><span class="key missed" aria-hidden="true"></span>above it</dt>
            <dd class="number">{{ percent1(r.missed) }}</dd>
          </div>
          <div class="row">
            <dt><span class="key out" aria-hidden="true"></span>out of its reach</dt>
            <dd class="number">{{ percent1(r.outOfReach) }}</dd>
          </div>
          <div class="row">
            <dt><span class="key uncut" aria-hidden="true"></span>not cut</dt>
            <dd class="number">{{ percent1(r.notCut) }}</dd>
          </div>
        </dl>
        <p class="pencil note">By the balls that pass each place; upright walls are told in the findings only.</p>
      } @else {
        <p class="pencil note">{{ data.noRidges() || 'Measuring them …' }}</p>
      }
    } @else if (lens() === 'load') {
      <esq-choice-field
        label="Load"
        key="loadQuantity"
        [value]="loadChoice.quantity()"
        [options]="loadOptions"
        (chosen)="loadChoice.quantity.set($any($event))"
      />
      @if (data.load(); as v) {
        <esq-histogram
          [bars]="loadBars()"
          label="Lengths in steel of the whole step, by this load"
          [brush]="undefined"
          told=""
        />
        <dl class="figures">
          @for (f of loadFigures(); track f[0]) {
            <div class="row">
              <dt>{{ f[0] }}</dt>
              <dd class="number" [class.wrong]="f[2]">{{ f[1] }}</dd>
            </div>
          }
        </dl>
        <p class="pencil note">
          The steel that this step took up to the playhead, each place by the hardest cut over it.
          {{ v.figure.limit === undefined ? '' : 'Red is above the limit of machine or assembly.' }}
        </p>
      } @else {
        <p class="pencil note">{{ data.noLoad() || 'Looking for it …' }}</p>
      }
    } @else if (lens() === 'contacts') {
      <p class="pencil note">{{ contactWords() }}</p>
    } @else if (lens() === 'part') {
      <p class="pencil note">The finished part in its block, with the work zero.</p>
    }
    @if (lens() !== 'part') {
      <esq-path-panel />
    }
  `,
})
export class LensPanel {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  protected readonly region = inject(RegionLook);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  /** How many places of the plan something is wrong at. */
  protected readonly contactWords = computed(() => {
    const count = this.summaries()
      .flatMap((s) => s.figures.findings)
      .reduce((sum, { places }) => sum + places.length, 0);
    if (count === 0) return 'Nothing but the edges touches steel in any step that is calculated; no gouge.';
    return `Crosses stand where the tip is while something touches that must not: ${count === 1 ? 'one place' : `${count} places`} in all steps. “Next finding” goes from one to the next.`;
  });
  protected readonly loadChoice = inject(LoadChoice);
  protected readonly loadOptions = LOAD_OPTIONS;
  protected readonly area = area;
  protected readonly unitOf = unitOf;
  protected readonly volume = volume;
  protected readonly length = length;
  private readonly theme = inject(Theme);
  protected readonly percent1 = (share: number): string => `${figure(100 * share, 1)} %`;
  protected readonly percent = (share: number): string => `${Math.round(share * 100)} %`;
  protected readonly lenses = LENSES;
  protected readonly lens = this.store.selectSignal(planFeature.selectLens);
  protected readonly data = inject(LensData);
  protected readonly view = this.data.leftover;

  /** Bins from much at the top to nothing at the bottom; counts on a root scale so that rare values stay visible. */
  protected readonly bars = computed((): Bar[] => {
    const v = this.view();
    if (!v) return [];
    const n = v.bins.length;
    const most = Math.max(1, ...v.bins);
    const named = new Map([
      [n - 1, v.high],
      [Math.floor(n / 2), (v.high + v.low) / 2],
      [0, v.low],
    ]);
    return v.bins
      .map((count, k) => ({
        colour: css(leftoverColour(v.low + ((k + 0.5) / n) * (v.high - v.low), v.high, 0.01)),
        length: count === 0 ? 0 : Math.max(0.01, Math.sqrt(count / most)),
        label: named.has(k) ? length(named.get(k)!, 2) : '',
      }))
      .reverse();
  });

  /** The needed stick-outs from the longest down; those that the assembly does not have stand out. */
  protected readonly reachBars = computed((): Bar[] => {
    const r = this.data.reach();
    if (!r) return [];
    const n = r.bins.length;
    const most = Math.max(1, ...r.bins);
    const high = Math.max(1, r.most);
    const { sanguine } = this.theme.palette();
    return r.bins
      .map((count, k) => {
        const value = ((k + 0.5) / n) * high;
        return {
          colour: value > r.stickOut ? sanguine : css(rampColour(value / high)),
          length: count === 0 ? 0 : Math.max(0.01, Math.sqrt(count / most)),
          label: k === n - 1 || k === 0 || k === Math.floor(n / 2) ? length(value, 0) : '',
        };
      })
      .reverse();
  });

  /** Lengths by the load from the largest down; what is above its limit stands out. */
  protected readonly loadBars = computed((): Bar[] => {
    const view = this.data.load();
    if (!view) return [];
    const { bins, most, limit } = view.figure;
    const n = bins.length;
    const longest = Math.max(1e-9, ...bins);
    const { sanguine } = this.theme.palette();
    return bins
      .map((way, k) => {
        const value = ((k + 0.5) / n) * most;
        return {
          colour: limit !== undefined && value > limit ? sanguine : css(rampColour(value / (most || 1))),
          length: way === 0 ? 0 : Math.max(0.01, Math.sqrt(way / longest)),
          label: k === n - 1 || k === 0 || k === Math.floor(n / 2) ? loadWords(view.quantity, value) : '',
        };
      })
      .reverse();
  });
  protected readonly loadFigures = computed((): [string, string, boolean][] => {
    const view = this.data.load();
    if (!view) return [];
    const { p50, p95, most, limit } = view.figure;
    const words = (value: number): string => loadWords(view.quantity, value);
    return [
      ['half the way', words(p50), false],
      ['95 %', words(p95), false],
      ['most', words(most), limit !== undefined && most > limit],
      ...(limit === undefined ? [] : [['limit', words(limit), false] as [string, string, boolean]]),
    ];
  });

  /** The ridges from the highest down; those above what was asked for stand out. */
  protected readonly ridgeBars = computed((): Bar[] => {
    const r = this.data.ridges();
    if (!r) return [];
    const n = r.bins.length;
    const most = Math.max(1, ...r.bins);
    const { sanguine } = this.theme.palette();
    return r.bins
      .map((count, k) => {
        const value = ((k + 0.5) / n) * r.high;
        return {
          colour: value > MISSED_SHARE * r.asked ? sanguine : css(leftoverColour(value, r.high, 0.01)),
          length: count === 0 ? 0 : Math.max(0.01, Math.sqrt(count / most)),
          label: k === n - 1 || k === 0 || k === Math.floor(n / 2) ? length(value, 4) : '',
        };
      })
      .reverse();
  });

  /** The brushed values, and the share of all places that has them. */
  protected readonly told = computed(() => {
    const v = this.view();
    const brush = this.data.brush();
    const values = this.data.brushed();
    if (!v || !brush || !values) return '';
    const all = v.bins.reduce((sum, n) => sum + n, 0);
    const own = [...v.bins].reverse().slice(brush[0], brush[1] + 1);
    const share = (own.reduce((sum, n) => sum + n, 0) / (all || 1)) * 100;
    const [low, high] = values;
    const range =
      low === -Infinity
        ? `up to ${length(high, 2)}`
        : high === Infinity
          ? `${length(low, 2)} and more`
          : `${length(low, 2)} to ${length(high, 2)}`;
    return `${range} ${unitOf('mm')}: ${figure(share, 1)} %`;
  });

  protected readonly figures = computed((): [string, string][] => {
    const f = this.view()?.figures;
    if (!f) return [];
    return [
      ['median', length(f.p50)],
      ['99 %', length(f.p99)],
      ['largest', length(f.largest)],
      ['gouge', length(f.gouge)],
    ];
  });

  protected readonly described = computed(
    () =>
      `Histogram of leftover: ${this.figures()
        .map((f) => f.join(' '))
        .join(', ')} ${unitOf('mm')}`,
  );

  /** Saves the steel at the playhead, in the frame of the part's file. */
  protected async save(format: 'stl' | '3mf'): Promise<void> {
    try {
      saveFile(`steel.${format}`, await this.engine.steelFile(this.moment(), format), `model/${format}`);
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'workplan' } }));
    }
  }

  protected choose(lens: Lens): void {
    this.store.dispatch(PlanActions.lensChosen({ lens }));
  }
}
