import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import {
  ANGLED_KINDS,
  type Assembly,
  type Cutter,
  CUTTER_KINDS,
  CUTTER_WORDS,
  type CutterKind,
  feedRate,
  type Tool,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Silhouette } from '../../shared/silhouette';
import { ValueField } from '../../shared/valueField';
import { withAssemblyChange, withCopiedAssembly, withCutterChange, withoutAssembly } from '../../state/edit';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { CuttingPanel } from './cuttingPanel';

const SIZES: { key: 'DC' | 'RE' | 'APMX' | 'DMM' | 'OAL' | 'ZEFP' | 'SIG'; label: string; unit: string }[] = [
  { key: 'DC', label: 'Cutting diameter DC', unit: 'mm' },
  { key: 'RE', label: 'Corner radius RE', unit: 'mm' },
  { key: 'APMX', label: 'Flute length APMX', unit: 'mm' },
  { key: 'DMM', label: 'Neck and shank DMM', unit: 'mm' },
  { key: 'OAL', label: 'Overall length OAL', unit: 'mm' },
  { key: 'ZEFP', label: 'Edges ZEFP', unit: '' },
  { key: 'SIG', label: 'Point or taper angle SIG', unit: '°' },
];

interface AssemblyField {
  key: 'number' | 'stickOut' | 'measuredLength' | 'measuredDiameter' | 'n' | 'fz';
  label: string;
  unit: string;
  /** What holds when it is empty, where it may be. */
  empty?: string;
}

