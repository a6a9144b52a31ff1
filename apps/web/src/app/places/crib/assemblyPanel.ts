import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import {
  hasSize,
  type Assembly,
  assemblySymbols,
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
  type Relation,
  relationProblems,
  type Tool,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { ChoiceField } from '../../shared/choiceField';
import { feed as shownFeed, length, size, unitOf } from '../../shared/units';
import { Notice } from '../../shared/notice';
import { Silhouette } from '../../shared/silhouette';
import { ValueField } from '../../shared/valueField';
import {
  withAssemblyChange,
  withClampChange,
  type ClampChange,
  withCopiedAssembly,
  withCutterChange,
  withNewClamp,
  withRelation,
  withoutAssembly,
} from '../../state/edit';
import { withKindOfCutter, withSize } from '../../state/cutterEdit';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { ClampPanel } from './clampPanel';
import { CutterBounds } from './cutterBounds';
import { CuttingPanel } from './cuttingPanel';
import { NeededPanel } from './neededPanel';
import { ShopPanel } from './shopPanel';

type SizeKey = 'DC' | 'RE' | 'APMX' | 'DMM' | 'OAL' | 'ZEFP' | 'SIG' | 'TP' | 'DN' | 'LN' | 'neckTaper' | 'neckCone';
const SIZES: { key: SizeKey; label: string; unit: string; empty?: string; ofNeck?: true }[] = [
  { key: 'DC', label: 'Cutting diameter DC', unit: 'mm' },
  { key: 'RE', label: 'Corner radius RE', unit: 'mm' },
  { key: 'APMX', label: 'Flute length APMX', unit: 'mm' },
  { key: 'DN', label: 'Neck diameter DN', unit: 'mm', empty: 'no neck' },
  { key: 'LN', label: 'Usable length LN', unit: 'mm', empty: 'not given', ofNeck: true },
  { key: 'neckTaper', label: 'Neck widens a side', unit: '°', ofNeck: true },
  { key: 'neckCone', label: 'Cone to the shank a side', unit: '°', ofNeck: true },
  { key: 'DMM', label: 'Shank DMM', unit: 'mm' },
  { key: 'OAL', label: 'Overall length OAL', unit: 'mm' },
  { key: 'ZEFP', label: 'Edges ZEFP', unit: '' },
  { key: 'SIG', label: 'Point or taper angle SIG', unit: '°' },
  { key: 'TP', label: 'Thread pitch TP', unit: 'mm' },
];

interface AssemblyField {
  key:
    | 'number'
    | 'stickOut'
    | 'lengthOffset'
    | 'radiusOffset'
    | 'measuredLength'
    | 'measuredDiameter'
    | 'measuredRadius'
    | 'mostBending'
    | 'mostChip'
    | 'n'
    | 'fz';
  label: string;
  unit: string;
  /** What holds when it is empty, where it may be. */
  empty?: string;
}

/** One assembly: its cutter and holder, how far it stands out, and its cutting data. */
@Component({
  selector: 'esq-assembly-panel',
  imports: [
    MatMenuModule,
    ChoiceField,
    MatButtonModule,
    ClampPanel,
    CutterBounds,
    CuttingPanel,
    MatCheckboxModule,
    NeededPanel,
    ShopPanel,
    Silhouette,
    ValueField,
  ],
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
      T{{ t.assembly.number }}: {{ t.cutter.name }} in {{ clamps() }}, standing out {{ size(t.assembly.stickOut) }}
      {{ unitOf('mm') }}.
    </p>
    <div class="big">
      <esq-silhouette [tool]="t" [holderShown]="90" [draggable]="true" (stickOut)="change({ stickOut: $event })" />
    </div>
    <p class="pencil">Drag the holder on the drawing to change the stick-out.</p>
    <esq-needed-panel [tool]="t" />
    <section class="section">
      <h2>Cutter</h2>
      <esq-choice-field label="Kind" [value]="t.cutter.kind" [options]="kinds" (chosen)="kind($any($event))" />
      @for (s of sizes(); track s.key) {
        <esq-value-field
          [label]="s.label"
          [key]="s.key"
          [value]="t.cutter[s.key]"
          [unit]="s.unit"
          [optional]="!!s.empty"
          [placeholder]="s.empty ?? ''"
          [symbols]="s.key === 'DC' ? {} : { DC: t.cutter.DC }"
          [relation]="t.cutter.relations?.[s.key]"
          [trouble]="troubles()[s.key] ?? ''"
          [accept]="sizeAcceptor(s.key)"
        />
      }
      <esq-choice-field
        label="Grade, ISO 513"
        [value]="t.cutter.grade"
        [options]="grades"
        (chosen)="cutter({ grade: $any($event) })"
      />
      <esq-value-field
        label="Connection DCONMS"
        key="DCONMS"
        [value]="t.cutter.DCONMS"
        unit="mm"
        [symbols]="symbols()"
        [optional]="true"
        placeholder="not given"
        [accept]="acceptConnection"
      />
      <esq-cutter-bounds [tool]="t" />
      @if (t.cutter.kind === 'high-feed') {
        <p class="pencil note">
          Calculated with its equivalent profile: the corner radius RE that it is programmed with.
        </p>
      }
      <p class="pencil note">Lollipop cutters are not in the crib: nothing here cuts below an overhang.</p>
    </section>
    <section class="section">
      <h2>Assembly</h2>
      <esq-choice-field
        label="Holder"
        [value]="t.assembly.holderId"
        [options]="holders()"
        (chosen)="change({ holderId: $event })"
      />
      <button matButton class="plain" [attr.aria-expanded]="open() === t.holder.id" (click)="unfold(t.holder.id)">
        {{ open() === t.holder.id ? 'Less' : 'Its shape and connections' }}
      </button>
      @if (open() === t.holder.id) {
        <div class="inset">
          @if (shared() > 1) {
            <p class="pencil note">This holder stands in {{ shared() }} assemblies; a change holds for all of them.</p>
          }
          <esq-clamp-panel [clamp]="t.holder" [accept]="acceptHolder" (refused)="tell($event)" />
          <button matButton="outlined" class="press" [matMenuTriggerFor]="shapes">Another holder …</button>
          <mat-menu #shapes="matMenu">
            <button mat-menu-item (click)="another('copy')">Copy of this one</button>
            @for (k of holderKinds; track k) {
              <button mat-menu-item (click)="another(k)">New: {{ k }}</button>
            }
          </mat-menu>
        </div>
      }
      @for (e of t.extensions; track $index; let k = $index) {
        <div class="row">
          <span>Extension {{ t.extensions.length > 1 ? k + 1 : '' }}</span>
          <span>
            <button matButton class="plain" [attr.aria-expanded]="open() === e.id" (click)="unfold(e.id)">
              {{ e.name }}
            </button>
            <button matButton class="plain" [attr.aria-label]="'Remove ' + e.name" (click)="takeOut(k)">×</button>
          </span>
        </div>
        @if (open() === e.id) {
          <div class="inset">
            <esq-clamp-panel [clamp]="e" [accept]="acceptExtension(e.id)" (refused)="tell($event)" />
          </div>
        }
      }
      <button matButton="outlined" class="press" [matMenuTriggerFor]="others">Add an extension …</button>
      <mat-menu #others="matMenu">
        @for (e of extensions(); track e.id) {
          <button mat-menu-item (click)="extend(e.id)">{{ e.name }}</button>
        }
        <button mat-menu-item (click)="extend('new')">A new one</button>
      </mat-menu>
      @for (f of fields(); track f.key) {
        <esq-value-field
          [label]="f.label"
          [key]="f.key"
          [value]="t.assembly[f.key]"
          [unit]="f.unit"
          [symbols]="symbols()"
          [optional]="!!f.empty"
          [placeholder]="f.empty ?? ''"
          [relation]="t.assembly.relations?.[f.key]"
          [trouble]="troubles()[f.key] ?? ''"
          [accept]="acceptor(f.key)"
        />
      }
      <mat-checkbox
        [checked]="t.assembly.asMeasured"
        [disabled]="!isMeasured()"
        data-testid="as-measured"
        (change)="change({ asMeasured: $event.checked })"
        >Take it as measured: paths, steel and checks are for these sizes</mat-checkbox
      >
      <div class="row">
        <span>Feed vf = fz z n</span
        ><span class="number"
          >{{ shownFeed(feed()) }} <span class="unit">{{ unitOf('mm/min') }}</span></span
        >
      </div>
    </section>
    <esq-shop-panel [tool]="t" />
    <esq-cutting-panel [tool]="t" />
    <div class="row section">
      <button matButton="outlined" class="press" (click)="change({ retired: !t.assembly.retired })">
        {{ t.assembly.retired ? 'Bring back' : 'Retire' }}
      </button>
      <button matButton="outlined" class="press" (click)="copy()">Copy</button>
      <button matButton="outlined" class="press" (click)="remove()">Remove</button>
    </div>
  `,
  host: { class: 'panel', role: 'complementary', 'aria-label': 'Assembly' },
})
export class AssemblyPanel {
  protected readonly shownFeed = shownFeed;
  protected readonly size = size;
  protected readonly unitOf = unitOf;
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly notice = inject(Notice);
  readonly tool = input.required<Tool>();
  /** A copy was made: its id. */
  readonly made = output<string>();
  protected readonly kinds = CUTTER_KINDS.map((value) => ({ value, label: CUTTER_WORDS[value] }));
  protected readonly grades = GRADES.map((value) => ({ value, label: GRADE_WORDS[value] }));
  protected readonly holderKinds = HOLDER_KINDS;
  /** Holder or extension whose shape is shown. */
  protected readonly open = signal('');
  protected readonly holders = computed(() =>
    (this.editor.job()?.crib.holders ?? []).map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly extensions = computed(() => this.editor.job()?.crib.extensions ?? []);
  protected readonly shared = computed(
    () => this.editor.job()?.crib.assemblies.filter((a) => a.holderId === this.tool().holder.id).length ?? 0,
  );
  protected readonly sizes = computed(() =>
    SIZES.filter(({ key, ofNeck }) => {
      const { kind, DN } = this.tool().cutter;
      return ofNeck ? DN !== null : hasSize(kind, key);
    }),
  );
  protected readonly symbols = computed(() => assemblySymbols(this.tool().cutter));
  /** What is wrong with relations, by their values' keys. */
  protected readonly troubles = computed((): Readonly<Record<string, string>> => {
    const job = this.editor.job();
    const { assembly, cutter } = this.tool();
    const own = job ? relationProblems(job).filter((p) => p.ownerId === assembly.id || p.ownerId === cutter.id) : [];
    return Object.fromEntries(own.map((p) => [p.key, p.message]));
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
      empty: `${length(gaugeLength(this.tool()), 2)} nominal`,
    },
    {
      key: 'measuredDiameter',
      label: 'Measured diameter',
      unit: 'mm',
      empty: `${length(this.tool().cutter.DC, 2)} nominal`,
    },
    ...(this.tool().cutter.kind === 'ball'
      ? []
      : ([
          {
            key: 'measuredRadius',
            label: 'Measured corner radius',
            unit: 'mm',
            empty: `${length(this.tool().cutter.RE, 2)} nominal`,
          },
        ] as const)),
    { key: 'mostBending', label: 'Bends at most', unit: 'mm', empty: 'house value' },
    { key: 'mostChip', label: 'Largest chip', unit: 'mm', empty: 'house value' },
    // speed and feed that follow a cut are shown with it
    ...(this.tool().assembly.data
      ? []
      : ([
          { key: 'n', label: 'Speed n', unit: '1/min' },
          { key: 'fz', label: 'Feed per tooth fz', unit: 'mm' },
        ] as const)),
  ]);
  protected readonly isMeasured = computed(() => {
    const { measuredLength, measuredDiameter, measuredRadius } = this.tool().assembly;
    return measuredLength !== null || measuredDiameter !== null || measuredRadius !== null;
  });
  protected readonly clamps = computed(() =>
    [...this.tool().extensions, this.tool().holder].map((c) => c.name).join(' in '),
  );
  protected readonly feed = computed(() => {
    const { assembly, cutter } = this.tool();
    return Math.round(feedRate(assembly.fz, cutter.ZEFP, assembly.n));
  });

  protected acceptor(key: AssemblyField['key']) {
    const empty = this.fields().find((f) => f.key === key)?.empty ? null : 0;
    return (value: number | null, relation?: Relation): string | undefined => {
      const { id, relations } = this.tool().assembly;
      const change = { [key]: value ?? empty, relations: withRelation(relations, key, relation) };
      return this.editor.change((job) => withAssemblyChange(job, id, change));
    };
  }

  protected readonly acceptConnection = (value: number | null): string | undefined =>
    this.editor.change((job) => withCutterChange(job, this.tool().cutter.id, { DCONMS: value }));

  protected readonly acceptHolder = (change: ClampChange): string | undefined =>
    this.editor.change((job) => withClampChange(job, 'holders', this.tool().holder.id, change));

  protected acceptExtension(id: string): (change: ClampChange) => string | undefined {
    return (change) => this.editor.change((job) => withClampChange(job, 'extensions', id, change));
  }

  protected unfold(id: string): void {
    this.open.set(this.open() === id ? '' : id);
  }

  /** Another holder in place of this one: a copy of it, or a made-up one that takes the cutter. */
  protected another(choice: Holder['kind'] | 'copy'): void {
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

  protected extend(choice: string): void {
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

  protected change(change: Partial<Assembly>): void {
    this.editor.make('crib', (job) => withAssemblyChange(job, this.tool().assembly.id, change));
  }

  protected sizeAcceptor(key: keyof Cutter) {
    return (value: number | null, relation?: Relation): string | undefined =>
      this.editor.change((job) => withSize(job, this.tool(), key, value, relation));
  }

  protected kind(kind: CutterKind): void {
    this.editor.make('crib', (job) => withKindOfCutter(job, this.tool().cutter, kind));
  }

  protected copy(): void {
    const job = this.editor.job();
    const copied = job && withCopiedAssembly(job, this.tool().assembly.id);
    if (!copied) return;
    this.editor.make('crib', () => copied.job);
    this.made.emit(copied.id);
  }

  protected remove(): void {
    const { id, number } = this.tool().assembly;
    this.editor.make('crib', (job) => withoutAssembly(job, id));
    if (!this.editor.job()?.crib.assemblies.some((a) => a.id === id)) this.notice.removed(`T${number}`);
  }

  protected tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'crib' } }));
  }
}
