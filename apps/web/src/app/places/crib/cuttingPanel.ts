import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import { TextField } from '../../shared/textField';
import { MatButtonModule } from '@angular/material/button';
import {
  type Assembly,
  type Cut,
  CUT_WORDS,
  cuttingData,
  CUTS,
  type Figure,
  type FigureKey,
  readValue,
  STIFFNESS,
  type Tool,
  usualCut,
} from '@esquisse/core';
import { ChoiceField } from '../../shared/choiceField';
import { ValueField } from '../../shared/valueField';
import { withAssemblyChange } from '../../state/edit';
import { Editor } from '../../state/editor';
import { shown, shownUnit, sizeOfUnit, told, unitOf } from '../../shared/units';

type Data = NonNullable<Assembly['data']>;

const SHOWN: FigureKey[] = [
  'Deff',
  'phi',
  'vc',
  'n',
  'fz',
  'hex',
  'hm',
  'vf',
  'vEntry',
  'vPlunge',
  'Q',
  'Fc',
  'Pc',
  'Mc',
  'deflection',
];
const SETTABLE: FigureKey[] = ['vc', 'n', 'fz'];

/** Cutting data of an assembly, worked out from material, cutter, engagement, stick-out and machine; every figure says why. */
@Component({
  selector: 'esq-cutting-panel',
  imports: [MatTooltipModule, TextField, ChoiceField, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section">
      <div class="row">
        <h2>Cutting data</h2>
        @if (follows()) {
          <span class="pencil">n and fz follow this cut</span>
        } @else {
          <button matButton="outlined" class="press" data-testid="follow" (click)="follow()">
            Let n and fz follow
          </button>
        }
      </div>
      <esq-choice-field
        label="Kind of cut"
        [value]="data().cut"
        [options]="cuts"
        (chosen)="set({ cut: $any($event) })"
      />
      <esq-value-field
        label="Radial depth ae"
        key="ae"
        [value]="data().ae"
        unit="mm"
        [symbols]="symbols()"
        [accept]="acceptAe"
      />
      <esq-value-field
        label="Axial depth ap"
        key="ap"
        [value]="data().ap"
        unit="mm"
        [symbols]="symbols()"
        [accept]="acceptAp"
      />
      <esq-choice-field label="Rigidity" [value]="'' + chosen()" [options]="rigidities" (chosen)="stiffen(+$event)" />
      @for (f of figures(); track f.key) {
        <div class="row figure">
          <button matButton class="plain name" [attr.aria-expanded]="open() === f.key" (click)="toggle(f.key)">
            <span class="mono">{{ f.symbol }}</span> {{ f.name }}
            @if (f.overridden) {
              <span class="dot" matTooltip="set by hand">●</span>
            }
          </button>
          @if (settable(f.key) && follows()) {
            <esq-text-field
              bare
              class="figure-field"
              [house]="!f.overridden"
              [label]="f.name"
              [key]="'cut-' + f.key"
              [value]="shown(f.value, f.unit, f.decimals)"
              [accept]="overrider(f.key, f.unit)"
            /><span class="unit mono">{{ unitOf(f.unit) }}</span>
          } @else {
            <span class="number" [attr.data-testid]="'cut-' + f.key"
              >{{ shown(f.value, f.unit, f.decimals) }} <span class="unit">{{ unitOf(f.unit) }}</span></span
            >
          }
        </div>
        @if (f.limit) {
          <p class="stale limit">{{ told(f.limit) }}</p>
        }
        @if (open() === f.key) {
          <div class="why" role="note">
            <p class="mono">{{ f.symbol }} = {{ f.formula }}</p>
            <p class="mono">{{ f.put }}</p>
            @if (shownUnit() === 'in') {
              <p class="pencil">In mm and m/min, as the formula is given.</p>
            }
            <p class="pencil">{{ f.source }}</p>
            @if (f.overridden) {
              <button matButton class="plain" (click)="release(f.key)">Undo the override</button>
            }
          </div>
        }
      }
      @if (problem()) {
        <p class="wrong">{{ told(problem()) }}</p>
      }
    </section>
  `,
  styles: `
    .name {
      text-align: left;
      padding: 0;
      flex: 1;
    }
    .dot {
      color: var(--verdigris);
    }
    .limit {
      font-size: 12px;
      text-align: right;
    }
    .why {
      font-size: 12px;
      border-left: 2px solid var(--indigo);
      padding: 2px 0 2px 8px;
      margin: 2px 0 6px;
    }
    .unit {
      min-width: 40px;
      margin-left: 4px;
    }
  `,
})
export class CuttingPanel {
  protected readonly shown = shown;
  protected readonly shownUnit = shownUnit;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  private readonly editor = inject(Editor);
  readonly tool = input.required<Tool>();
  protected readonly cuts = CUTS.map((value) => ({ value, label: CUT_WORDS[value] }));
  protected readonly rigidities = STIFFNESS.map((s, k) => ({ value: String(k), label: `${s.words} · ${s.factor}` }));
  protected readonly open = signal<FigureKey | ''>('');
  protected readonly problem = signal('');
  /** What is looked at while n and fz stand as set by hand. */
  private readonly trial = signal<{ id: string; data: Data } | undefined>(undefined);

  protected readonly follows = computed(() => this.tool().assembly.data !== null);
  protected readonly data = computed((): Data => {
    const tool = this.tool();
    const trial = this.trial();
    // as the job has it by now: the value beside may have been entered since the panel was drawn
    const kept = this.editor.job()?.crib.assemblies.find(({ id }) => id === tool.assembly.id)?.data;
    if (kept) return kept;
    return trial?.id === tool.assembly.id ? trial.data : { ...usualCut(tool.cutter), overrides: {} };
  });
  protected readonly chosen = computed(() => this.editor.job()?.setup.stiffness ?? 1);
  protected readonly symbols = computed((): Record<string, number> => {
    const { DC, RE, APMX } = this.tool().cutter;
    return { DC, RE, APMX };
  });

  protected readonly figures = computed((): Figure[] => {
    const job = this.editor.job();
    const { cutter, extensions, assembly } = this.tool();
    if (!job) return [];
    const all = cuttingData({
      cutter,
      extensions,
      stickOut: assembly.stickOut,
      material: job.material,
      machine: job.setup.machine,
      stiffness: job.setup.stiffness,
      ...this.data(),
    });
    return SHOWN.map((key) => all[key]);
  });

  protected readonly acceptAe = (value: number | null): string | undefined => this.set({ ae: value ?? 0 });
  protected readonly acceptAp = (value: number | null): string | undefined => this.set({ ap: value ?? 0 });

  protected settable(key: FigureKey): boolean {
    return SETTABLE.includes(key);
  }

  protected toggle(key: FigureKey): void {
    this.open.set(this.open() === key ? '' : key);
  }

  protected follow(): void {
    this.problem.set(this.take(this.data()) ?? '');
  }

  protected set(change: Partial<Data> & { cut?: Cut }): string | undefined {
    const data = { ...this.data(), ...change };
    if (this.follows()) return this.take(data);
    if (!(data.ae > 0) || !(data.ap > 0)) return 'Must be more than 0.';
    this.trial.set({ id: this.tool().assembly.id, data });
    return undefined;
  }

  protected overrider(key: FigureKey, unit: string): (text: string) => string | undefined {
    return (text) => {
      const typed = readValue(text, this.symbols(), sizeOfUnit(unit));
      return 'problem' in typed
        ? typed.problem
        : this.take({ ...this.data(), overrides: { ...this.data().overrides, [key]: typed.value } });
    };
  }

  protected release(key: FigureKey): void {
    this.take({ ...this.data(), overrides: { ...this.data().overrides, [key]: undefined } });
  }

  protected stiffen(stiffness: number): void {
    this.editor.make('crib', (job) => ({ ...job, setup: { ...job.setup, stiffness } }));
  }

  private take(data: Data): string | undefined {
    return this.editor.change((job) => withAssemblyChange(job, this.tool().assembly.id, { data }));
  }
}
