import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { BOX_LEVELS, type BoxLevel, probeSentence, type Setup, WORK_OFFSETS, type WorkZero } from '@esquisse/core';
import { type Choice, ChoiceField, choicesOf } from '../../shared/choiceField';
import { Engine } from '../../engine/engine';
import { Editor } from '../../state/editor';
import { told } from '../../shared/units';

/** Where zero is, by which work offset, and what the operator does to find it. */
@Component({
  selector: 'esq-zero-section',
  imports: [ChoiceField, MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './zeroSection.scss',
  template: `
    @if (job(); as j) {
      <section class="section">
        <h2>Work zero</h2>
        <p class="probe" data-testid="probe">{{ told(probe()) }}</p>
        <esq-choice-field
          label="Datum on"
          [value]="j.setup.workZero.of"
          [options]="datums()"
          (chosen)="zero({ of: $any($event) })"
        />
        @if (j.setup.workZero.of !== 'picked') {
          <div class="zero">
            <div class="grid" role="group" aria-label="Work zero in plan">
              @for (y of downward; track y) {
                @for (x of levels; track x) {
                  <button
                    [class.chosen]="j.setup.workZero.x === x && j.setup.workZero.y === y"
                    [attr.aria-pressed]="j.setup.workZero.x === x && j.setup.workZero.y === y"
                    [attr.aria-label]="'X ' + x + ', Y ' + y"
                    (click)="zero({ x: x, y: y })"
                  ></button>
                }
              }
            </div>
            <div class="heights" role="group" aria-label="Work zero in height">
              @for (z of downward; track z) {
                <button
                  matButton
                  class="plain"
                  [class.chosen]="j.setup.workZero.z === z"
                  [attr.aria-pressed]="j.setup.workZero.z === z"
                  (click)="zero({ z: z })"
                >
                  Z {{ z === 'high' ? 'top' : z === 'low' ? 'underside' : 'middle' }}
                </button>
              }
            </div>
          </div>
        }
        <p class="pencil">Or point at a corner, hole or face in the view.</p>
        <esq-choice-field
          label="Work offset"
          [value]="j.setup.workOffset"
          [options]="offsets"
          (chosen)="offset($any($event))"
        />
      </section>
    }
  `,
})
export class ZeroSection {
  protected readonly told = told;
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly job = this.editor.job;
  protected readonly levels = BOX_LEVELS;
  protected readonly downward: BoxLevel[] = ['high', 'middle', 'low'];
  protected readonly offsets = choicesOf(WORK_OFFSETS);
  protected readonly datums = computed((): Choice[] => [
    { value: 'block', label: 'blank' },
    { value: 'part', label: 'part' },
    ...(this.job()?.setup.workZero.what ? [{ value: 'picked', label: 'picked feature' }] : []),
  ]);

  protected readonly probe = computed(() => {
    const job = this.job();
    const boxes = this.engine.piece()?.boxes;
    return job?.part && boxes ? probeSentence(job, boxes) : '';
  });

  protected zero(change: Partial<WorkZero>): void {
    this.setup((setup) => ({ ...setup, workZero: { ...setup.workZero, ...change } }));
  }

  protected offset(workOffset: Setup['workOffset']): void {
    this.setup((setup) => ({ ...setup, workOffset }));
  }

  private setup(change: (setup: Setup) => Setup): void {
    this.editor.make('piece', (job) => ({ ...job, setup: change(job.setup) }));
  }
}
