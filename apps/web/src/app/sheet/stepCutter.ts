import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { stepLoad } from '@esquisse/core';
import { RegionLook } from '../lens/regionLook';
import { ChoiceField } from '../shared/choiceField';
import { figure } from '../shared/numbers';
import { length, size, told, unitOf } from '../shared/units';
import { Silhouette } from '../shared/silhouette';
import { Editor } from '../state/editor';
import { NextCutters } from '../strip/nextCutters';
import { CutterMaker } from '../places/crib/cutterMaker';
import { ChosenStep } from './chosenStep';

/** With what the chosen step cuts, what that asks of tool and machine, and which other cutter would do better. */
@Component({
  selector: 'esq-step-cutter',
  imports: [ChoiceField, MatButtonModule, NextCutters, Silhouette],
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
            <div>RE {{ size(t.cutter.RE) }}</div>
            <div>out {{ size(t.assembly.stickOut) }}</div>
          </div>
        </div>
        @if (region.has()) {
          <button
            matButton
            class="plain compare"
            [attr.aria-expanded]="comparing()"
            data-testid="compare"
            (click)="comparing.set(!comparing())"
          >
            {{ comparing() ? 'Close the comparison' : 'Which cutter?' }}
          </button>
          @if (comparing()) {
            <esq-next-cutters
              [index]="index()"
              [allowance]="allowance()"
              [threshold]="threshold()"
              [chosen]="step()?.assemblyId ?? ''"
              (choose)="changeTo($event)"
            />
          }
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
  protected changeTo(assemblyId: string): void {
    const step = this.step();
    if (step) this.chosen.changeAssembly(step.id, assemblyId);
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
