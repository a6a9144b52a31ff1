import {
  ChangeDetectionStrategy,
  ChangeDetectorRef,
  Component,
  computed,
  HostListener,
  inject,
  signal,
  type WritableSignal,
} from '@angular/core';
import { TextField } from '../../shared/textField';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { ScrollingModule } from '@angular/cdk/scrolling';
import {
  type Crib,
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
  withTool,
  toolsOf,
} from '@esquisse/core';
import { FileReading } from '../../engine/fileReading';
import { ChoiceField, choicesOf } from '../../shared/choiceField';
import { saveFile } from '../../shared/files';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatSortModule, type Sort } from '@angular/material/sort';
import { AssemblyPanel } from './assemblyPanel';
import { CutterMaker } from './cutterMaker';
import { MagazineDialog } from '../magazine/magazineDialog';
import { ShopDialog } from './shopDialog';
import { Store } from '@ngrx/store';
import { Silhouette } from '../../shared/silhouette';
import { Editor } from '../../state/editor';
import { PlanActions } from '../../state/plan.reducer';
import { feed as shownFeed, size, sizeOfUnit, told } from '../../shared/units';

/** A column of the list: what its cells are sorted by. */
interface Column {
  readonly id: string;
  readonly name: string;
  readonly isNumber: boolean;
  readonly of: (tool: Tool) => number | string;
}

const number = (name: string, of: (tool: Tool) => number): Column => ({ id: name, name, isNumber: true, of });
const text = (name: string, of: (tool: Tool) => string): Column => ({ id: name, name, isNumber: false, of });
/** What holds a cutter, from its side up. */
const clampsOf = ({ extensions, holder }: Tool): string => [...extensions, holder].map((c) => c.name).join(' + ');
const feedOf = ({ assembly, cutter }: Tool): number => Math.round(feedRate(assembly.fz, cutter.ZEFP, assembly.n));

const COLUMNS: readonly Column[] = [
  number('T', (t) => t.assembly.number),
  text('Cutter', (t) => t.cutter.name),
  { ...text('', () => ''), id: 'drawing' },
  number('DC', (t) => t.cutter.DC),
  number('RE', (t) => t.cutter.RE),
  number('APMX', (t) => t.cutter.APMX),
  number('Stick-out', (t) => t.assembly.stickOut),
  text('Holder', clampsOf),
  number('n', (t) => t.assembly.n),
  number('vf', feedOf),
];

function compare(a: number | string, b: number | string): number {
  return typeof a === 'number' && typeof b === 'number'
    ? a - b
    : String(a).localeCompare(String(b), 'en', { numeric: true });
}

