import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { ScrollingModule } from '@angular/cdk/scrolling';
import {
  ANGLED_KINDS,
  cribSchema,
  cribToCsv,
  csvIntoCrib,
  type Cutter,
  CUTTER_KINDS,
  CUTTER_WORDS,
  type CutterKind,
  feedRate,
  messageOf,
  parseJson,
  readValue,
  type TableReport,
  type Tool,
  toolsOf,
} from '@esquisse/core';
import { saveFile } from '../../shared/files';
import { CuttingPanel } from './cuttingPanel';
import { Store } from '@ngrx/store';
import { Silhouette } from '../../shared/silhouette';
import { ValueField } from '../../shared/valueField';
import { withAssemblyChange, withCopiedAssembly, withCutterChange, withoutAssembly } from '../../state/edit';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';

const SIZES: { key: 'DC' | 'RE' | 'APMX' | 'DMM' | 'OAL' | 'ZEFP' | 'SIG'; label: string; unit: string }[] = [
  { key: 'DC', label: 'Cutting diameter DC', unit: 'mm' },
  { key: 'RE', label: 'Corner radius RE', unit: 'mm' },
  { key: 'APMX', label: 'Flute length APMX', unit: 'mm' },
  { key: 'DMM', label: 'Neck and shank DMM', unit: 'mm' },
  { key: 'OAL', label: 'Overall length OAL', unit: 'mm' },
  { key: 'ZEFP', label: 'Edges ZEFP', unit: '' },
  { key: 'SIG', label: 'Point or taper angle SIG', unit: '°' },
];

