import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule } from '@angular/material/dialog';
import {
  changedMagazine,
  type Loaded,
  type Magazine,
  magazineChanges,
  magazineSchema,
  madeOf,
  presetterList,
  toolsOf,
  toolTitle,
} from '@esquisse/core';
import { House } from '../../keeping/house';
import { ChoiceField, type Choice } from '../../shared/choiceField';
import { saveFile } from '../../shared/files';
import { TextField } from '../../shared/textField';
import { told } from '../../shared/units';
import { ValueField } from '../../shared/valueField';
import { Editor } from '../../state/editor';

/** A tool in the magazine, or one that is to stand there. */
interface Row extends Loaded {
  readonly what: 'out' | 'in' | 'ready' | 'spare';
  readonly words: string;
}

/** What stands in the magazine of the job's machine, and the fewest changes after which the job can run. */
@Component({
  selector: 'esq-magazine-dialog',
  imports: [ChoiceField, MatButtonModule, MatDialogModule, TextField, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './magazineDialog.html',
  styles: `
    table {
      width: 100%;
      border-collapse: collapse;
    }
    th {
      text-align: left;
      font-weight: 400;
    }
    td,
    th {
      padding: 2px 8px 2px 0;
      border-bottom: 1px solid var(--rule);
    }
    .place {
      width: 64px;
    }
    .out .made {
      text-decoration: line-through;
    }
    td:nth-child(3) {
      white-space: nowrap;
    }
    .in td {
      color: var(--verdigris);
    }
  `,
})
export class MagazineDialog {
  private readonly editor = inject(Editor);
  private readonly house = inject(House);
  protected readonly told = told;
  protected readonly machine = computed(() => this.editor.job()?.setup.machine.name ?? '');
  private readonly magazine = computed(
    (): Magazine => this.house.magazineOf(this.machine()) ?? magazineSchema.parse({}),
  );
  protected readonly places = computed(() => this.magazine().places);
  /** Tools of the steps that are on. */
  private readonly needed = computed(() => {
    const job = this.editor.job();
    const used = new Set(job?.steps.filter((s) => s.enabled).map((s) => s.assemblyId));
    return job ? toolsOf(job.crib).filter((t) => used.has(t.assembly.id)) : [];
  });
  protected readonly changes = computed(() => magazineChanges(this.magazine(), this.needed()));
  protected readonly hasChanges = computed(() => this.changes().in.length + this.changes().out.length > 0);

  protected readonly sentence = computed((): string => {
    const { ready, in: put, out, lacking } = this.changes();
    const n = this.needed().length;
    if (n === 0) return 'No step of this job is on: it needs no tool.';
    if (put.length + out.length + lacking.length === 0)
      return n === 1 ? 'The one tool of this job is loaded.' : `All ${n} tools of this job are loaded.`;
    const parts = [`${ready.length} of ${n} tools of this job are loaded`, `${put.length} to put in`];
    if (out.length > 0) parts.push(`${out.length} to take out`);
    return `${parts.join(', ')}.`;
  });
  protected readonly lacking = computed((): string => {
    const { lacking } = this.changes();
    return lacking.length > 0 ? `No place is left for ${lacking.map((l) => `T${l.number}`).join(', ')}.` : '';
  });

  protected readonly rows = computed((): Row[] => {
    const { ready, in: put, out } = this.changes();
    const row = (l: Loaded, what: Row['what'], words: string): Row => ({ ...l, what, words });
    const stays = this.magazine().loaded.filter((l) => !out.some((o) => o.place === l.place));
    return [
      ...out.map((l) =>
        row(l, 'out', l.isOther ? 'take out: this number is another tool here' : 'take out: makes room'),
      ),
      ...put.map((l) => row(l, 'in', 'put in')),
      ...stays.map((l) => (ready.includes(l) ? row(l, 'ready', 'of this job') : row(l, 'spare', 'not of this job'))),
    ].sort((a, b) => a.place - b.place || (a.what === 'out' ? -1 : 1));
  });

  /** Tools of job and shop by their numbers: under one that both have it is the job's. */
  private readonly known = computed(
    () => new Map([...toolsOf(this.house.crib()), ...this.needed()].map((t) => [String(t.assembly.number), t])),
  );
  /** Those that could be put in by hand. */
  protected readonly others = computed((): readonly Choice[] => {
    const taken = new Set(this.magazine().loaded.map((l) => l.number));
    const inUse = [...this.known()].filter(([, t]) => !t.assembly.retired);
    return [
      { value: '', label: 'choose' },
      ...inUse.map(([value, t]) => ({
        value,
        label: toolTitle(t),
        refused: taken.has(t.assembly.number) ? 'this number is loaded' : undefined,
      })),
    ];
  });

  protected readonly acceptPlaces = (places: number | null): string | undefined =>
    this.keep({ ...this.magazine(), places: places ?? 0 });

  protected mover(row: Row): (text: string) => string | undefined {
    return (text) => {
      const place = Number(text);
      const { loaded, places } = this.magazine();
      if (!Number.isInteger(place) || place < 1 || place > places) return `A whole number from 1 to ${places}.`;
      if (place === row.place) return undefined;
      return this.keep({
        ...this.magazine(),
        loaded: loaded.map((l) => (l.number === row.number ? { ...l, place } : l)),
      });
    };
  }

  protected takeOut(row: Row): void {
    this.keep({ ...this.magazine(), loaded: this.magazine().loaded.filter((l) => l.place !== row.place) });
  }

  protected putIn(number: string): void {
    const tool = this.known().get(number);
    const { places, loaded } = this.magazine();
    const free = Array.from({ length: places }, (_, k) => k + 1).find((p) => !loaded.some((l) => l.place === p));
    if (!tool) return;
    if (free === undefined) this.editor.tell('crib', 'The magazine is full: take a tool out first.');
    else this.keep({ places, loaded: [...loaded, { place: free, number: tool.assembly.number, made: madeOf(tool) }] });
  }

  protected done(): void {
    this.keep(changedMagazine(this.magazine(), this.changes()));
  }

  protected saveList(): void {
    saveFile('presetter.csv', presetterList(this.needed()), 'text/csv');
  }

  /** Keeps the magazine; gives the sentence that says why not. */
  private keep(magazine: Magazine): string | undefined {
    const read = magazineSchema.safeParse(magazine);
    if (!read.success) return read.error.issues[0]!.message;
    this.house.keepMagazine(this.machine(), read.data);
    return undefined;
  }
}
