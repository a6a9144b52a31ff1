import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, signal } from '@angular/core';
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
import { mm } from '../shared/numbers';
import { RegionLook } from '../lens/regionLook';
import { NextCutters } from '../strip/nextCutters';
import { Silhouette } from '../shared/silhouette';
import { House } from '../keeping/house';
import { type Offer, ValueField } from '../shared/valueField';
import { withAssembly, withoutStep, withStep, withValue } from '../state/edit';
import { Editor } from '../state/editor';
import { jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { StepFindings } from './stepFindings';
import { StepLimits } from './stepLimits';

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
  imports: [NextCutters, Silhouette, StepFindings, StepLimits, ValueField],
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
              @if (region.has()) {
                <button
                  class="plain compare"
                  [attr.aria-expanded]="comparing()"
                  data-testid="compare"
                  (click)="comparing.set(!comparing())"
                >
                  {{ comparing() ? 'close the comparison' : 'which cutter?' }}
                </button>
                @if (comparing()) {
                  <esq-next-cutters
                    [index]="index()"
                    [allowance]="allowance()"
                    [threshold]="threshold()"
                    [chosen]="s.assemblyId"
                    (choose)="changeAssembly($event)"
                  />
                }
              }
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
                  <span class="field">
                    @for (o of offers(f); track o.text) {
                      <button
                        class="plain house-choice"
                        [attr.aria-label]="'house: ' + f.label"
                        [title]="offerTitle() + ' ' + o.text"
                        (click)="keepHouse(f.key, o)"
                      >
                        house
                      </button>
                    }
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
                  </span>
                </div>
              } @else if (f.assembly) {
                <div class="row">
                  <label [for]="'assembly-' + f.key">{{ f.label }}</label>
                  <select
                    class="value"
                    [id]="'assembly-' + f.key"
                    [attr.data-key]="f.key"
                    (change)="change(f.key, $any($event.target).value || null)"
                  >
                    <option value="" [selected]="s.values[f.key] === null">{{ f.whenEmpty }}</option>
                    @for (t of tools(); track t.id) {
                      <option [value]="t.id" [disabled]="!!t.refused" [selected]="t.id === s.values[f.key]">
                        as after {{ t.title }}
                      </option>
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
            @if (section.id === 'limits') {
              @if (region.has()) {
                <div class="row pencil" data-testid="region" aria-live="polite">
                  @if (region.view(); as r) {
                    <span>Region, thicker than {{ mm(r.threshold, 3) }} mm</span
                    ><span class="number">{{ mm(r.area / 100, 2) }} cm², {{ mm(r.volume / 1000, 3) }} cm³</span>
                  } @else {
                    <span>{{ region.problem() || 'Looking for the region …' }}</span>
                  }
                </div>
              }
              <esq-step-limits />
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
          <esq-step-findings [figures]="f" [tool]="tool()" (stand)="stand($event)" />
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
  protected readonly region = inject(RegionLook);
  protected readonly comparing = signal(false);
  protected readonly index = computed(() => this.editor.job()?.steps.findIndex((s) => s.id === this.step()?.id) ?? 0);
  /** What the comparison of cutters takes from the step's values. */
  protected readonly allowance = computed(() =>
    Math.max(...['sideAllowance', 'floorAllowance'].map((key) => Number(this.step()?.values[key] ?? 0))),
  );
  protected readonly threshold = computed(() => {
    const threshold = this.step()?.values['threshold'];
    return typeof threshold === 'number' ? threshold : null;
  });
  protected readonly mm = mm;

  protected readonly tool = computed(() => {
    const job = this.editor.job();
    const step = this.step();
    return job && step ? toolOf(job.crib, step.assemblyId) : undefined;
  });
  protected readonly symbols = computed((): Record<string, number> => {
    const tool = this.tool();
    return tool ? cutterSymbols(tool) : {};
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
    SECTIONS.map((s) => ({
      ...s,
      fields: (this.kind()?.fields ?? []).filter(
        (f) => f.section === s.id && (f.onlyWhen?.(this.step()?.values ?? {}) ?? true),
      ),
    })),
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
    if (!tool || !kind || field.height) return [];
    const words = (v: Value | undefined): string =>
      field.choices?.find((c) => c.value === v)?.label ?? `${String(v)}${field.unit ? ` ${field.unit}` : ''}`;
    const offers: Offer[] = [];
    if (field.choices && value !== this.house()[field.key]) offers.push({ text: words(value), value });
    else if (typeof value === 'number' && value !== this.house()[field.key]) {
      offers.push({ text: words(value), value });
      const share = Math.round((value / tool.cutter.DC) * 1e4) / 1e4;
      if (field.unit === 'mm' && share > 0) offers.push({ text: `${share} DC`, value: `${share} DC` });
    }
    if (ownHouseValue(this.houseLists.steps(), kind.id, tool.cutter.kind, field.key) !== undefined)
      offers.push({ text: `${words(kind.house(tool)[field.key])} again, as built in`, value: undefined });
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
