import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import {
  type Coolant,
  COOLANT_WORDS,
  coolantDoubt,
  hardSteelDoubt,
  COOLANTS,
  type CuttingFigures,
  EVEN_BY,
  type EvenFeed,
  evenSchema,
  refusesMilling,
  houseCoolant,
  type OwnCutting,
  STRENGTHS,
} from '@esquisse/core';
import { ChoiceField } from '../shared/choiceField';
import { Fold } from '../shared/fold';
import { feed, told, unitOf } from '../shared/units';
import { ValueField } from '../shared/valueField';
import { withCoolant, withEvenFeed, withOwnCutting, withStart, withStrength } from '../state/stepEdit';
import { Editor } from '../state/editor';
import { ChosenStep } from './chosenStep';

interface Row {
  readonly key: OwnCutting;
  readonly label: string;
  readonly unit: string;
  readonly decimals: number;
  readonly of: (figures: CuttingFigures) => number;
  readonly why?: string;
}

const ROWS: readonly Row[] = [
  {
    key: 'vc',
    label: 'Cutting speed vc',
    unit: 'm/min',
    decimals: 1,
    of: (f) => f.vc,
    why: 'vc = π Deff n / 1000 (ISO 3002), at the diameter at which the edge cuts at this depth.',
  },
  { key: 'n', label: 'Spindle speed n', unit: '1/min', decimals: 0, of: (f) => f.n },
  { key: 'fz', label: 'Feed per tooth fz', unit: 'mm', decimals: 4, of: (f) => f.fz },
  { key: 'vf', label: 'Feed vf', unit: 'mm/min', decimals: 0, of: (f) => f.vf, why: 'vf = fz z n (ISO 3002).' },
  {
    key: 'entry',
    label: 'Entry feed',
    unit: 'mm/min',
    decimals: 0,
    of: (f) => f.entry,
    why: '0.4 vf on a slope into steel (common practice).',
  },
  {
    key: 'plunge',
    label: 'Plunge feed',
    unit: 'mm/min',
    decimals: 0,
    of: (f) => f.plunge,
    why: '0.25 vf straight down, 0.4 vf where it follows from the crib (common practice).',
  },
  {
    key: 'link',
    label: 'Link feed',
    unit: 'mm/min',
    decimals: 0,
    of: (f) => f.link,
    why: 'vf: on the way from cut to cut, in air.',
  },
  {
    key: 'back',
    label: 'Return feed',
    unit: 'mm/min',
    decimals: 0,
    of: (f) => f.back,
    why: 'As the link feed: straight up, out of the work.',
  },
];
const STARTS = [
  { value: 'cut', label: "this step's own cut" },
  { value: 'crib', label: 'the figures of the crib' },
];
const HOUSE = 'house';
const STEADY_FEED = 'nothing';
const EVEN_WORDS: Record<EvenFeed['by'], string> = {
  chip: 'Largest chip hex',
  power: 'Cutting power',
  bending: 'Bending at the tip',
};

