import {
  ChangeDetectionStrategy,
  ChangeDetectorRef,
  Component,
  computed,
  HostListener,
  inject,
  signal,
} from '@angular/core';
import { ScrollingModule } from '@angular/cdk/scrolling';
import {
  cribToCsv,
  CUTTER_KINDS,
  CUTTER_WORDS,
  feedRate,
  GRADES,
  isCancelled,
  messageOf,
  readValue,
  type TableReport,
  type Tool,
  toolsOf,
} from '@esquisse/core';
import { FileReading } from '../../engine/fileReading';
import { saveFile } from '../../shared/files';
import { AssemblyPanel } from './assemblyPanel';
import { Store } from '@ngrx/store';
import { Silhouette } from '../../shared/silhouette';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';

/** What do I cut with? */
@Component({
  selector: 'esq-crib',
  imports: [AssemblyPanel, ScrollingModule, Silhouette],
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
        <span class="pencil">RE</span>
        <input class="value small" aria-label="RE" placeholder="any" (change)="corner.set(size($event, -1))" />
        <select class="value" aria-label="Cutting material" (change)="onlyGrade.set($any($event.target).value)">
          <option value="">all grades</option>
          @for (g of grades; track g) {
            <option [value]="g">{{ g }}</option>
          }
        </select>
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
        <span class="number">T</span><span>Cutter</span><span class="drawing"></span><span class="number">DC</span
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
          <span role="cell">{{ clamps(t) }}</span>
          <span class="number" role="cell">{{ t.assembly.n }}</span>
          <span class="number" role="cell">{{ feed(t) }}</span>
          <span class="pencil" role="cell">{{ usedIn(t.assembly.id) }}</span>
        </div>
      </cdk-virtual-scroll-viewport>
      @if (printing()) {
        <table class="printed" data-testid="printed">
          @for (t of rows(); track t.assembly.id) {
            <tr>
              <td class="number">T{{ t.assembly.number }}</td>
              <td>{{ t.cutter.name }}</td>
              <td class="number">{{ t.cutter.DC }}</td>
              <td class="number">{{ t.cutter.RE }}</td>
              <td class="number">{{ t.cutter.APMX }}</td>
              <td class="number">{{ t.assembly.stickOut }}</td>
              <td>{{ clamps(t) }}</td>
              <td class="number">{{ t.assembly.n }}</td>
              <td class="number">{{ feed(t) }}</td>
              <td>{{ usedIn(t.assembly.id) }}</td>
            </tr>
          }
        </table>
      }
      @if (rows().length === 0) {
        <p class="pencil">No assembly fits.</p>
      }
      @if (report(); as r) {
        <div class="report" role="note" data-testid="table-report">
          <p>
            {{ r.added }} added, {{ r.changed }} changed, {{ r.same }} as before, {{ r.problems.length }} left out.
            <button class="plain" (click)="report.set(undefined)">close</button>
          </p>
          @for (c of r.changes.slice(0, 200); track $index) {
            <p>T{{ c.number }} {{ c.column }}: {{ c.from }} &rarr; {{ c.to }}</p>
          }
          @if (r.changes.length > 200) {
            <p>and {{ r.changes.length - 200 }} more.</p>
          }
          @for (p of r.problems.slice(0, 50); track $index) {
            <p class="wrong">{{ p.row > 0 ? 'Row ' + p.row + ', ' : '' }}{{ p.column }}: {{ p.message }}</p>
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
    @if (selected(); as t) {
      <!-- another tool has fields of its own: what could not be taken for one is not shown for another -->
      @for (id of [t.assembly.id]; track id) {
        <esq-assembly-panel [tool]="t" (made)="chosen.set($event)" />
      }
    }
  `,
})
export class CribPlace {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly reader = inject(FileReading);
  protected readonly kinds = CUTTER_KINDS;
  protected readonly words = CUTTER_WORDS;
  protected readonly search = signal('');
  protected readonly chosen = signal('');

  protected readonly onlyKind = signal('');
  protected readonly onlyGrade = signal('');
  protected readonly corner = signal(-1);
  protected readonly grades = GRADES;
  protected readonly from = signal(0);
  protected readonly to = signal(9999);
  protected readonly reach = signal(0);
  protected readonly withRetired = signal(false);
  protected readonly printing = signal(false);
  private readonly changes = inject(ChangeDetectorRef);
  protected readonly report = signal<TableReport | undefined>(undefined);

  private readonly all = computed(() => {
    const crib = this.editor.job()?.crib;
    return crib ? toolsOf(crib) : [];
  });
  protected readonly count = computed(() => this.all().length);
  protected readonly rows = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    const kind = this.onlyKind();
    const grade = this.onlyGrade();
    const corner = this.corner();
    return this.all().filter((tool) => {
      const { assembly, cutter } = tool;
      if ((kind && cutter.kind !== kind) || (grade && cutter.grade !== grade)) return false;
      if (corner >= 0 && Math.abs(cutter.RE - corner) > 1e-6) return false;
      if (cutter.DC < this.from() || cutter.DC > this.to() || assembly.stickOut < this.reach()) return false;
      if (assembly.retired && !this.withRetired()) return false;
      if (words.length === 0) return true;
      const text =
        `t${assembly.number} ${cutter.name} ${CUTTER_WORDS[cutter.kind]} ${cutter.DC} ${this.clamps(tool)}`.toLowerCase();
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
  protected readonly selected = computed(
    () => this.all().find((t) => t.assembly.id === this.chosen()) ?? this.all()[0],
  );

  protected feed(t: { assembly: { fz: number; n: number }; cutter: { ZEFP: number } }): number {
    return Math.round(feedRate(t.assembly.fz, t.cutter.ZEFP, t.assembly.n));
  }

  /** What holds a cutter, from its side up. */
  protected clamps({ extensions, holder }: Tool): string {
    return [...extensions, holder].map((c) => c.name).join(' + ');
  }

  protected usedIn(assemblyId: string): string {
    return this.uses().get(assemblyId)?.join(', ') ?? '';
  }

  protected byId(_: number, t: Tool): string {
    return t.assembly.id;
  }

  protected size(event: Event, empty: number): number {
    const typed = readValue((event.target as HTMLInputElement).value);
    return 'value' in typed ? typed.value : empty;
  }

  protected saveCsv(): void {
    const crib = this.editor.job()?.crib;
    if (crib) saveFile('crib.csv', cribToCsv(crib), 'text/csv');
  }

  protected saveJson(): void {
    const crib = this.editor.job()?.crib;
    if (crib) saveFile('crib.json', JSON.stringify(crib, null, 2), 'application/json');
  }

  /** All rows that the filter leaves are on paper, not only those in view. */
  @HostListener('window:beforeprint')
  protected beforePrint(): void {
    this.printing.set(true);
    this.changes.detectChanges();
  }

  @HostListener('window:afterprint')
  protected afterPrint(): void {
    this.printing.set(false);
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
      const { crib, report } = await this.reader.crib(file, job.crib);
      if (!crib) {
        this.report.set(report);
        this.tell(`"${file.name}" is no crib that can be taken; the crib is as it was.`);
        return;
      }
      // what was changed while it was read is not to be lost
      const problem =
        this.editor.job()?.crib === job.crib
          ? this.editor.change((j) => ({ ...j, crib }))
          : `The crib was changed while "${file.name}" was read: read it again.`;
      if (problem) this.tell(problem);
      else this.report.set(report);
    } catch (error) {
      if (!isCancelled(error)) this.tell(messageOf(error));
    }
  }

  private tell(problem: string | undefined): void {
    if (problem) this.store.dispatch(PlanActions.failed({ trouble: { message: problem, place: 'crib' } }));
  }
}
