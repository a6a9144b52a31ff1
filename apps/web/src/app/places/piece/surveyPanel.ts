import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { adviceOf, type Survey } from '@esquisse/core';
import { css, rgb } from '../../bench/palette';
import { type Bar, type Brush, Histogram } from '../../shared/histogram';
import { LensChoice } from '../../shared/lensChoice';
import { area as areaText, length, told as toldOf, unitOf } from '../../shared/units';
import { Theme } from '../../shared/theme';
import { areasIn, PART_LENSES, partLens, type PartField } from './partLenses';
import { PieceLook } from './pieceLook';
import { PartSteps } from './partSteps';
import { ZonesSection } from './zonesSection';
import { HOLES, sectionsOf, type SurveySection } from './surveyRows';

/** Lens whose histogram is shown while the part is plain. */
const PLAIN_SHOWS = 'slope';

/** What the part is: figures, each of which lights its place in the view. */
@Component({
  selector: 'esq-survey-panel',
  imports: [MatButtonModule, Histogram, LensChoice, ZonesSection],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './surveyPanel.scss',
  template: `
    <esq-lens-choice label="Lens on the part" [lenses]="lenses" [chosen]="look.lens()" (choose)="look.choose($event)" />
    @if (look.survey()) {
      @if (histogram(); as h) {
        <h3 class="pencil">{{ h.title }}</h3>
        <esq-histogram
          [bars]="h.bars"
          [label]="h.label"
          [row]="7"
          [brush]="look.brush()"
          [told]="told()"
          (brushed)="brush($event)"
        />
      }
      <p class="advice">{{ toldOf(advice()) }}</p>
      <button matButton="outlined" class="press" data-testid="part-steps" (click)="steps.forPart()">
        Steps for this part …
      </button>
      <esq-zones-section />
      @for (section of sections(); track section.title) {
        <h3 class="pencil">{{ section.title }}</h3>
        @if (section.title === HOLES) {
          <button
            matButton="outlined"
            class="press"
            data-testid="hole-steps"
            (click)="steps.forHoles(look.survey()?.holes ?? [])"
          >
            Steps for these …
          </button>
        }
        @for (r of section.rows; track $index) {
          <button
            matButton
            class="entry"
            [disabled]="r.triangles.length === 0 && !r.at"
            (click)="look.light(r.triangles, r.at, r.label)"
          >
            <span>{{ r.label }}</span><span class="number">{{ r.value }}</span>
          </button>
        }
      }
    } @else {
      @if (look.stopped()) {
        <button matButton="outlined" class="press" (click)="look.lookOver()">Survey the part</button>
      } @else {
        <p class="pencil note">Surveying the part …</p>
      }
    }
  `,
})
export class SurveyPanel {
  protected readonly toldOf = toldOf;
  protected readonly look = inject(PieceLook);
  private readonly theme = inject(Theme);
  protected readonly lenses = PART_LENSES;

  protected readonly HOLES = HOLES;
  protected readonly steps = inject(PartSteps);

  protected readonly advice = computed(() => {
    const s = this.look.survey();
    return s ? adviceOf(s) : '';
  });

  protected readonly sections = computed((): SurveySection[] => {
    const s = this.look.survey();
    return s ? sectionsOf(s, (height) => length(this.look.heightInZero(height), 2)) : [];
  });

  private readonly areas = computed(() => {
    const survey = this.look.survey();
    const isPlain = !this.look.field();
    const lens = partLens(isPlain ? PLAIN_SHOWS : this.look.lens());
    const field = survey && lens.field?.(survey);
    return survey && field && { survey, field, lens, isPlain, areas: areasIn(field, survey) };
  });

  protected readonly histogram = computed(() => {
    const shown = this.areas();
    if (!shown) return undefined;
    const { survey, field, lens, areas } = shown;
    const title = lens.title!;
    return {
      title,
      bars: barsOf(field, areas, rgb(this.theme.palette().sanguine)),
      label: labelOf(title, areas, field, survey),
    };
  });

  protected readonly told = computed(() => {
    const shown = this.areas();
    const brush = this.look.brush();
    if (!shown || !brush) return '';
    const { field, areas } = shown;
    const area = areas.slice(brush[0], brush[1] + 1).reduce((sum, a) => sum + a, 0);
    return `${field.told(field.ends[brush[0]]!, field.ends[brush[1] + 1] ?? Infinity)}: ${areaText(area, 1)} ${unitOf('cm²')}`;
  });

  protected brush(brush: Brush | undefined): void {
    if (this.areas()?.isPlain) this.look.choose(PLAIN_SHOWS);
    this.look.brush.set(brush);
  }
}

/** Areas on a root scale, so that small ones stay visible. */
function barsOf(field: PartField, areas: readonly number[], wrong: readonly [number, number, number]): Bar[] {
  const most = Math.max(...areas, 1e-9);
  return areas.map((area, k) => {
    const next = field.ends[k + 1];
    const middle = next === undefined ? field.ends[k]! + 1 : (field.ends[k]! + next) / 2;
    return {
      colour: css(field.colour(middle, wrong)),
      length: area > 0 ? Math.max(0.01, Math.sqrt(area / most)) : 0,
      label: field.named(k),
    };
  });
}

/** The largest bin in words, for those who do not see the bars. */
function labelOf(title: string, areas: readonly number[], field: PartField, { area }: Survey): string {
  const largest = areas.indexOf(Math.max(...areas));
  const name = field.told(field.ends[largest]!, field.ends[largest + 1] ?? Infinity);
  return `${title}, share of the surface: most of it ${name}, ${((areas[largest]! / area) * 100).toFixed(0)} %`;
}