/** What do I cut with? */
@Component({
  selector: 'esq-crib',
  imports: [
    TextField,
    ChoiceField,
    MatCheckboxModule,
    MatSortModule,
    MatButtonModule,
    AssemblyPanel,
    ScrollingModule,
    Silhouette,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './crib.scss',
  template: `
    <div class="list">
      <div class="row filter">
        <esq-text-field
          class="find"
          bare
          label="Find"
          placeholder="number, kind or size"
          (typed)="search.set($event)"
        />
        <esq-choice-field
          bare
          label="Kind of cutter"
          [value]="onlyKind()"
          [options]="kinds"
          (chosen)="onlyKind.set($event)"
        />
        <span class="pencil">DC</span>
        <esq-text-field class="small" bare label="DC from" placeholder="from" [accept]="taker(from, 0)" />
        <esq-text-field class="small" bare label="DC to" placeholder="to" [accept]="taker(to, 9999)" />
        <span class="pencil">RE</span>
        <esq-text-field class="small" bare label="RE" placeholder="any" [accept]="taker(corner, -1)" />
        <esq-choice-field
          bare
          label="Cutting material"
          [value]="onlyGrade()"
          [options]="grades"
          (chosen)="onlyGrade.set($event)"
        />
        <span class="pencil">Stick-out</span>
        <esq-text-field class="small" bare label="Stick-out from" placeholder="from" [accept]="taker(reach, 0)" />
        <mat-checkbox (change)="withRetired.set($event.checked)">Retired too</mat-checkbox>
      </div>
      <div class="table" role="table" aria-label="Assemblies">
        <div class="head line pencil" role="row" matSort (matSortChange)="sort.set($event)">
          @for (c of columns; track c.id) {
            @if (c.id === 'drawing') {
              <span class="drawing" role="columnheader"><span class="sr">Silhouette</span></span>
            } @else {
              <span
                role="columnheader"
                [class.number]="c.isNumber"
                [mat-sort-header]="c.id"
                [arrowPosition]="c.isNumber ? 'before' : 'after'"
                >{{ c.name }}</span
              >
            }
          }
          <span role="columnheader">Used in</span>
        </div>
        <cdk-virtual-scroll-viewport [itemSize]="39" class="rows" role="rowgroup">
          <div
            *cdkVirtualFor="let t of rows(); trackBy: byId"
            class="line"
            role="row"
            [class.chosen]="t.assembly.id === selected()?.assembly?.id"
            [class.retired]="t.assembly.retired"
            (click)="chosen.set(t.assembly.id)"
          >
            <span class="number" role="cell">
              <button matButton class="plain mono" (click)="chosen.set(t.assembly.id)">{{ t.assembly.number }}</button>
            </span>
            <span role="cell">{{ t.cutter.name }}</span>
            <span class="drawing" role="cell"><esq-silhouette [tool]="t" [holderShown]="40" /></span>
            <span class="number" role="cell">{{ size(t.cutter.DC) }}</span>
            <span class="number" role="cell">{{ size(t.cutter.RE) }}</span>
            <span class="number" role="cell">{{ size(t.cutter.APMX) }}</span>
            <span class="number" role="cell">{{ size(t.assembly.stickOut) }}</span>
            <span role="cell">{{ clamps(t) }}</span>
            <span class="number" role="cell">{{ t.assembly.n }}</span>
            <span class="number" role="cell">{{ shownFeed(feed(t)) }}</span>
            <span class="pencil" role="cell">{{ usedIn(t.assembly.id) }}</span>
          </div>
        </cdk-virtual-scroll-viewport>
      </div>
      @if (printing()) {
        <table class="printed" data-testid="printed">
          @for (t of rows(); track t.assembly.id) {
            <tr>
              <td class="number">T{{ t.assembly.number }}</td>
              <td>{{ t.cutter.name }}</td>
              <td class="number">{{ size(t.cutter.DC) }}</td>
              <td class="number">{{ size(t.cutter.RE) }}</td>
              <td class="number">{{ size(t.cutter.APMX) }}</td>
              <td class="number">{{ size(t.assembly.stickOut) }}</td>
              <td>{{ clamps(t) }}</td>
              <td class="number">{{ t.assembly.n }}</td>
              <td class="number">{{ shownFeed(feed(t)) }}</td>
              <td>{{ usedIn(t.assembly.id) }}</td>
            </tr>
          }
        </table>
      }
      @if (rows().length === 0) {
        <p class="pencil">{{ isOpen() ? 'No assembly fits.' : 'No job is open yet.' }}</p>
      }
      @if (report(); as r) {
        <div class="report" role="note" data-testid="table-report">
          <p>
            {{ r.added }} added, {{ r.changed }} changed, {{ r.same }} as before, {{ r.problems.length }} left out.
            <button matButton class="plain" (click)="report.set(undefined)">Close</button>
          </p>
          @for (c of r.changes.slice(0, 200); track $index) {
            <p>T{{ c.number }} {{ c.column }}: {{ c.from }} &rarr; {{ c.to }}</p>
          }
          @if (r.changes.length > 200) {
            <p>and {{ r.changes.length - 200 }} more.</p>
          }
          @for (p of (r.doubts ?? []).slice(0, 50); track $index) {
            <p class="stale">Row {{ p.row }}: {{ told(p.message) }}</p>
          }
          @for (p of r.problems.slice(0, 50); track $index) {
            <p class="wrong">{{ p.row > 0 ? 'Row ' + p.row + ', ' : '' }}{{ p.column }}: {{ told(p.message) }}</p>
          }
        </div>
      }
      <div class="row foot">
        <button
          matButton="outlined"
          class="press"
          data-testid="new-cutter"
          [disabled]="!isOpen()"
          (click)="newCutter()"
        >
          New cutter …
        </button>
        <button matButton="outlined" class="press" data-testid="from-shop" [disabled]="!isOpen()" (click)="fromShop()">
          From the shop …
        </button>
        <span class="pencil">{{ rows().length }} of {{ count() }}</span>
        <button matButton class="plain" data-testid="magazine-open" [disabled]="!isOpen()" (click)="magazine()">
          Magazine …
        </button>
        <button matButton class="plain" (click)="saveCsv()">Save as CSV</button>
        <button matButton class="plain" (click)="saveJson()">Save as JSON</button>
        <button matButton class="plain" (click)="file.click()">Read CSV or JSON …</button>
        <button matButton class="plain" (click)="print()">Print the list</button>
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
  protected readonly shownFeed = shownFeed;
  protected readonly size = size;
  protected readonly told = told;
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly reader = inject(FileReading);
  protected readonly kinds = [
    { value: '', label: 'all kinds' },
    ...CUTTER_KINDS.map((value) => ({ value, label: CUTTER_WORDS[value] })),
  ];
  protected readonly columns = COLUMNS;
  protected readonly sort = signal<Sort>({ active: '', direction: '' });
  protected readonly search = signal('');
  protected readonly chosen = signal('');

  protected readonly onlyKind = signal('');
  protected readonly onlyGrade = signal('');
  protected readonly corner = signal(-1);
  protected readonly grades = [{ value: '', label: 'all grades' }, ...choicesOf(GRADES)];
  protected readonly from = signal(0);
  protected readonly to = signal(9999);
  protected readonly reach = signal(0);
  protected readonly withRetired = signal(false);
  private readonly maker = inject(CutterMaker);
  private readonly dialogs = inject(MatDialog);
  protected readonly printing = signal(false);
  private readonly changes = inject(ChangeDetectorRef);
  protected readonly report = signal<TableReport | undefined>(undefined);

  private readonly all = computed(() => {
    const crib = this.editor.job()?.crib;
    return crib ? toolsOf(crib) : [];
  });
  protected readonly count = computed(() => this.all().length);
  protected readonly rows = computed(() => {
    const { active, direction } = this.sort();
    const column = COLUMNS.find((c) => c.id === active);
    if (!column || direction === '') return this.found();
    const way = direction === 'asc' ? 1 : -1;
    return [...this.found()].sort((a, b) => way * compare(column.of(a), column.of(b)));
  });
  private readonly found = computed(() => {
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

  protected readonly feed = feedOf;
  protected readonly clamps = clampsOf;

  protected usedIn(assemblyId: string): string {
    return this.uses().get(assemblyId)?.join(', ') ?? '';
  }

  protected byId(_: number, t: Tool): string {
    return t.assembly.id;
  }

  /** Takes a size that the list is filtered by; an empty field filters nothing. */
  protected taker(size: WritableSignal<number>, empty: number): (text: string) => string | undefined {
    return (text) => {
      const typed = text.trim() === '' ? { value: empty } : readValue(text, {}, sizeOfUnit('mm'));
      if ('problem' in typed) return typed.problem;
      size.set(typed.value);
      return undefined;
    };
  }

  protected readonly isOpen = computed(() => this.editor.job() !== null);

  protected newCutter(): void {
    this.maker.make((id) => this.chosen.set(id));
  }

  protected magazine(): void {
    this.dialogs.open(MagazineDialog, { width: '720px', maxWidth: '92vw' });
  }

  protected fromShop(): void {
    const job = this.editor.job();
    if (!job) return;
    this.dialogs
      .open<ShopDialog, Crib, Tool[]>(ShopDialog, { data: job.crib, width: '640px', maxWidth: '92vw' })
      .afterClosed()
      .subscribe((taken) => {
        if (!taken) return;
        this.editor.make('crib', (now) => ({
          ...now,
          crib: taken.reduce((crib, tool) => withTool(crib, tool).crib, now.crib),
        }));
      });
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
