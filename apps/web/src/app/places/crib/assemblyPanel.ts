import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import {
  ANGLED_KINDS,
  type Assembly,
  type Cutter,
  CUTTER_KINDS,
  CUTTER_WORDS,
  type CutterKind,
  feedRate,
  gaugeLength,
  GRADE_WORDS,
  GRADES,
  type Holder,
  HOLDER_KINDS,
  holderShape,
  type Job,
  type Tool,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { mm } from '../../shared/numbers';
import { Silhouette } from '../../shared/silhouette';
import { ValueField } from '../../shared/valueField';
import {
  withAssemblyChange,
  withClampChange,
  withCopiedAssembly,
  withCutterChange,
  withNewClamp,
  withoutAssembly,
} from '../../state/edit';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { ClampPanel } from './clampPanel';
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
  key: 'number' | 'stickOut' | 'lengthOffset' | 'radiusOffset' | 'measuredLength' | 'measuredDiameter' | 'n' | 'fz';
  label: string;
  unit: string;
  /** What holds when it is empty, where it may be. */
  empty?: string;
}

/** One assembly: its cutter and holder, how far it stands out, and its cutting data. */
@Component({
  selector: 'esq-assembly-panel',
  imports: [ClampPanel, CuttingPanel, Silhouette, ValueField],
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
    .inset {
      border-left: 2px solid var(--rule);
      padding-left: 8px;
      margin: 2px 0 8px;
    }
  `,
  template: `
    @let t = tool();
    <p class="sentence">
      T{{ t.assembly.number }}: {{ t.cutter.name }} in {{ clamps() }}, standing out {{ t.assembly.stickOut }} mm.
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
      <div class="row">
        <label for="grade">Grade, ISO 513</label>
        <select id="grade" class="value" (change)="cutter({ grade: $any($event.target).value })">
          @for (g of grades; track g) {
            <option [value]="g" [selected]="g === t.cutter.grade">{{ gradeWords[g] }}</option>
          }
        </select>
      </div>
      <esq-value-field
        label="Connection DCONMS"
        key="DCONMS"
        [value]="t.cutter.DCONMS"
        unit="mm"
        [symbols]="symbols()"
        [optional]="true"
        placeholder="not told"
        [accept]="acceptConnection"
      />
      @if (t.cutter.kind === 'high-feed') {
        <p class="pencil note">
          Worked out with its equivalent profile: the corner radius RE that it is programmed with.
        </p>
      }
      <p class="pencil note">Lollipop cutters are not in the crib: nothing here cuts below an overhang.</p>
    </section>
    <section class="section">
      <h2>Assembly</h2>
      <div class="row">
        <label for="holder">Holder</label>
        <select id="holder" class="value" (change)="changeBy($any($event.target), 'holderId')">
          @for (h of holders(); track h.id) {
            <option [value]="h.id" [selected]="h.id === t.assembly.holderId">{{ h.name }}</option>
          }
        </select>
      </div>
      <button class="plain" [attr.aria-expanded]="open() === t.holder.id" (click)="unfold(t.holder.id)">
        {{ open() === t.holder.id ? 'less' : 'its shape and connections' }}
      </button>
      @if (open() === t.holder.id) {
        <div class="inset">
          @if (shared() > 1) {
            <p class="pencil note">This holder stands in {{ shared() }} assemblies; a change holds for all of them.</p>
          }
          <esq-clamp-panel [clamp]="t.holder" [accept]="acceptHolder" (refused)="tell($event)" />
          <div class="row">
            <label for="shape">Another holder</label>
            <select id="shape" class="value" (change)="another($any($event.target))">
              <option value="">made up as …</option>
              <option value="copy">copy of this one</option>
              @for (k of holderKinds; track k) {
                <option [value]="k">{{ k }}</option>
              }
            </select>
          </div>
        </div>
      }
      @for (e of t.extensions; track $index; let k = $index) {
        <div class="row">
          <span>Extension {{ t.extensions.length > 1 ? k + 1 : '' }}</span>
          <span>
            <button class="plain" [attr.aria-expanded]="open() === e.id" (click)="unfold(e.id)">{{ e.name }}</button>
            <button class="plain" [attr.aria-label]="'Take ' + e.name + ' out'" (click)="takeOut(k)">×</button>
          </span>
        </div>
        @if (open() === e.id) {
          <div class="inset">
            <esq-clamp-panel [clamp]="e" [accept]="acceptExtension(e.id)" (refused)="tell($event)" />
          </div>
        }
      }
      <div class="row">
        <label for="extension">Add an extension</label>
        <select id="extension" class="value" (change)="extend($any($event.target))">
          <option value="">{{ t.extensions.length > 0 ? 'one more …' : 'none' }}</option>
          @for (e of extensions(); track e.id) {
            <option [value]="e.id">{{ e.name }}</option>
          }
          <option value="new">a new one</option>
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
  protected readonly grades = GRADES;
  protected readonly gradeWords = GRADE_WORDS;
  protected readonly holderKinds = HOLDER_KINDS;
  /** Holder or extension whose shape is shown. */
  protected readonly open = signal('');
  protected readonly holders = computed(() => this.editor.job()?.crib.holders ?? []);
  protected readonly extensions = computed(() => this.editor.job()?.crib.extensions ?? []);
  protected readonly shared = computed(
    () => this.editor.job()?.crib.assemblies.filter((a) => a.holderId === this.tool().holder.id).length ?? 0,
  );
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
    { key: 'lengthOffset', label: 'Length offset H', unit: '', empty: `${this.tool().assembly.number}, as its number` },
    { key: 'radiusOffset', label: 'Radius offset D', unit: '', empty: `${this.tool().assembly.number}, as its number` },
    {
      key: 'measuredLength',
      label: 'Measured length',
      unit: 'mm',
      empty: `${mm(gaugeLength(this.tool()), 2)} nominal`,
    },
    { key: 'measuredDiameter', label: 'Measured diameter', unit: 'mm', empty: `${this.tool().cutter.DC} nominal` },
    // speed and feed that follow a cut are shown with it
    ...(this.tool().assembly.data
      ? []
      : ([
          { key: 'n', label: 'Speed n', unit: '1/min' },
          { key: 'fz', label: 'Feed a tooth fz', unit: 'mm' },
        ] as const)),
  ]);
  protected readonly clamps = computed(() =>
    [...this.tool().extensions, this.tool().holder].map((c) => c.name).join(' in '),
  );
  protected readonly feed = computed(() => {
    const { assembly, cutter } = this.tool();
    return Math.round(feedRate(assembly.fz, cutter.ZEFP, assembly.n));
  });

  protected acceptor(key: AssemblyField['key']): (value: number | null) => string | undefined {
    const empty = this.fields().find((f) => f.key === key)?.empty ? null : 0;
    return (value) =>
      this.editor.change((job) => withAssemblyChange(job, this.tool().assembly.id, { [key]: value ?? empty }));
  }

  protected readonly acceptConnection = (value: number | null): string | undefined =>
    this.editor.change((job) => withCutterChange(job, this.tool().cutter.id, { DCONMS: value }));

  protected readonly acceptHolder = (change: object): string | undefined =>
    this.editor.change((job) => withClampChange(job, 'holders', this.tool().holder.id, change));

  protected acceptExtension(id: string): (change: object) => string | undefined {
    return (change) => this.editor.change((job) => withClampChange(job, 'extensions', id, change));
  }

  protected unfold(id: string): void {
    this.open.set(this.open() === id ? '' : id);
  }

  /** Another holder in place of this one: a copy of it, or a made-up one that takes the cutter. */
  protected another(list: HTMLSelectElement): void {
    const choice = list.value as Holder['kind'] | 'copy';
    list.value = '';
    const { assembly, cutter, extensions, holder } = this.tool();
    const held = extensions[extensions.length - 1]?.DCONMS ?? cutter.DCONMS ?? cutter.DC;
    const shape = choice === 'copy' ? { ...holder, name: `${holder.name}, copy` } : holderShape(choice, held);
    let made = '';
    this.tell(
      this.editor.change((job) => {
        const next = withNewClamp(job, 'holders', shape);
        made = next.id;
        return withAssemblyChange(next.job, assembly.id, { holderId: next.id });
      }),
    );
    this.open.set(made);
  }

  protected extend(list: HTMLSelectElement): void {
    const choice = list.value;
    list.value = '';
    const { assembly, cutter } = this.tool();
    const put = (job: Job, id: string): Job =>
      withAssemblyChange(job, assembly.id, { extensionIds: [...assembly.extensionIds, id] });
    if (choice !== 'new') {
      this.editor.make('crib', (job) => put(job, choice));
      return;
    }
    const takes = cutter.DCONMS ?? cutter.DC;
    const widest = Math.round(1.6 * takes + 2);
    let made = '';
    this.tell(
      this.editor.change((job) => {
        const next = withNewClamp(job, 'extensions', {
          name: `Extension ${takes} to ${widest}`,
          DCONWS: takes,
          clampFrom: null,
          DCONMS: null,
          stack: [{ bottomDiameter: widest - 2, topDiameter: widest, length: 50 }],
        });
        made = next.id;
        return put(next.job, next.id);
      }),
    );
    this.open.set(made);
  }

  protected takeOut(place: number): void {
    const extensionIds = this.tool().assembly.extensionIds.filter((_, k) => k !== place);
    this.change({ extensionIds });
  }

  protected cutter(change: Partial<Cutter>): void {
    this.editor.make('crib', (job) => withCutterChange(job, this.tool().cutter.id, change));
  }

  /** A choice that cannot be taken shows again what holds. */
  protected changeBy(list: HTMLSelectElement, key: 'holderId'): void {
    const problem = this.editor.change((job) =>
      withAssemblyChange(job, this.tool().assembly.id, { [key]: list.value }),
    );
    if (problem) list.value = this.tool().assembly[key];
    this.tell(problem);
  }

  protected change(change: Partial<Assembly>): void {
    this.editor.make('crib', (job) => withAssemblyChange(job, this.tool().assembly.id, change));
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
    this.editor.make('crib', (job) => withCutterChange(job, cutter.id, change));
  }

  protected copy(): void {
    const job = this.editor.job();
    const copied = job && withCopiedAssembly(job, this.tool().assembly.id);
    if (!copied) return;
    this.editor.make('crib', () => copied.job);
    this.made.emit(copied.id);
  }

  protected remove(): void {
    this.editor.make('crib', (job) => withoutAssembly(job, this.tool().assembly.id));
  }

  protected tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'crib' } }));
  }
}
