import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { css, rampColour } from '../../bench/palette';
import { ChoiceField } from '../../shared/choiceField';
import { Histogram } from '../../shared/histogram';
import { LOAD_OPTIONS, LoadChoice, loadWords } from '../../shared/loadChoice';
import { Theme } from '../../shared/theme';
import { LensData } from '../lensData';
import { barsOf } from './bars';

/** How hard the step at the playhead cut. */
@Component({
  selector: 'esq-load-legend',
  imports: [ChoiceField, Histogram],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
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
  `,
})
export class LoadLegend {
  private readonly theme = inject(Theme);
  protected readonly data = inject(LensData);
  protected readonly loadChoice = inject(LoadChoice);
  protected readonly loadOptions = LOAD_OPTIONS;

  /** Lengths by the load; what is above its limit stands out. */
  protected readonly loadBars = computed(() => {
    const view = this.data.load();
    if (!view) return [];
    const { bins, most, limit } = view.figure;
    const { sanguine } = this.theme.palette();
    const colourAt = (value: number): string =>
      limit !== undefined && value > limit ? sanguine : css(rampColour(value / (most || 1)));
    return barsOf(bins, [0, most], colourAt, (value) => loadWords(view.quantity, value));
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
}
