import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { BOX_LEVELS, type BoxLevel, probeSentence, type Setup, WORK_OFFSETS, type WorkZero } from '@esquisse/core';
import { type Choice, ChoiceField, choicesOf } from '../../shared/choiceField';
import { Engine } from '../../engine/engine';
import { Editor } from '../../state/editor';
import { told } from '../../shared/units';
import { ValueField } from '../../shared/valueField';
import { Fold } from '../../shared/fold';

const ORIGIN = "model's own origin";
/** Whether a point was typed in the model's frame rather than picked on the part. */
const isTyped = (what = ''): boolean => what === '' || what === ORIGIN || what.startsWith('point X ');

/** Where zero is, by which work offset, and what the operator does to find it. */
@Component({
  selector: 'esq-zero-section',
  imports: [ChoiceField, Fold, MatButtonModule, ValueField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './zeroSection.scss',
  template: `
    @if (job(); as j) {
      <esq-fold name="Work zero" open>
        <p class="probe" data-testid="probe">{{ told(probe()) }}</p>
        <esq-choice-field
          label="Datum on"
          [value]="j.setup.workZero.of"
          [options]="datums()"
          (chosen)="datum($any($event))"
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
        @if (j.setup.workZero.of === 'picked') {
          @for (axis of axes; track axis.index) {
            <esq-value-field
              [label]="axis.name + ' in the model'"
              [key]="'zero' + axis.name"
              unit="mm"
              [value]="j.setup.workZero.at[axis.index]!"
              [accept]="acceptor(axis.index)"
            />
          }
          <button matButton="outlined" class="press" (click)="origin()">Model's own origin</button>
        }
        <p class="pencil">Or point at a corner, hole or face in the view.</p>
        <esq-choice-field
          label="Work offset"
          [value]="j.setup.workOffset"
          [options]="offsets"
          (chosen)="offset($any($event))"
        />
      </esq-fold>
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
    { value: 'picked', label: isTyped(this.job()?.setup.workZero.what) ? 'point of the model' : 'picked feature' },
  ]);

  protected readonly probe = computed(() => {
    const job = this.job();
    const boxes = this.engine.piece()?.boxes;
    return job?.part && boxes ? probeSentence(job, boxes) : '';
  });

  protected readonly axes = [
    { name: 'X', index: 0 },
    { name: 'Y', index: 1 },
    { name: 'Z', index: 2 },
  ] as const;

  protected datum(of: WorkZero['of']): void {
    // a point of the model begins at its origin, where nothing was picked yet
    if (of === 'picked' && !this.job()?.setup.workZero.what) this.origin();
    else this.zero({ of });
  }

  protected origin(): void {
    this.zero({ of: 'picked', at: [0, 0, 0], what: ORIGIN, axes: undefined });
  }

  protected acceptor(axis: 0 | 1 | 2): (value: number | null) => string | undefined {
    return (value) =>
      this.editor.change((job) => {
        const { workZero } = job.setup;
        const at = workZero.at.map((v, k) => (k === axis ? (value ?? 0) : v)) as [number, number, number];
        const [x, y, z] = at.map((v) => Math.round(v * 1000) / 1000);
        const what = `point X ${x} Y ${y} Z ${z} of the model`;
        return { ...job, setup: { ...job.setup, workZero: { ...workZero, of: 'picked', at, what, axes: undefined } } };
      });
  }

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
