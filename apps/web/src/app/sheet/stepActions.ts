import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { shapeOf, STEP_KINDS } from '@esquisse/core';
import { Keys } from '../shared/keys';
import { Notice } from '../shared/notice';
import { withoutStep, withStep, withStepAt } from '../state/edit';
import { Editor } from '../state/editor';
import { type CopiedStep, copiedStep, readCopied, withPasted } from '../state/stepCopy';
import { ChosenStep } from './chosenStep';

const KEPT_AS = 'esquisse.step';

/** Text that is marked is what is copied. */
const isNothingMarked = (): boolean => getSelection()?.isCollapsed ?? true;

/** The step that was copied last, in whatever job and tab; undefined when there is none that this page can read. */
function copiedBefore(): CopiedStep | undefined {
  try {
    return readCopied(JSON.parse(localStorage.getItem(KEPT_AS) ?? 'null'));
  } catch {
    return undefined;
  }
}

/** What is done with the chosen step as a whole. */
@Component({
  selector: 'esq-step-actions',
  imports: [MatButtonModule, MatIconModule, MatMenuModule, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (step(); as s) {
      <button
        matIconButton
        aria-label="Move the step earlier"
        matTooltip="Earlier"
        [disabled]="place() === 0"
        disabledInteractive
        (click)="moveBy(s.id, -1)"
      >
        <mat-icon svgIcon="chevron-left" />
      </button>
      <button
        matIconButton
        aria-label="Move the step later"
        matTooltip="Later"
        [disabled]="place() === count() - 1"
        disabledInteractive
        (click)="moveBy(s.id, 1)"
      >
        <mat-icon svgIcon="chevron-right" />
      </button>
      <button matButton="outlined" class="press" [matMenuTriggerFor]="more" data-testid="step-menu">Step …</button>
      <mat-menu #more="matMenu">
        <button mat-menu-item (click)="turn(s.id, !s.enabled)">
          {{ s.enabled ? 'Switch off' : 'Switch on' }}
        </button>
        <button mat-menu-item (click)="duplicate(s.id)">Duplicate</button>
        <button mat-menu-item (click)="copy()">Copy <span class="pencil">Ctrl C</span></button>
        <button mat-menu-item [matMenuTriggerFor]="kinds">Another kind</button>
        <button mat-menu-item (click)="remove(s.id, s.name)">Remove the step</button>
      </mat-menu>
      <mat-menu #kinds="matMenu">
        @for (k of otherKinds(); track k.id) {
          <button mat-menu-item [disabled]="!!k.refused" (click)="chosen.changeKind(s.id, k.id)">
            {{ k.name }}
            @if (k.refused) {
              <span class="pencil">{{ k.refused }}</span>
            }
          </button>
        }
      </mat-menu>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
    }
  `,
})
export class StepActions {
  private readonly editor = inject(Editor);
  private readonly notice = inject(Notice);
  protected readonly chosen = inject(ChosenStep);
  protected readonly step = this.chosen.step;
  protected readonly place = this.chosen.index;
  protected readonly count = computed(() => this.editor.job()?.steps.length ?? 0);

  /** What the step could be instead, with the reason where its cutter cannot. */
  protected readonly otherKinds = computed(() => {
    const tool = this.chosen.tool();
    return STEP_KINDS.filter((k) => k.id !== this.step()?.kind).map((k) => ({
      id: k.id,
      name: k.name,
      refused: tool && k.refuses(shapeOf(tool)),
    }));
  });

  constructor() {
    inject(Keys).bind(
      [
        {
          keys: ['ctrl+c'],
          shown: 'Ctrl C, Ctrl V',
          what: 'copy the step, paste it behind the chosen one',
          when: isNothingMarked,
          run: () => this.copy(),
        },
        {
          keys: ['ctrl+v'],
          shown: 'Ctrl C, Ctrl V',
          what: 'copy the step, paste it behind the chosen one',
          run: () => this.paste(),
        },
      ],
      inject(DestroyRef),
    );
  }

  protected moveBy(stepId: string, by: number): void {
    const to = this.place() + by;
    if (to >= 0 && to < this.count()) this.editor.make('workplan', (job) => withStepAt(job, stepId, to));
  }

  protected turn(stepId: string, enabled: boolean): void {
    this.editor.make('workplan', (job) => withStep(job, stepId, { enabled }));
  }

  protected copy(): void {
    const job = this.editor.job();
    const step = this.step();
    const copied = job && step && copiedStep(job, step.id);
    if (!copied) return;
    localStorage.setItem(KEPT_AS, JSON.stringify(copied));
    this.notice.tell(`Step "${step.name}" is copied: Ctrl V puts it behind the chosen step, in this job or another.`);
  }

  protected paste(): void {
    const copied = copiedBefore();
    if (copied) this.put(copied);
  }

  protected duplicate(stepId: string): void {
    const job = this.editor.job();
    const copied = job && copiedStep(job, stepId);
    if (copied) this.put(copied);
  }

  private put(copied: CopiedStep): void {
    const job = this.editor.job();
    const pasted = job && withPasted(job, copied, this.step()?.id ?? null);
    if (pasted) {
      const isTaken = this.editor.make('workplan', () => pasted.job, pasted.stepId);
      if (isTaken && pasted.changes) this.notice.tell(pasted.changes);
    } else this.editor.tell('workplan', `No cutter in the crib can do "${copied.step.name}". Add one in Crib.`);
  }

  protected remove(stepId: string, name: string): void {
    this.editor.make('workplan', (job) => withoutStep(job, stepId));
    if (!this.editor.job()?.steps.some((s) => s.id === stepId)) this.notice.removed(`Step "${name}"`);
  }
}
