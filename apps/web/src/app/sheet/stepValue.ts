import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatTooltipModule } from '@angular/material/tooltip';
import {
  beyondBound,
  CUTTER_WORDS,
  cutterSymbols,
  type Field,
  houseOf,
  type OtherFigure,
  ownHouseValue,
  type Relation,
  shapeOf,
  type Value,
} from '@esquisse/core';
import { House } from '../keeping/house';
import { type Choice, ChoiceField } from '../shared/choiceField';
import { type Offer, ValueField } from '../shared/valueField';
import { ChosenStep } from './chosenStep';
import { HeightBound } from './heightBound';
import { SameLoad } from './sameLoad';

/** A value of the chosen step, as its kind declares it: a choice, a cutter, or a number with what tells it as well. */
@Component({
  selector: 'esq-step-value',
  imports: [ChoiceField, HeightBound, MatButtonModule, MatTooltipModule, SameLoad, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      display: contents;
    }
  `,
  template: `
    @let f = field();
    @if (chosen.step(); as s) {
      @if (f.choices) {
        <esq-choice-field
          [label]="f.label"
          [key]="f.key"
          [house]="isHouse(f)"
          [value]="$any(s.values[f.key])"
          [options]="f.choices"
          (chosen)="chosen.make(s.id, f.key, $event)"
        >
          @for (o of offers(f); track o.text) {
            <button
              matButton
              class="plain ask offer"
              [attr.aria-label]="'Keep as house value: ' + f.label"
              [matTooltip]="offerTitle() + ' ' + o.text"
              (click)="$event.stopPropagation(); keepHouse(f.key, o)"
            >
              Keep
            </button>
          }
        </esq-choice-field>
      } @else if (f.assembly) {
        <esq-choice-field
          [label]="f.label"
          [key]="f.key"
          [value]="$any(s.values[f.key]) ?? ''"
          [options]="earlier(f)"
          (chosen)="chosen.make(s.id, f.key, $event || null)"
        />
      } @else {
        <esq-value-field
          [label]="f.label"
          [key]="f.key"
          [value]="s.values[f.key] ?? null"
          [unit]="f.unit ?? ''"
          [house]="isHouse(f)"
          [optional]="!!f.whenEmpty"
          [placeholder]="f.whenEmpty ?? ''"
          [symbols]="symbols()"
          [relation]="s.relations?.[f.key]"
          [trouble]="chosen.problems()[f.key] ?? beyond(f) ?? ''"
          [why]="f.why ?? ''"
          [accept]="acceptor(s.id, f.key)"
          offerWord="Keep as house value"
          [offerTitle]="offerTitle()"
          [offers]="offers(f)"
          (offered)="keepHouse(f.key, $event)"
        />
        @if (f.boundBy) {
          <esq-same-load [field]="f" />
        }
        @if (f.height) {
          <esq-height-bound [field]="f" />
        }
        @for (other of f.also; track other.label) {
          <esq-value-field
            [label]="other.label"
            [key]="f.key + ' ' + other.label"
            [value]="figureOf(other, s.values[f.key])"
            [unit]="other.unit"
            [house]="isHouse(f)"
            [symbols]="symbols()"
            [accept]="figureAcceptor(s.id, f.key, other)"
          />
        }
      }
    }
  `,
})
export class StepValue {
  private readonly houseLists = inject(House);
  protected readonly chosen = inject(ChosenStep);
  private readonly step = this.chosen.step;
  private readonly kind = this.chosen.kind;
  private readonly tool = this.chosen.tool;
  readonly field = input.required<Field>();

  protected readonly symbols = computed((): Record<string, number> => {
    const tool = this.tool();
    return tool ? cutterSymbols(tool.cutter) : {};
  });
  private readonly house = computed((): Record<string, Value> => {
    const tool = this.tool();
    const kind = this.kind();
    return tool && kind ? houseOf(kind, shapeOf(tool), this.houseLists.steps()) : {};
  });

  /** What the value asks of the cutter beyond what it bears. */
  protected beyond(field: Field): string | undefined {
    const tool = this.tool();
    return tool && beyondBound(field, this.step()?.values[field.key], shapeOf(tool));
  }

  protected isHouse(field: Field): boolean {
    return this.step()?.values[field.key] === this.house()[field.key];
  }

  protected readonly offerTitle = computed(() => {
    const tool = this.tool();
    const kind = this.kind();
    return tool && kind
      ? `Steps of ${kind.name.toLowerCase()} with a ${CUTTER_WORDS[tool.cutter.kind]} begin with`
      : '';
  });

  /** As what a value can become the house value: as it is, or, of a length, by the cutter's diameter. */
  protected offers(field: Field): Offer[] {
    const tool = this.tool();
    const kind = this.kind();
    const value = this.step()?.values[field.key];
    if (!tool || !kind || field.height) return [];
    const words = (v: Value | undefined): string =>
      field.choices?.find((c) => c.value === v)?.label ?? `${String(v)}${field.unit ? ` ${field.unit}` : ''}`;
    const offers: Offer[] = [];
    if (field.choices && value !== this.house()[field.key]) offers.push({ text: words(value), value });
    else if (typeof value === 'number' && value !== this.house()[field.key]) {
      offers.push({ text: words(value), value });
      const share = Math.round((value / tool.cutter.DC) * 1e4) / 1e4;
      if (field.unit === 'mm' && share > 0) offers.push({ text: `${share} DC`, value: `${share} DC` });
    }
    if (ownHouseValue(this.houseLists.steps(), kind.id, tool.cutter.kind, field.key) !== undefined)
      offers.push({ text: `${words(kind.house(shapeOf(tool))[field.key])} as built in`, value: undefined });
    return offers;
  }

  protected keepHouse(key: string, { value }: Offer): void {
    const tool = this.tool();
    const kind = this.kind();
    if (tool && kind) this.houseLists.keepStepValue(kind.id, tool.cutter.kind, key, value);
  }

  protected acceptor(stepId: string, key: string) {
    return (value: number | null, relation?: Relation): string | undefined =>
      this.chosen.change(stepId, key, value, relation);
  }

  /** A figure that follows from a value, for the step's tool, to a micrometre. */
  protected figureOf(other: OtherFigure, value: Value | undefined): number | null {
    const tool = this.tool();
    return tool && typeof value === 'number' ? Math.round(1000 * other.of(value, shapeOf(tool))) / 1000 : null;
  }

  /** Takes the figure for the value that follows from it, to a tenth of a micrometre. */
  protected figureAcceptor(stepId: string, key: string, other: OtherFigure) {
    return (figure: number | null): string | undefined => {
      const tool = this.tool();
      if (!tool || figure === null) return undefined;
      return this.chosen.change(stepId, key, Math.round(1e4 * other.from(figure, shapeOf(tool))) / 1e4);
    };
  }

  /** The earlier cutters after which the steel can be taken. */
  protected earlier(field: Field): readonly Choice[] {
    return [
      { value: '', label: field.whenEmpty ?? '' },
      ...this.chosen.earlier().map(({ id, title, refused }) => ({ value: id, label: `as after ${title}`, refused })),
    ];
  }
}
