import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { kindOf, measuredSizes, rougherThan, stepLoad, toolTitle } from '@esquisse/core';
import { RegionLook } from '../lens/regionLook';
import { ChoiceField } from '../shared/choiceField';
import { figure } from '../shared/numbers';
import { length, size, told, unitOf } from '../shared/units';
import { Silhouette } from '../shared/silhouette';
import { withAssemblyChange } from '../state/edit';
import { Editor } from '../state/editor';
import { NextCutters } from '../strip/nextCutters';
import { CutterMaker } from '../places/crib/cutterMaker';
import { ChosenStep } from './chosenStep';
import { FinisherChooser } from './finisherChooser';

/** A cutter that is off by this leaves or takes it on a finished wall, mm (half of what is left to a mould's face: common practice). */
const MATTERS_MM = 0.005;
/** A cutter that stands out otherwise by this reaches otherwise, mm. */
const SHORTER_MM = 0.5;

/** With what the chosen step cuts, what that asks of tool and machine, and which other cutter would do better. */
@Component({
  selector: 'esq-step-cutter',
  imports: [ChoiceField, FinisherChooser, MatButtonModule, NextCutters, Silhouette],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="section">
      <div class="row">
        <h2>Cutter</h2>
        @if (figures(); as f) {
          <span class="pencil">needs a stick-out of {{ length(f.neededStickOut, 1) }} {{ unitOf('mm') }}</span>
        }
      </div>
      <esq-choice-field
        label="Assembly"
        key="assemblyId"
        [value]="step()?.assemblyId ?? ''"
        [options]="assemblies()"
        (chosen)="changeTo($event)"
      />
      <button matButton class="plain compare" data-testid="make-cutter" (click)="makeCutter()">
        None fits: make one
      </button>
      @if (tool(); as t) {
        <div class="drawing">
          <esq-silhouette [tool]="t" />
          <div class="data mono">
            <div>DC {{ size(t.cutter.DC) }}</div>
            @if (t.cutter.SIG > 0) {
              <div>SIG {{ t.cutter.SIG }}°</div>
            } @else if (t.cutter.TP > 0) {
              <div>TP {{ size(t.cutter.TP) }}</div>
            } @else {
              <div>RE {{ size(t.cutter.RE) }}</div>
            }
            <div>out {{ size(t.assembly.stickOut) }}</div>
          </div>
        </div>
        @if (region.has() || isFinishing()) {
          <button
            matButton
            class="plain compare"
            [attr.aria-expanded]="comparing()"
            data-testid="compare"
            (click)="comparing.set(!comparing())"
          >
            {{ comparing() ? 'Close the comparison' : region.has() ? 'Which cutter?' : 'Which cutter, which pattern?' }}
          </button>
          @if (comparing() && isFinishing()) {
            <esq-finisher-chooser (cutter)="changeTo($event)" (pattern)="changeKind($event)" />
          } @else if (comparing()) {
            <esq-next-cutters
              [index]="index()"
              [allowance]="allowance()"
              [threshold]="threshold()"
              [chosen]="step()?.assemblyId ?? ''"
              (choose)="changeTo($event)"
            />
          }
        }
        @if (worn(); as w) {
          <p class="stale" role="note" data-testid="worn">
            {{ told(w) }}
            <button matButton class="plain ask" (click)="takeMeasured()">Take it as measured</button>
          </p>
        }
        @if (load(); as l) {
          <div class="row pencil" data-testid="load">
            <span>φ, power, bending</span
            ><span class="number"
              >{{ figure(l.phi, 0) }}°, {{ figure(l.power, 2) }} kW, {{ length(l.deflection) }} {{ unitOf('mm') }}</span
            >
          </div>
          @if (l.warning) {
            <p class="stale" role="note">{{ told(l.warning) }}</p>
          }
        }
        @if (rougher(); as better) {
          <p class="stale" role="note" data-testid="rougher">
            The middle of a ball hardly turns. {{ better.title }} of this crib is as wide and stands out as far.
            <button matButton class="plain ask" (click)="changeTo(better.id)">Take it</button>
          </p>
        }
      }
    </section>
  `,
  styles: `
    .drawing {
      display: grid;
      grid-template-columns: 1fr 112px;
      gap: 12px;
      align-items: center;
      height: 74px;
    }
    .drawing esq-silhouette {
      height: 66px;
    }
    .drawing .data {
      font-size: 12px;
      color: var(--pencil);
    }
    .compare {
      color: var(--indigo);
      padding: 0;
    }
  `,
})
export class StepCutter {
  private readonly editor = inject(Editor);
  private readonly maker = inject(CutterMaker);
  protected readonly chosen = inject(ChosenStep);
  protected readonly region = inject(RegionLook);
  protected readonly comparing = signal(false);
  protected readonly figure = figure;
  protected readonly length = length;
  protected readonly size = size;
  protected readonly told = told;
  protected readonly unitOf = unitOf;
  protected readonly step = this.chosen.step;
  protected readonly tool = this.chosen.tool;
  protected readonly assemblies = computed(() =>
    this.chosen.tools().map(({ id, title, refused }) => ({ value: id, label: title, refused })),
  );
  protected readonly figures = this.chosen.figures;
  protected readonly index = this.chosen.index;
  /** Whether cutters and patterns can be compared for it. */
  protected readonly isFinishing = computed(() => this.chosen.kind()?.isCompared ?? false);

  protected changeKind(kindId: string): void {
    const step = this.step();
    if (step && kindId !== step.kind) this.chosen.changeKind(step.id, kindId);
  }

  protected changeTo(assemblyId: string): void {
    const step = this.step();
    if (step) this.chosen.changeAssembly(step.id, assemblyId);
  }

  /** How far the measured sizes are from those that the path is for, where that matters. */
  protected readonly worn = computed(() => {
    const tool = this.tool();
    if (!tool || tool.assembly.asMeasured) return '';
    const [real, taken] = [measuredSizes(tool), { ...tool.cutter, stickOut: tool.assembly.stickOut }];
    const off = (['DC', 'RE'] as const)
      .map((key) => ({ key, by: real[key] - taken[key] }))
      .filter(({ by }) => Math.abs(by) >= MATTERS_MM);
    const longer = real.stickOut - taken.stickOut;
    const words = off.map(({ key, by }) => `${key} ${by > 0 ? 'larger' : 'smaller'} by ${Math.abs(by).toFixed(3)} mm`);
    if (Math.abs(longer) >= SHORTER_MM)
      words.push(`${longer > 0 ? 'longer' : 'shorter'} by ${Math.abs(longer).toFixed(2)} mm`);
    return words.length > 0 ? `Measured ${words.join(', ')}; the path is for the nominal sizes.` : '';
  });

  protected takeMeasured(): void {
    const id = this.tool()?.assembly.id;
    if (id) this.editor.make('workplan', (job) => withAssemblyChange(job, id, { asMeasured: true }));
  }

  /** A cutter from nothing, for this step. */
  protected makeCutter(): void {
    const step = this.step();
    if (step) this.maker.make((id) => this.chosen.changeAssembly(step.id, id), this.chosen.kind());
  }

  /** What the comparison of cutters takes from the step's values. */
  protected readonly allowance = computed(() =>
    Math.max(...['sideAllowance', 'floorAllowance'].map((key) => Number(this.step()?.values[key] ?? 0))),
  );
  protected readonly threshold = computed(() => {
    const threshold = this.step()?.values['threshold'];
    return typeof threshold === 'number' ? threshold : null;
  });
  /** What would open up better than a ball. */
  protected readonly rougher = computed(() => {
    const [job, tool, step] = [this.editor.job(), this.tool(), this.step()];
    const opens = step && kindOf(step.kind)?.group === 'open up';
    const better = job && tool && opens ? rougherThan(tool, job.crib) : undefined;
    return better && { id: better.assembly.id, title: toolTitle(better) };
  });
  /** What the step's own depth and side step ask of tool and machine. */
  protected readonly load = computed(() => {
    const job = this.editor.job();
    const tool = this.tool();
    const { ae, ap } = this.step()?.values ?? {};
    const cutting = this.chosen.cutting();
    return job && tool && cutting && typeof ae === 'number' && typeof ap === 'number'
      ? stepLoad(job, tool, { ae, ap }, cutting)
      : undefined;
  });
}