/** Speed, feeds and coolant of the chosen step: what follows from its cut, and what was set by hand. */
@Component({
  selector: 'esq-step-cutting',
  imports: [ChoiceField, Fold, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (step(); as s) {
      <esq-fold name="Speed and feeds" [brief]="brief()">
        <esq-choice-field
          label="Follow from"
          key="cuttingFrom"
          [value]="s.cutting.from"
          [options]="starts"
          (chosen)="start(s.id, $any($event))"
        />
        <esq-choice-field
          label="How hard"
          key="strength"
          [value]="'' + s.cutting.strength"
          [options]="strengths"
          [house]="s.cutting.strength === 2"
          (chosen)="strength(s.id, +$event)"
        />
        <p class="pencil note" data-testid="strength">{{ strengthWords() }}</p>
        @for (row of rows(); track row.key) {
          <esq-value-field
            [label]="row.label"
            [key]="row.key"
            [value]="row.value"
            [unit]="row.unit"
            [house]="!row.isOwn"
            [optional]="true"
            [why]="row.why"
            [accept]="acceptor(s.id, row.key)"
          />
        }
        @if (limit()) {
          <p class="stale" role="note">Held back: {{ told(limit()) }}.</p>
        }
        <p class="pencil note">Grey follows; ink was set by hand: empty the field and it follows again.</p>
        @if (isLoadKnown()) {
          <esq-choice-field
            label="Feed follows"
            key="even"
            [value]="s.cutting.even?.by ?? steadyFeed"
            [options]="evenBy"
            [house]="s.cutting.even === null"
            (chosen)="even(s.id, $event)"
          />
          @if (s.cutting.even; as even) {
            @for (field of evenFields(); track field.key) {
              <esq-value-field
                [label]="field.label"
                [key]="field.key"
                [value]="field.value"
                [unit]="field.unit"
                [house]="field.isHouse"
                [optional]="true"
                [placeholder]="field.key === 'most' ? 'own cut' : ''"
                [why]="field.why"
                [accept]="evenAcceptor(s.id, field.key)"
              />
            }
          }
        }
        <esq-choice-field
          label="Coolant"
          key="coolant"
          [value]="s.coolant ?? house"
          [house]="s.coolant === null"
          [options]="coolants()"
          (chosen)="coolant(s.id, $event)"
        />
        @if (doubt()) {
          <p class="stale" role="note">{{ doubt() }}</p>
        }
      </esq-fold>
    }
  `,
  styles: `
    .note {
      font-size: 12px;
      margin: 2px 0 6px;
    }
  `,
})
export class StepCutting {
  private readonly editor = inject(Editor);
  private readonly chosen = inject(ChosenStep);
  protected readonly told = told;
  protected readonly step = this.chosen.step;
  protected readonly starts = STARTS;
  protected readonly house = HOUSE;
  protected readonly steadyFeed = STEADY_FEED;
  /** What makes holes or chamfers is not looked at for its load. */
  protected readonly isLoadKnown = computed(() => {
    const tool = this.chosen.tool();
    return tool !== undefined && refusesMilling(tool.cutter) === undefined;
  });
  protected readonly evenBy = [
    { value: STEADY_FEED, label: 'nothing: one feed in all cuts' },
    ...EVEN_BY.map((by) => ({ value: by as string, label: EVEN_WORDS[by] })),
  ];
  protected readonly strengths = STRENGTHS.map(({ name }, i) => ({ value: `${i}`, label: name }));

  protected readonly strengthWords = computed(() => {
    const { words, fz, vc, ae } = STRENGTHS[this.step()?.cutting.strength ?? 2]!;
    const by = fz === 1 && vc === 1 && ae === 1 ? 'fz, vc and ae as they follow' : `fz x ${fz}, vc x ${vc}, ae x ${ae}`;
    return `${words[0]!.toUpperCase()}${words.slice(1)}: ${by}.`;
  });

  protected readonly rows = computed(() => {
    const cutting = this.chosen.cutting();
    const own = this.step()?.cutting.own ?? {};
    if (!cutting) return [];
    return ROWS.map((row) => ({
      ...row,
      why: row.why ?? '',
      value: Number(row.of(cutting).toFixed(row.decimals)),
      isOwn: own[row.key] !== undefined,
    }));
  });
  protected readonly limit = computed(() => this.chosen.cutting()?.limit ?? '');
  protected readonly brief = computed(() => {
    const c = this.chosen.cutting();
    return c ? `n ${Math.round(c.n)}  vf ${feed(c.vf)} ${unitOf('mm/min')}` : '';
  });

  protected readonly coolants = computed(() => {
    const job = this.editor.job();
    const tool = this.chosen.tool();
    const taken = job && tool ? COOLANT_WORDS[houseCoolant(job.material, tool.cutter.grade)] : '';
    return [
      { value: HOUSE, label: `${taken}, house value` },
      ...COOLANTS.map((value) => ({ value: value as string, label: COOLANT_WORDS[value] })),
    ];
  });
  protected readonly doubt = computed(() => {
    const [job, tool, step] = [this.editor.job(), this.chosen.tool(), this.step()];
    if (!job || !tool || !step) return '';
    const { grade } = tool.cutter;
    const coolant = step.coolant ?? houseCoolant(job.material, grade);
    return (job.hardSteel ? hardSteelDoubt(coolant) : undefined) ?? coolantDoubt(coolant, job.material, grade) ?? '';
  });

  /** Bounds of a feed that follows the load, with what holds where they are empty. */
  protected readonly evenFields = computed(() => {
    const even = this.step()?.cutting.even;
    if (!even) return [];
    const house = evenSchema.parse({ by: even.by });
    const share = (key: 'least' | 'fastest' | 'perMm', label: string, why: string) => ({
      ...{ key, label, why, unit: '%' },
      value: Math.round(1000 * even[key]) / 10,
      isHouse: even[key] === house[key],
    });
    return [
      {
        key: 'most' as const,
        label: `${EVEN_WORDS[even.by]}, at most`,
        unit: even.by === 'power' ? 'kW' : 'mm',
        value: even.most,
        isHouse: even.most === null,
        why: "Empty: what it is in the step's own cut, or what machine and assembly are to bear.",
      },
      share('least', 'Least feed', 'Of the feed above; no slower, whatever the load.'),
      share('fastest', 'Largest feed', 'Of the feed above: in air, and where little steel is met.'),
      share('perMm', 'Change per mm', 'Of the feed above, over a millimetre of the way.'),
    ];
  });

  protected even(stepId: string, by: string): void {
    const even = by === STEADY_FEED ? null : evenSchema.parse({ by });
    this.editor.make('workplan', (job) => withEvenFeed(job, stepId, even));
  }

  protected evenAcceptor(
    stepId: string,
    key: Exclude<keyof EvenFeed, 'by'>,
  ): (value: number | null) => string | undefined {
    return (value) => {
      const now = this.step()?.cutting.even;
      if (!now) return undefined;
      const size = value === null ? evenSchema.parse({ by: now.by })[key] : key === 'most' ? value : value / 100;
      return this.editor.change((job) => withEvenFeed(job, stepId, { ...now, [key]: size }));
    };
  }

  protected acceptor(stepId: string, key: OwnCutting): (value: number | null) => string | undefined {
    return (value) => this.editor.change((job) => withOwnCutting(job, stepId, key, value ?? undefined));
  }

  protected start(stepId: string, from: 'cut' | 'crib'): void {
    this.editor.make('workplan', (job) => withStart(job, stepId, from));
  }

  protected strength(stepId: string, strength: number): void {
    this.editor.make('workplan', (job) => withStrength(job, stepId, strength));
  }

  protected coolant(stepId: string, choice: string): void {
    const coolant = choice === HOUSE ? null : (choice as Coolant);
    this.editor.make('workplan', (job) => withCoolant(job, stepId, coolant));
  }
}
