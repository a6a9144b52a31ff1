import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
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
import { ValueField } from '../../shared/valueField';
import { withAssemblyChange } from '../../state/edit';
import { Editor } from '../../state/editor';

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
  imports: [ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section">
      <div class="row">
        <h2>Cutting data</h2>
        @if (follows()) {
          <span class="pencil">n and fz follow this cut</span>
        } @else {
          <button class="press" data-testid="follow" (click)="follow()">let n and fz follow</button>
        }
      </div>
      <div class="row">
        <label for="cut">Kind of cut</label>
        <select id="cut" class="value" (change)="set({ cut: $any($event.target).value })">
          @for (c of cuts; track c) {
            <option [value]="c" [selected]="c === data().cut">{{ words[c] }}</option>
          }
        </select>
      </div>
      <esq-value-field
        label="Side step ae"
        key="ae"
        [value]="data().ae"
        unit="mm"
        [symbols]="symbols()"
        [accept]="acceptAe"
      />
      <esq-value-field
        label="Depth ap"
        key="ap"
        [value]="data().ap"
        unit="mm"
        [symbols]="symbols()"
        [accept]="acceptAp"
      />
      <div class="row">
        <label for="stiffness">Set-up</label>
        <select id="stiffness" class="value" (change)="stiffen($any($event.target).selectedIndex)">
          @for (s of stiffness; track $index) {
            <option [selected]="$index === chosen()">{{ s.words }} · {{ s.factor }}</option>
          }
        </select>
      </div>
      @for (f of figures(); track f.key) {
        <div class="row figure">
          <button class="plain name" [attr.aria-expanded]="open() === f.key" (click)="toggle(f.key)">
            <span class="mono">{{ f.symbol }}</span> {{ f.name }}
            @if (f.overridden) {
              <span class="dot" title="set by hand">●</span>
            }
          </button>
          @if (settable(f.key) && follows()) {
            <input
              class="value"
              [class.house]="!f.overridden"
              [attr.aria-label]="f.name"
              [attr.data-key]="'cut-' + f.key"
              [value]="f.value.toFixed(f.decimals)"
              (change)="override(f.key, $any($event.target).value)"
            /><span class="unit mono">{{ f.unit }}</span>
          } @else {
            <span class="number" [attr.data-testid]="'cut-' + f.key"
              >{{ f.value.toFixed(f.decimals) }} <span class="unit">{{ f.unit }}</span></span
            >
          }
        </div>
        @if (f.limit) {
          <p class="stale limit">{{ f.limit }}</p>
        }
        @if (open() === f.key) {
          <div class="why" role="note">
            <p class="mono">{{ f.symbol }} = {{ f.formula }}</p>
            <p class="mono">{{ f.put }}</p>
            <p class="pencil">{{ f.source }}</p>
            @if (f.overridden) {
              <button class="plain" (click)="release(f.key)">take the override back</button>
            }
          </div>
        }
      }
      @if (problem()) {
        <p class="wrong">{{ problem() }}</p>
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
    select.value {
      max-width: 216px;
    }
  `,
})
export class CuttingPanel {
  private readonly editor = inject(Editor);
  readonly tool = input.required<Tool>();
  protected readonly cuts = CUTS;
  protected readonly words = CUT_WORDS;
  protected readonly stiffness = STIFFNESS;
  protected readonly open = signal<FigureKey | ''>('');
  protected readonly problem = signal('');
  /** What is looked at while n and fz stand as set by hand. */
  private readonly trial = signal<{ id: string; data: Data } | undefined>(undefined);

  protected readonly follows = computed(() => this.tool().assembly.data !== null);
  protected readonly data = computed((): Data => {
    const tool = this.tool();
    const trial = this.trial();
    if (tool.assembly.data) return tool.assembly.data;
    return trial?.id === tool.assembly.id ? trial.data : { ...usualCut(tool), overrides: {} };
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

  protected override(key: FigureKey, text: string): void {
    const typed = readValue(text, this.symbols());
    this.problem.set(
      'problem' in typed
        ? typed.problem
        : (this.take({ ...this.data(), overrides: { ...this.data().overrides, [key]: typed.value } }) ?? ''),
    );
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
