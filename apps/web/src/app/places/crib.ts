import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { type Cutter, CUTTER_KINDS, CUTTER_WORDS, type CutterKind, feedRate, toolOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Silhouette } from '../shared/silhouette';
import { ValueField } from '../shared/valueField';
import { withAssemblyChange, withCopiedAssembly, withCutterChange, withoutAssembly } from '../state/edit';
import { Editor } from '../state/editor';
import { PlanActions } from '../state/plan.reducer';

const SIZES: { key: 'DC' | 'RE' | 'APMX' | 'DMM' | 'OAL' | 'ZEFP'; label: string; unit: string }[] = [
  { key: 'DC', label: 'Cutting diameter DC', unit: 'mm' },
  { key: 'RE', label: 'Corner radius RE', unit: 'mm' },
  { key: 'APMX', label: 'Flute length APMX', unit: 'mm' },
  { key: 'DMM', label: 'Neck and shank DMM', unit: 'mm' },
  { key: 'OAL', label: 'Overall length OAL', unit: 'mm' },
  { key: 'ZEFP', label: 'Edges ZEFP', unit: '' },
];

/** What do I cut with? */
@Component({
  selector: 'esq-crib',
  imports: [Silhouette, ValueField],
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
      </div>
      <table>
        <thead>
          <tr>
            <th class="number">T</th>
            <th>Cutter</th>
            <th class="drawing"><span class="sr">Silhouette</span></th>
            <th class="number">DC</th>
            <th class="number">RE</th>
            <th class="number">APMX</th>
            <th class="number">Stick-out</th>
            <th>Holder</th>
            <th class="number">n 1/min</th>
            <th class="number">vf mm/min</th>
            <th>Used in</th>
          </tr>
        </thead>
        <tbody>
          @for (t of rows(); track t.assembly.id) {
            <tr [class.chosen]="t.assembly.id === selected()?.assembly?.id" (click)="chosen.set(t.assembly.id)">
              <td class="number">
                <button class="plain mono" (click)="chosen.set(t.assembly.id)">{{ t.assembly.number }}</button>
              </td>
              <td>{{ t.cutter.name }}</td>
              <td class="drawing"><esq-silhouette [tool]="t" [holderShown]="40" /></td>
              <td class="number">{{ t.cutter.DC }}</td>
              <td class="number">{{ t.cutter.RE }}</td>
              <td class="number">{{ t.cutter.APMX }}</td>
              <td class="number">{{ t.assembly.stickOut }}</td>
              <td>{{ t.holder.name }}</td>
              <td class="number">{{ t.assembly.n }}</td>
              <td class="number">{{ feed(t) }}</td>
              <td class="pencil">{{ usedIn(t.assembly.id) }}</td>
            </tr>
          } @empty {
            <tr>
              <td colspan="11" class="pencil">No assembly fits "{{ search() }}".</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
    <aside class="panel" aria-label="Assembly">
      @if (selected(); as t) {
        <p class="sentence">
          T{{ t.assembly.number }}: {{ t.cutter.name }} in {{ t.holder.name }}, standing out
          {{ t.assembly.stickOut }} mm.
        </p>
        <div class="big"><esq-silhouette [tool]="t" [holderShown]="90" /></div>
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
          @for (s of sizes; track s.key) {
            <esq-value-field
              [label]="s.label"
              [key]="s.key"
              [value]="t.cutter[s.key]"
              [unit]="s.unit"
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
            [accept]="acceptor(t.assembly.id, 'stickOut')"
          />
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
          <div class="row">
            <span>Feed vf = fz z n</span><span class="number">{{ feed(t) }} <span class="unit">mm/min</span></span>
          </div>
        </section>
        <div class="row section">
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
  protected readonly sizes = SIZES;
  protected readonly kinds = CUTTER_KINDS;
  protected readonly words = CUTTER_WORDS;
  protected readonly search = signal('');
  protected readonly chosen = signal('');

  private readonly all = computed(() => {
    const crib = this.editor.job()?.crib;
    return crib ? crib.assemblies.flatMap((a) => toolOf(crib, a.id) ?? []) : [];
  });
  protected readonly rows = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    return this.all().filter((t) => {
      const text =
        `t${t.assembly.number} ${t.cutter.name} ${t.cutter.kind} ${t.cutter.DC} ${t.holder.name}`.toLowerCase();
      return words.every((w) => text.includes(w));
    });
  });
  protected readonly selected = computed(
    () => this.all().find((t) => t.assembly.id === this.chosen()) ?? this.all()[0],
  );
  protected readonly holders = computed(() => this.editor.job()?.crib.holders ?? []);

  protected feed(t: { assembly: { fz: number; n: number }; cutter: { ZEFP: number } }): number {
    return Math.round(feedRate(t.assembly.fz, t.cutter.ZEFP, t.assembly.n));
  }

  protected usedIn(assemblyId: string): string {
    const steps = this.editor.job()?.steps ?? [];
    return steps.flatMap((s, i) => (s.assemblyId === assemblyId ? [`step ${i + 1}`] : [])).join(', ');
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
    const RE = kind === 'flat' ? 0 : kind === 'ball' ? cutter.DC / 2 : cutter.DC / 8;
    this.tell(this.editor.change((job) => withCutterChange(job, cutter.id, { kind, RE })));
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