/** One assembly: its cutter and holder, how far it stands out, and its cutting data. */
@Component({
  selector: 'esq-assembly-panel',
  imports: [CuttingPanel, Silhouette, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    .big,
    .big esq-silhouette {
      height: 150px;
    }
    .big {
      margin-bottom: 8px;
    }
    .sentence {
      font-size: 15px;
      margin-bottom: 12px;
    }
    .note {
      font-size: 12px;
    }
  `,
  template: `
    @let t = tool();
    <p class="sentence">
      T{{ t.assembly.number }}: {{ t.cutter.name }} in {{ t.holder.name }}, standing out {{ t.assembly.stickOut }} mm.
    </p>
    <div class="big">
      <esq-silhouette [tool]="t" [holderShown]="90" [draggable]="true" (stickOut)="change({ stickOut: $event })" />
    </div>
    <p class="pencil">Drag the holder on the drawing to change the stick-out.</p>
    <section class="section">
      <h2>Cutter</h2>
      <div class="row">
        <label for="kind">Kind</label>
        <select id="kind" class="value" (change)="kind($any($event.target).value)">
          @for (k of kinds; track k) {
            <option [value]="k" [selected]="k === t.cutter.kind">{{ words[k] }}</option>
          }
        </select>
      </div>
      @for (s of sizes(); track s.key) {
        <esq-value-field
          [label]="s.label"
          [key]="s.key"
          [value]="t.cutter[s.key]"
          [unit]="s.unit"
          [symbols]="symbols()"
          [accept]="sizeAcceptor(s.key)"
        />
      }
    </section>
    <section class="section">
      <h2>Assembly</h2>
      <div class="row">
        <label for="holder">Holder</label>
        <select id="holder" class="value" (change)="change({ holderId: $any($event.target).value })">
          @for (h of holders(); track h.id) {
            <option [value]="h.id" [selected]="h.id === t.assembly.holderId">{{ h.name }}</option>
          }
        </select>
      </div>
      @for (f of fields(); track f.key) {
        <esq-value-field
          [label]="f.label"
          [key]="f.key"
          [value]="t.assembly[f.key]"
          [unit]="f.unit"
          [symbols]="symbols()"
          [optional]="!!f.empty"
          [placeholder]="f.empty ?? ''"
          [accept]="acceptor(f.key)"
        />
      }
      <p class="pencil note">
        Measured sizes stand in the saved crib; paths and checks are worked out for the nominal ones.
      </p>
      <div class="row">
        <span>Feed vf = fz z n</span><span class="number">{{ feed() }} <span class="unit">mm/min</span></span>
      </div>
    </section>
    <esq-cutting-panel [tool]="t" />
    <div class="row section">
      <button class="press" (click)="change({ retired: !t.assembly.retired })">
        {{ t.assembly.retired ? 'Bring back' : 'Retire' }}
      </button>
      <button class="press" (click)="copy()">Copy</button>
      <button class="press" (click)="remove()">Remove</button>
    </div>
  `,
  host: { class: 'panel', role: 'complementary', 'aria-label': 'Assembly' },
})
export class AssemblyPanel {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  readonly tool = input.required<Tool>();
  /** A copy was made: its id. */
  readonly made = output<string>();
  protected readonly kinds = CUTTER_KINDS;
  protected readonly words = CUTTER_WORDS;
  protected readonly holders = computed(() => this.editor.job()?.crib.holders ?? []);
  protected readonly sizes = computed(() =>
    SIZES.filter((s) => s.key !== 'SIG' || ANGLED_KINDS.includes(this.tool().cutter.kind)),
  );
  protected readonly symbols = computed((): Record<string, number> => {
    const { DC, RE, APMX, OAL, DMM } = this.tool().cutter;
    return { DC, RE, APMX, OAL, DMM };
  });
  protected readonly fields = computed((): AssemblyField[] => [
    { key: 'number', label: 'Number', unit: '' },
    { key: 'stickOut', label: 'Stick-out', unit: 'mm' },
    { key: 'measuredLength', label: 'Measured length', unit: 'mm', empty: 'not measured' },
    { key: 'measuredDiameter', label: 'Measured diameter', unit: 'mm', empty: `${this.tool().cutter.DC} nominal` },
    // speed and feed that follow a cut are shown with it
    ...(this.tool().assembly.data
      ? []
      : ([
          { key: 'n', label: 'Speed n', unit: '1/min' },
          { key: 'fz', label: 'Feed a tooth fz', unit: 'mm' },
        ] as const)),
  ]);
  protected readonly feed = computed(() => {
    const { assembly, cutter } = this.tool();
    return Math.round(feedRate(assembly.fz, cutter.ZEFP, assembly.n));
  });

  protected acceptor(key: AssemblyField['key']): (value: number | null) => string | undefined {
    const empty = key === 'measuredLength' || key === 'measuredDiameter' ? null : 0;
    return (value) =>
      this.editor.change((job) => withAssemblyChange(job, this.tool().assembly.id, { [key]: value ?? empty }));
  }

  protected change(change: Partial<Assembly>): void {
    this.tell(this.editor.change((job) => withAssemblyChange(job, this.tool().assembly.id, change)));
  }

  /** A ball's corner radius follows its diameter. */
  protected sizeAcceptor(key: keyof Cutter): (value: number | null) => string | undefined {
    return (value) => {
      const { cutter } = this.tool();
      const change = { [key]: value ?? 0, ...(cutter.kind === 'ball' && key === 'DC' ? { RE: (value ?? 0) / 2 } : {}) };
      return this.editor.change((job) => withCutterChange(job, cutter.id, change));
    };
  }

  /** Another kind, with the corner and angle that such cutters usually have. */
  protected kind(kind: CutterKind): void {
    const { cutter } = this.tool();
    const corners: Partial<Record<CutterKind, number>> = {
      ball: cutter.DC / 2,
      bull: cutter.DC / 8,
      'high-feed': cutter.DC / 8,
      tapered: cutter.DC / 4,
    };
    const angles: Partial<Record<CutterKind, number>> = { drill: 140, spot: 90, chamfer: 90, tapered: 6 };
    const change = { kind, RE: corners[kind] ?? 0, SIG: angles[kind] ?? 0 };
    this.tell(this.editor.change((job) => withCutterChange(job, cutter.id, change)));
  }

  protected copy(): void {
    const job = this.editor.job();
    const copied = job && withCopiedAssembly(job, this.tool().assembly.id);
    if (!copied) return;
    this.tell(this.editor.change(() => copied.job));
    this.made.emit(copied.id);
  }

  protected remove(): void {
    this.tell(this.editor.change((job) => withoutAssembly(job, this.tool().assembly.id)));
  }

  private tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'crib' } }));
  }
}
