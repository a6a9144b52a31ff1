import { ChangeDetectionStrategy, Component, computed, ElementRef, inject } from '@angular/core';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { TextField } from '../shared/textField';
import { MatButtonModule } from '@angular/material/button';
import { type LeftOutPlace, motionNear, shapeOf, type SheetSection, toolTitle } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { told } from '../shared/units';
import { Fold } from '../shared/fold';
import { withStep } from '../state/edit';
import { runOf } from '../engine/runs';
import { Editor } from '../state/editor';
import { JobActions, jobFeature } from '../state/job.reducer';
import { PlanActions, planFeature } from '../state/plan.reducer';
import { ChosenStep } from './chosenStep';
import { StepActions } from './stepActions';
import { StepCutter } from './stepCutter';
import { StepCutting } from './stepCutting';
import { StepTravel } from './stepTravel';
import { StepValue } from './stepValue';
import { StepExpected } from './stepExpected';
import { StepFindings } from './stepFindings';
import { StepLimits } from './stepLimits';
import { StepLoad } from './stepLoad';
import { StepReach } from './stepReach';
import { StepRivals } from './stepRivals';
import { StepRegion } from './stepRegion';

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
  imports: [
    MatIconModule,
    MatTooltipModule,
    TextField,
    MatButtonModule,
    Fold,
    StepActions,
    StepCutter,
    StepCutting,
    StepTravel,
    StepValue,
    StepExpected,
    StepFindings,
    StepLoad,
    StepRivals,
    StepReach,
    StepLimits,
    StepRegion,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './stepSheet.scss',
  template: `
    @if (step(); as s) {
      @for (id of [s.id]; track id) {
        <div class="head">
          <esq-text-field class="title" bare label="Name of the step" [value]="s.name" [accept]="renamer(s.id)" />
          <button
            matIconButton
            [attr.aria-pressed]="pinned()"
            aria-label="Pin this sheet"
            [matTooltip]="pinned() ? 'Pinned: it stays when the playhead goes to another step' : 'Pin this sheet'"
            (click)="pin()"
          >
            <mat-icon svgIcon="keep" />
          </button>
        </div>
      }
      @if (!s.enabled) {
        <p class="elsewhere stale" role="note">
          This step is off: it is neither calculated nor posted.
          <button matButton class="plain ask" (click)="switchOn(s.id)">Switch it on</button>
        </p>
      }
      @if (playheadElsewhere(); as other) {
        <p class="elsewhere pencil" role="note">
          The playhead stands in step {{ other.number }}.
          <button matButton class="plain ask" (click)="goTo(other.id)">Show its sheet</button>
        </p>
      }
      <p class="sentence" data-testid="sentence">
        @for (piece of sentence(); track $index) {
          @if (piece.key) {
            <button matButton class="jump" (click)="jump(piece.key)">{{ piece.text }}</button>
          } @else {
            <span>{{ piece.text }}</span>
          }
        }
      </p>
      <!-- another step has fields of its own: what could not be taken for one is not shown for another -->
      @for (id of [s.id]; track id) {
        @for (section of sections(); track section.id) {
          @if (section.id === 'limits') {
            <esq-step-cutter />
            <esq-step-cutting />
          }
          @if (section.fields.length > 0 || section.id === 'travel') {
            <section class="section">
              <h2>{{ section.name }}</h2>
              @for (f of section.fields; track f.key) {
                <esq-step-value [field]="f" />
              }
              @if (section.id === 'limits') {
                <esq-step-region />
                <esq-step-limits />
              }
              @if (section.id === 'travel') {
                <esq-step-travel />
              }
            </section>
          }
        }
      }
      @for (id of [s.id]; track id) {
        <esq-fold name="Note" [brief]="s.note || s.group">
          <esq-text-field label="For the machine" key="note" [value]="s.note" [accept]="texter(s.id, 'note')" />
          <esq-text-field label="Heading in the plan" key="group" [value]="s.group" [accept]="texter(s.id, 'group')" />
        </esq-fold>
      }
      <section class="section" aria-live="polite">
        <div class="row">
          <h2>Findings</h2>
          <span [class.stale]="!isFresh()" class="pencil">{{ state() }}</span>
        </div>
        <esq-step-expected />
        @if (figures(); as f) {
          <esq-step-findings [figures]="f" [tool]="tool()" (stand)="stand($event)" (standNear)="standNear($event)" />
          <esq-step-load [figures]="f" (stand)="stand($event)" />
          <esq-step-rivals />
          <esq-step-reach [figures]="f" />
        }
        <div class="row actions">
          <button
            matButton="outlined"
            class="press first"
            (click)="calculate(s.id)"
            [disabled]="isFresh() || !s.enabled"
            disabledInteractive
            data-testid="calculate"
          >
            Calculate
          </button>
          <esq-step-actions />
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
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly chosen = inject(ChosenStep);
  protected readonly step = this.chosen.step;
  private readonly kind = this.chosen.kind;
  protected readonly tool = this.chosen.tool;
  protected readonly tools = this.chosen.tools;
  protected readonly figures = this.chosen.figures;
  protected readonly pinned = this.store.selectSignal(jobFeature.selectPinned);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  /** The step in which the playhead stands, where that is another one. */
  protected readonly playheadElsewhere = computed(() => {
    const id = this.moment().stepId;
    const index = this.editor.job()?.steps.findIndex((s) => s.id === id) ?? -1;
    return id !== null && index >= 0 && id !== this.step()?.id ? { id, number: index + 1 } : undefined;
  });
  private readonly isTold = this.store.selectSignal(planFeature.selectIsTold);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  protected readonly isFresh = computed(() => this.fresh().includes(this.step()?.id ?? ''));
  protected readonly state = computed(() => {
    if (this.step()?.enabled === false) return 'off';
    if (this.isFresh()) return 'up to date';
    if (!this.figures()) return 'not calculated';
    return this.isTold() ? 'out of date' : '…';
  });
  private readonly shape = computed(() => {
    const tool = this.tool();
    return tool && shapeOf(tool);
  });
  protected readonly sections = computed(() =>
    SECTIONS.map((s) => ({
      ...s,
      fields: (this.kind()?.fields ?? []).filter(
        (f) => f.section === s.id && (f.onlyWhen?.(this.step()?.values ?? {}, this.shape()) ?? true),
      ),
    })),
  );
  /** The kind's sentence cut at its `{key|text}` places. */
  protected readonly sentence = computed((): Piece[] => {
    const kind = this.kind();
    const step = this.step();
    const tool = this.tool();
    if (!kind || !step || !tool) return [];
    return kind
      .bind(step.values)
      .sentence(toolTitle(tool), tool.cutter.kind)
      .split(/(\{[^}]*\})/)
      .map((text) => {
        const found = /^\{(\w+)\|(.*)\}$/.exec(text);
        return found ? { key: found[1]!, text: this.shownValue(found[1]!, found[2]!) } : { text: told(text) };
      });
  });

  /** A value of the sentence in the unit that is shown; of two with one unit behind them, the first has none. */
  private shownValue(key: string, text: string): string {
    const isBare = this.kind()?.fields.find((f) => f.key === key)?.unit === 'mm' && !text.includes(' mm');
    return isBare ? told(`${text} mm`).replace(/ (mm|in)$/, '') : told(text);
  }

  protected renamer(stepId: string): (name: string) => string | undefined {
    return (name) => this.editor.change((job) => withStep(job, stepId, { name }));
  }

  protected texter(stepId: string, key: 'note' | 'group'): (text: string) => string | undefined {
    return (text) => this.editor.change((job) => withStep(job, stepId, { [key]: text.trim() }));
  }

  protected switchOn(stepId: string): void {
    this.editor.make('workplan', (job) => withStep(job, stepId, { enabled: true }));
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

  protected standNear(place: LeftOutPlace): void {
    const summary = this.chosen.summary();
    if (summary) this.stand(motionNear(runOf(summary).path, place));
  }

  protected pin(): void {
    this.store.dispatch(JobActions.pinToggled());
  }

  protected goTo(stepId: string): void {
    this.store.dispatch(JobActions.stepSelected({ stepId }));
  }

  protected calculate(stepId: string): void {
    this.store.dispatch(PlanActions.calculate({ through: stepId }));
  }
}
