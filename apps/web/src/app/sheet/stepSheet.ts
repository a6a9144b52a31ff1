import { ChangeDetectionStrategy, Component, computed, ElementRef, inject } from '@angular/core';
import {
  CUTTER_WORDS,
  cutterSymbols,
  type Field,
  houseOf,
  kindOf,
  ownHouseValue,
  type SheetSection,
  sideStepFor,
  stepLoad,
  toolOf,
  toolTitle,
  type Value,
} from '@esquisse/core';
import { Store } from '@ngrx/store';
import { clock, mm } from '../shared/numbers';
import { Silhouette } from '../shared/silhouette';
import { House } from '../keeping/house';
import { type Offer, ValueField } from '../shared/valueField';
import { withAssembly, withoutStep, withStep, withValue } from '../state/edit';
import { Editor } from '../state/editor';
import { jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';

const SECTIONS: { id: SheetSection; name: string }[] = [
  { id: 'aim', name: 'Aim' },
  { id: 'limits', name: 'Limits' },
  { id: 'passes', name: 'Passes' },
  { id: 'travel', name: 'Travel' },
];

interface Piece {
  text: string;
  key?: string;
}

/** The sheet of the chosen step: one sentence, then its values in the order of a person's decisions. */
@Component({
  selector: 'esq-step-sheet',
  imports: [ValueField, Silhouette],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepSheet.scss',
  template: `
    @if (step(); as s) {
      <input
        class="title"
        aria-label="Name of the step"
        [value]="s.name"
        (change)="rename($any($event.target).value)"
      />
      <p class="sentence" data-testid="sentence">
        @for (piece of sentence(); track $index) {
          @if (piece.key) {
            <button class="jump" (click)="jump(piece.key)">{{ piece.text }}</button>
          } @else {
            <span>{{ piece.text }}</span>
          }
        }
      </p>
      @for (section of sections(); track section.id) {
        @if (section.id === 'limits') {
          <section class="section">
            <div class="row">
              <h2>Cutter</h2>
              @if (figures(); as f) {
                <span class="pencil">needs a stick-out of {{ mm(f.neededStickOut, 1) }} mm</span>
              }
            </div>
            <div class="row">
              <label for="assembly">Assembly</label>
              <select
                id="assembly"
                class="value"
                data-key="assemblyId"
                [value]="s.assemblyId"
                (change)="changeAssembly($any($event.target).value)"
              >
                @for (t of tools(); track t.id) {
                  <option [value]="t.id" [disabled]="!!t.refused" [selected]="t.id === s.assemblyId">
                    {{ t.title }}
                  </option>
                }
              </select>
            </div>
            @if (tool(); as t) {
              <div class="drawing">
                <esq-silhouette [tool]="t" />
                <div class="data mono">
                  <div>n {{ t.assembly.n }} <span class="unit">1/min</span></div>
                  <div>fz {{ t.assembly.fz }} <span class="unit">mm</span></div>
                  <div>vf {{ vf() }} <span class="unit">mm/min</span></div>
                </div>
              </div>
              @if (load(); as l) {
                <div class="row pencil" data-testid="load">
                  <span>φ, power, bending</span
                  ><span class="number"
                    >{{ mm(l.phi, 0) }}°, {{ mm(l.power, 2) }} kW, {{ mm(l.deflection, 3) }} mm</span
                  >
                </div>
                @if (l.warning) {
                  <p class="stale" role="note">{{ l.warning }}</p>
                }
              }
            }
          </section>
        }
        @if (section.fields.length > 0) {
          <section class="section">
            <h2>{{ section.name }}</h2>
            @for (f of section.fields; track f.key) {
              @if (f.choices) {
                <div class="row">
                  <label [for]="'choice-' + f.key">{{ f.label }}</label>
                  <select
                    class="value"
                    [id]="'choice-' + f.key"
                    [attr.data-key]="f.key"
                    [class.house]="isHouse(f)"
                    (change)="change(f.key, $any($event.target).value)"
                  >
                    @for (c of f.choices; track c.value) {
                      <option [value]="c.value" [selected]="c.value === s.values[f.key]">{{ c.label }}</option>
                    }
                  </select>
                </div>
              } @else {
                <esq-value-field
                  [label]="f.label"
                  [key]="f.key"
                  [value]="s.values[f.key] ?? null"
                  [unit]="f.unit ?? ''"
                  [house]="isHouse(f)"
                  [optional]="!!f.whenEmpty"
                  [placeholder]="f.whenEmpty ?? ''"
                  [symbols]="symbols()"
                  [why]="f.why ?? ''"
                  [accept]="acceptor(f.key)"
                  offerWord="house"
                  [offerTitle]="offerTitle()"
                  [offers]="offers(f)"
                  (offered)="keepHouse(f.key, $event)"
                />
              }
            }
            @if (section.id === 'passes' && sideStep(); as step) {
              <div class="row pencil">
                <span>Side step on level ground</span><span class="number">{{ mm(step, 3) }} mm</span>
              </div>
            }
          </section>
        }
      }
      <section class="section" aria-live="polite">
        <div class="row">
          <h2>Findings</h2>
          <span [class.stale]="!isFresh()" class="pencil">{{
            isFresh() ? 'worked out' : figures() ? 'stale' : 'not worked out'
          }}</span>
        </div>
        @if (figures(); as f) {
          <div class="row">
            <span>Time at the machine</span><span class="number" data-testid="step-time">{{ clock(f.time) }}</span>
          </div>
          <div class="row">
            <span>cut / air / rapid</span>
            <span class="number"
              >{{ metres(f.lengths.cut + f.lengths.entry + f.lengths.link - f.air) }} / {{ metres(f.air) }} /
              {{ metres(f.lengths.rapid) }} <span class="unit">m</span></span
            >
          </div>
          <div class="row">
            <span>Retracts</span><span class="number">{{ f.retracts }}</span>
          </div>
          <div class="row">
            <span>Taken off</span
            ><span class="number">{{ mm(f.removed / 1000, 1) }} <span class="unit">cm³</span></span>
          </div>
          @if (rate(); as r) {
            <svg class="rate" viewBox="0 0 80 20" preserveAspectRatio="none" role="img" [attr.aria-label]="r.words">
              <path [attr.d]="r.line" />
            </svg>
            <div class="row pencil">
              <span>Removal rate over its time, mean / most</span>
              <span class="number">{{ mm(r.mean, 1) }} / {{ mm(r.most, 1) }} <span class="unit">cm³/min</span></span>
            </div>
          }
          <div class="row">
            <span>Leaves, median / 99 %</span>
            <span class="number"
              >{{ mm(f.leftover.p50, 3) }} / {{ mm(f.leftover.p99, 3) }} <span class="unit">mm</span></span
            >
          </div>
          <div class="row">
            <span>Worked out in</span><span class="number">{{ mm(f.seconds, 1) }} <span class="unit">s</span></span>
          </div>
          @for (finding of f.findings; track finding.kind) {
            <button class="finding wrong" (click)="stand(finding.motion)">{{ finding.text }} Stand there.</button>
          } @empty {
            <p class="pencil">Nothing but the edges touches steel; no gouge.</p>
          }
          @if (f.leftOut.length > 0) {
            <details>
              <summary>{{ f.leftOut.length }} places left out</summary>
              @for (place of f.leftOut.slice(0, 20); track $index) {
                <p class="pencil place">
                  {{ place.why }}: X {{ mm(place.x, 1) }} Y {{ mm(place.y, 1) }} Z {{ mm(place.z, 1) }}
                </p>
              }
            </details>
          }
        }
        <div class="row actions">
          <button class="press first" (click)="workOut()" [disabled]="!!work() || isFresh()" data-testid="work-out">
            Work out
          </button>
          <button class="press" (click)="remove()">Remove the step</button>
        </div>
      </section>
    } @else {
      <p class="sentence">The workplan has no step yet.</p>
      <p class="pencil">Choose one below the bench, or press A.</p>
    }
  `,
})
export class StepSheet {
  private readonly store = inject(Store);
  private readonly editor = inject(Editor);
  private readonly houseLists = inject(House);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly step = this.store.selectSignal(jobFeature.selectStep);
  protected readonly work = this.store.selectSignal(planFeature.selectWork);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  protected readonly mm = mm;
  protected readonly clock = clock;

  protected readonly tool = computed(() => {
    const job = this.editor.job();
    const step = this.step();
    return job && step ? toolOf(job.crib, step.assemblyId) : undefined;
  });
  protected readonly symbols = computed((): Record<string, number> => {
    const tool = this.tool();
    return tool ? cutterSymbols(tool) : {};
  });
  /** How fast steel goes away over the step's time, as a line 80 wide and 20 high. */
  protected readonly rate = computed(() => {
    const rate = this.figures()?.rate;
    const most = Math.max(0, ...(rate ?? []));
    if (!rate || !(most > 0)) return undefined;
    const mean = rate.reduce((a, b) => a + b, 0) / rate.length;
    const points = rate.map((r, k) => `${k},${20 - (19 * r) / most} ${k + 1},${20 - (19 * r) / most}`);
    const words = `Removal rate from the step's beginning to its end, ${mm(mean, 1)} on the mean and ${mm(most, 1)} cm³/min at most`;
    return { mean, most, words, line: `M 0,20 L ${points.join(' ')} 80,20 Z` };
  });
  /** What the step's own depth and side step ask of tool and machine. */
  protected readonly load = computed(() => {
    const job = this.editor.job();
    const tool = this.tool();
    const { ae, ap } = this.step()?.values ?? {};
    return job && tool && typeof ae === 'number' && typeof ap === 'number' ? stepLoad(job, tool, ae, ap) : undefined;
  });
  protected readonly vf = computed(() => {
    const t = this.tool();
    return t ? Math.round(t.assembly.fz * t.cutter.ZEFP * t.assembly.n) : 0;
  });
  private readonly kind = computed(() => {
    const step = this.step();
    return step && kindOf(step.kind);
  });
  protected readonly figures = computed(() => this.summaries().find((s) => s.stepId === this.step()?.id)?.figures);
  protected readonly isFresh = computed(() => this.fresh().includes(this.step()?.id ?? ''));
  protected readonly sections = computed(() =>
    SECTIONS.map((s) => ({ ...s, fields: (this.kind()?.fields ?? []).filter((f) => f.section === s.id) })),
  );
  protected readonly tools = computed(() => {
    const job = this.editor.job();
    const kind = this.kind();
    if (!job) return [];
    return job.crib.assemblies.flatMap((a) => {
      const tool = toolOf(job.crib, a.id);
      if (!tool || (a.retired && a.id !== this.step()?.assemblyId)) return [];
      return [{ id: a.id, title: toolTitle(tool), refused: kind?.refuses(tool) }];
    });
  });
  private readonly house = computed((): Record<string, Value> => {
    const tool = this.tool();
    const kind = this.kind();
    return tool && kind ? houseOf(kind, tool, this.houseLists.steps()) : {};
  });
  protected readonly sideStep = computed(() => {
    const scallop = this.step()?.values['scallop'];
    const tool = this.tool();
    return typeof scallop === 'number' && tool ? sideStepFor(tool.cutter.DC / 2, scallop) : undefined;
  });

  /** The kind's sentence cut at its `{key|text}` places. */
  protected readonly sentence = computed((): Piece[] => {
    const kind = this.kind();
    const step = this.step();
    const tool = this.tool();
    if (!kind || !step || !tool) return [];
    return kind
      .sentence(step.values, toolTitle(tool))
      .split(/(\{[^}]*\})/)
      .map((text) => {
        const found = /^\{(\w+)\|(.*)\}$/.exec(text);
        return found ? { key: found[1]!, text: found[2]! } : { text };
      });
  });

  protected metres(length: number): string {
    return mm(length / 1000, 1);
  }

  protected isHouse(field: Field): boolean {
    return this.step()?.values[field.key] === this.house()[field.key];
  }

  protected readonly offerTitle = computed(() => {
    const tool = this.tool();
    const kind = this.kind();
    return tool && kind
      ? `Steps of ${kind.name.toLowerCase()} with a ${CUTTER_WORDS[tool.cutter.kind]} begin with`
      : '';
  });

  /** As what a value can become the house value: as it is, or, of a length, by the cutter's diameter. */
  protected offers(field: Field): Offer[] {
    const tool = this.tool();
    const kind = this.kind();
    const value = this.step()?.values[field.key];
    if (!tool || !kind || field.height || typeof value !== 'number') return [];
    const offers: Offer[] = [];
    if (value !== this.house()[field.key]) {
      offers.push({ text: `${value}${field.unit ? ` ${field.unit}` : ''}`, value });
      const share = Math.round((value / tool.cutter.DC) * 1e4) / 1e4;
      if (field.unit === 'mm' && share > 0) offers.push({ text: `${share} DC`, value: `${share} DC` });
    }
    if (ownHouseValue(this.houseLists.steps(), kind.id, tool.cutter.kind, field.key) !== undefined)
      offers.push({ text: `${String(kind.house(tool)[field.key])} again, as built in`, value: undefined });
    return offers;
  }

  protected keepHouse(key: string, { value }: Offer): void {
    const tool = this.tool();
    const kind = this.kind();
    if (tool && kind) this.houseLists.keepStepValue(kind.id, tool.cutter.kind, key, value);
  }

  protected acceptor(key: string): (value: number | null) => string | undefined {
    return (value) => this.change(key, value);
  }

  protected change(key: string, value: Value): string | undefined {
    const id = this.step()?.id;
    return id ? this.editor.change((job) => withValue(job, id, key, value)) : undefined;
  }

  protected changeAssembly(assemblyId: string): void {
    const id = this.step()?.id;
    if (id) this.editor.change((job) => withAssembly(job, id, assemblyId, this.houseLists.steps()));
  }

  protected rename(name: string): void {
    const id = this.step()?.id;
    if (id) this.editor.change((job) => withStep(job, id, { name }));
  }

  protected jump(key: string): void {
    const field = this.host.nativeElement.querySelector<HTMLElement>(`[data-key="${key}"]`);
    field?.focus();
    if (field instanceof HTMLInputElement) field.select();
  }

  protected stand(motion: number): void {
    const stepId = this.step()?.id;
    if (stepId) this.store.dispatch(PlanActions.playheadMoved({ moment: { stepId, motion } }));
  }

  protected workOut(): void {
    const index = this.editor.job()?.steps.findIndex((s) => s.id === this.step()?.id) ?? -1;
    if (index >= 0) this.store.dispatch(PlanActions.workOut({ last: index }));
  }

  protected remove(): void {
    const id = this.step()?.id;
    if (id) this.editor.change((job) => withoutStep(job, id));
  }
}