/** What do I cut with? */
@Component({
  selector: 'esq-crib',
  imports: [CuttingPanel, ScrollingModule, Silhouette, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './crib.scss',
  template: `
    <div class="list">
      <div class="row filter">
        <label for="search" class="pencil">Find</label>
        <input
          id="search"
          class="value find"
          placeholder="number, kind or size"
          (input)="search.set($any($event.target).value)"
        />
        <select class="value" aria-label="Kind of cutter" (change)="onlyKind.set($any($event.target).value)">
          <option value="">all kinds</option>
          @for (k of kinds; track k) {
            <option [value]="k">{{ words[k] }}</option>
          }
        </select>
        <span class="pencil">DC</span>
        <input class="value small" aria-label="DC from" placeholder="from" (change)="from.set(size($event, 0))" />
        <input class="value small" aria-label="DC to" placeholder="to" (change)="to.set(size($event, 9999))" />
        <span class="pencil">reach</span>
        <input
          class="value small"
          aria-label="Stick-out from"
          placeholder="from"
          (change)="reach.set(size($event, 0))"
        />
        <label class="pencil"
          ><input type="checkbox" (change)="withRetired.set($any($event.target).checked)" /> retired too</label
        >
      </div>
      <div class="head line pencil" aria-hidden="true">
        <span class="number">T</span><span>Cutter</span><span></span><span class="number">DC</span
        ><span class="number">RE</span><span class="number">APMX</span><span class="number">Stick-out</span
        ><span>Holder</span><span class="number">n</span><span class="number">vf</span><span>Used in</span>
      </div>
      <cdk-virtual-scroll-viewport [itemSize]="39" class="rows" role="table" aria-label="Assemblies">
        <div
          *cdkVirtualFor="let t of rows(); trackBy: byId"
          class="line"
          role="row"
          [class.chosen]="t.assembly.id === selected()?.assembly?.id"
          [class.retired]="t.assembly.retired"
          (click)="chosen.set(t.assembly.id)"
        >
          <span class="number" role="cell">
            <button class="plain mono" (click)="chosen.set(t.assembly.id)">{{ t.assembly.number }}</button>
          </span>
          <span role="cell">{{ t.cutter.name }}</span>
          <span class="drawing" role="cell"><esq-silhouette [tool]="t" [holderShown]="40" /></span>
          <span class="number" role="cell">{{ t.cutter.DC }}</span>
          <span class="number" role="cell">{{ t.cutter.RE }}</span>
          <span class="number" role="cell">{{ t.cutter.APMX }}</span>
          <span class="number" role="cell">{{ t.assembly.stickOut }}</span>
          <span role="cell">{{ t.holder.name }}</span>
          <span class="number" role="cell">{{ t.assembly.n }}</span>
          <span class="number" role="cell">{{ feed(t) }}</span>
          <span class="pencil" role="cell">{{ usedIn(t.assembly.id) }}</span>
        </div>
      </cdk-virtual-scroll-viewport>
      @if (rows().length === 0) {
        <p class="pencil">No assembly fits.</p>
      }
      @if (report(); as r) {
        <div class="report" role="note" data-testid="table-report">
          <p>
            {{ r.added }} added, {{ r.changed }} changed, {{ r.problems.length }} rows left out.
            <button class="plain" (click)="report.set(undefined)">close</button>
          </p>
          @for (p of r.problems.slice(0, 50); track $index) {
            <p class="wrong">Row {{ p.row }}, {{ p.column }}: {{ p.message }}</p>
          }
        </div>
      }
      <div class="row foot">
        <span class="pencil">{{ rows().length }} of {{ count() }}</span>
        <button class="plain" (click)="saveCsv()">save as CSV</button>
        <button class="plain" (click)="saveJson()">save as JSON</button>
        <button class="plain" (click)="file.click()">read CSV or JSON …</button>
        <button class="plain" (click)="print()">print the list</button>
        <input #file type="file" hidden accept=".csv,.json" data-testid="crib-file" (change)="read($event)" />
      </div>
    </div>
    <aside class="panel" aria-label="Assembly">
      @if (selected(); as t) {
        <p class="sentence">
          T{{ t.assembly.number }}: {{ t.cutter.name }} in {{ t.holder.name }}, standing out
          {{ t.assembly.stickOut }} mm.
        </p>
        <div class="big">
          <esq-silhouette [tool]="t" [holderShown]="90" [draggable]="true" (stickOut)="drag(t.assembly.id, $event)" />
        </div>
        <p class="pencil">Drag the holder on the drawing to change the stick-out.</p>
        <section class="section">
          <h2>Cutter</h2>
          <div class="row">
            <label for="kind">Kind</label>
            <select id="kind" class="value" (change)="kind(t.cutter, $any($event.target).value)">
              @for (k of kinds; track k) {
                <option [value]="k" [selected]="k === t.cutter.kind">{{ words[k] }}</option>
              }
            </select>
          </div>
          @for (s of sizesOf(t.cutter); track s.key) {
            <esq-value-field
              [label]="s.label"
              [key]="s.key"
              [value]="t.cutter[s.key]"
              [unit]="s.unit"
              [symbols]="symbols()"
              [accept]="sizeAcceptor(t.cutter, s.key)"
            />
          }
        </section>
        <section class="section">
          <h2>Assembly</h2>
          <div class="row">
            <label for="holder">Holder</label>
            <select
              id="holder"
              class="value"
              (change)="tell(change(t.assembly.id, { holderId: $any($event.target).value }))"
            >
              @for (h of holders(); track h.id) {
                <option [value]="h.id" [selected]="h.id === t.assembly.holderId">{{ h.name }}</option>
              }
            </select>
          </div>
          <esq-value-field
            label="Number"
            key="number"
            [value]="t.assembly.number"
            [accept]="acceptor(t.assembly.id, 'number')"
          />
          <esq-value-field
            label="Stick-out"
            key="stickOut"
            [value]="t.assembly.stickOut"
            unit="mm"
            [symbols]="symbols()"
            [accept]="acceptor(t.assembly.id, 'stickOut')"
          />
          <esq-value-field
            label="Measured length"
            key="measuredLength"
            [value]="t.assembly.measuredLength"
            unit="mm"
            [optional]="true"
            placeholder="not measured"
            [accept]="measured(t.assembly.id, 'measuredLength')"
          />
          <esq-value-field
            label="Measured diameter"
            key="measuredDiameter"
            [value]="t.assembly.measuredDiameter"
            unit="mm"
            [optional]="true"
            [placeholder]="t.cutter.DC + ' nominal'"
            [accept]="measured(t.assembly.id, 'measuredDiameter')"
          />
          @if (!t.assembly.data) {
            <esq-value-field
              label="Speed n"
              key="n"
              [value]="t.assembly.n"
              unit="1/min"
              [accept]="acceptor(t.assembly.id, 'n')"
            />
            <esq-value-field
              label="Feed a tooth fz"
              key="fz"
              [value]="t.assembly.fz"
              unit="mm"
              [accept]="acceptor(t.assembly.id, 'fz')"
            />
          }
          <div class="row">
            <span>Feed vf = fz z n</span><span class="number">{{ feed(t) }} <span class="unit">mm/min</span></span>
          </div>
        </section>
        <esq-cutting-panel [tool]="t" />
        <div class="row section">
          <button class="press" (click)="retire(t.assembly.id, !t.assembly.retired)">
            {{ t.assembly.retired ? 'Bring back' : 'Retire' }}
          </button>
          <button class="press" (click)="copy(t.assembly.id)">Copy</button>
          <button class="press" (click)="remove(t.assembly.id)">Remove</button>
        </div>
      }
    </aside>
  `,
})
export class CribPlace {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  protected readonly kinds = CUTTER_KINDS;
  protected readonly words = CUTTER_WORDS;
  protected readonly search = signal('');
  protected readonly chosen = signal('');

  protected readonly onlyKind = signal('');
  protected readonly from = signal(0);
  protected readonly to = signal(9999);
  protected readonly reach = signal(0);
  protected readonly withRetired = signal(false);
  protected readonly report = signal<TableReport | undefined>(undefined);

  private readonly all = computed(() => {
    const crib = this.editor.job()?.crib;
    return crib ? toolsOf(crib) : [];
  });
  protected readonly count = computed(() => this.all().length);
  protected readonly rows = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    const kind = this.onlyKind();
    return this.all().filter(({ assembly, cutter, holder }) => {
      if (kind && cutter.kind !== kind) return false;
      if (cutter.DC < this.from() || cutter.DC > this.to() || assembly.stickOut < this.reach()) return false;
      if (assembly.retired && !this.withRetired()) return false;
      if (words.length === 0) return true;
      const text =
        `t${assembly.number} ${cutter.name} ${CUTTER_WORDS[cutter.kind]} ${cutter.DC} ${holder.name}`.toLowerCase();
      return words.every((w) => text.includes(w));
    });
  });
  private readonly uses = computed(() => {
    const uses = new Map<string, string[]>();
    this.editor.job()?.steps.forEach((s, i) => {
      const list = uses.get(s.assemblyId);
      if (list) list.push(`step ${i + 1}`);
      else uses.set(s.assemblyId, [`step ${i + 1}`]);
    });
    return uses;
  });
  protected readonly symbols = computed((): Record<string, number> => {
    const c = this.selected()?.cutter;
    return c ? { DC: c.DC, RE: c.RE, APMX: c.APMX, OAL: c.OAL, DMM: c.DMM } : {};
  });
  protected readonly selected = computed(
    () => this.all().find((t) => t.assembly.id === this.chosen()) ?? this.all()[0],
  );
  protected readonly holders = computed(() => this.editor.job()?.crib.holders ?? []);

  protected feed(t: { assembly: { fz: number; n: number }; cutter: { ZEFP: number } }): number {
    return Math.round(feedRate(t.assembly.fz, t.cutter.ZEFP, t.assembly.n));
  }

  protected usedIn(assemblyId: string): string {
    return this.uses().get(assemblyId)?.join(', ') ?? '';
  }

  protected sizesOf(cutter: Cutter): typeof SIZES {
    return SIZES.filter((s) => s.key !== 'SIG' || ANGLED_KINDS.includes(cutter.kind));
  }

  protected byId(_: number, t: Tool): string {
    return t.assembly.id;
  }

  protected size(event: Event, empty: number): number {
    const typed = readValue((event.target as HTMLInputElement).value);
    return 'value' in typed ? typed.value : empty;
  }

  protected measured(id: string, key: 'measuredLength' | 'measuredDiameter') {
    return (value: number | null): string | undefined =>
      this.editor.change((job) => withAssemblyChange(job, id, { [key]: value }));
  }

  protected drag(id: string, stickOut: number): void {
    this.tell(this.change(id, { stickOut }));
  }

  protected retire(id: string, retired: boolean): void {
    this.tell(this.editor.change((job) => withAssemblyChange(job, id, { retired })));
  }

  protected saveCsv(): void {
    const crib = this.editor.job()?.crib;
    if (crib) saveFile('crib.csv', cribToCsv(crib), 'text/csv');
  }

  protected saveJson(): void {
    const crib = this.editor.job()?.crib;
    if (crib) saveFile('crib.json', JSON.stringify(crib, null, 2), 'application/json');
  }

  protected print(): void {
    globalThis.print();
  }

  /** Takes a table into the crib row by row, or a whole crib in place of the one before. */
  protected async read(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    const job = this.editor.job();
    if (!file || !job) return;
    try {
      const text = await file.text();
      if (file.name.toLowerCase().endsWith('.json')) {
        const crib = cribSchema.safeParse(parseJson(text, file.name));
        if (!crib.success) {
          const issue = crib.error.issues[0]!;
          this.tell(`"${file.name}": ${issue.path.join('.') || 'the file'}: ${issue.message}`);
          return;
        }
        this.tell(this.editor.change((j) => ({ ...j, crib: crib.data })));
        return;
      }
      const taken = csvIntoCrib(text, job.crib, file.name);
      this.tell(this.editor.change((j) => ({ ...j, crib: taken.crib })));
      this.report.set(taken.report);
    } catch (error) {
      this.tell(messageOf(error));
    }
  }

  protected acceptor(
    id: string,
    key: 'number' | 'stickOut' | 'n' | 'fz',
  ): (value: number | null) => string | undefined {
    return (value) => this.change(id, { [key]: value ?? 0 });
  }

  protected change(id: string, change: Record<string, number | string>): string | undefined {
    return this.editor.change((job) => withAssemblyChange(job, id, change));
  }

  /** A ball's corner radius follows its diameter. */
  protected sizeAcceptor(cutter: Cutter, key: keyof Cutter): (value: number | null) => string | undefined {
    return (value) => {
      const change = { [key]: value ?? 0, ...(cutter.kind === 'ball' && key === 'DC' ? { RE: (value ?? 0) / 2 } : {}) };
      return this.editor.change((job) => withCutterChange(job, cutter.id, change));
    };
  }

  protected kind(cutter: Cutter, kind: CutterKind): void {
    const RE = kind === 'ball' ? cutter.DC / 2 : kind === 'bull' || kind === 'high-feed' ? cutter.DC / 8 : 0;
    const SIG = kind === 'drill' ? 140 : kind === 'spot' || kind === 'chamfer' ? 90 : kind === 'tapered' ? 6 : 0;
    this.tell(
      this.editor.change((job) =>
        withCutterChange(job, cutter.id, { kind, RE: kind === 'tapered' ? cutter.DC / 4 : RE, SIG }),
      ),
    );
  }

  protected copy(id: string): void {
    const job = this.editor.job();
    const made = job && withCopiedAssembly(job, id);
    if (!made) return;
    this.tell(this.editor.change(() => made.job));
    this.chosen.set(made.id);
  }

  protected remove(id: string): void {
    this.tell(this.editor.change((job) => withoutAssembly(job, id)));
  }

  protected tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'crib' } }));
  }
}
