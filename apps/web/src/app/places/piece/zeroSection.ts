import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BOX_LEVELS, type BoxLevel, probeSentence, type Setup, WORK_OFFSETS, type WorkZero } from '@esquisse/core';
import { Engine } from '../../engine/engine';
import { Editor } from '../../state/editor';

/** Where zero is, by which work offset, and what the operator does to find it. */
@Component({
  selector: 'esq-zero-section',
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './zeroSection.scss',
  template: `
    @if (job(); as j) {
      <section class="section">
        <h2>Work zero</h2>
        <p class="probe" data-testid="probe">{{ probe() }}</p>
        <div class="row">
          <label for="of">Point of</label>
          <select id="of" class="value" (change)="zero({ of: $any($event.target).value })">
            <option value="block" [selected]="j.setup.workZero.of === 'block'">the block's box</option>
            <option value="part" [selected]="j.setup.workZero.of === 'part'">the part's box</option>
            @if (j.setup.workZero.what) {
              <option value="picked" [selected]="j.setup.workZero.of === 'picked'">the part, as picked</option>
            }
          </select>
        </div>
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
        <p class="pencil">Or point at a corner, hole or face on the bench.</p>
        <div class="row">
          <label for="offset">Work offset</label>
          <select id="offset" class="value" (change)="offset($any($event.target).value)">
            @for (o of offsets; track o) {
              <option [value]="o" [selected]="o === j.setup.workOffset">{{ o }}</option>
            }
          </select>
        </div>
      </section>
    }
  `,
})
export class ZeroSection {
  private readonly editor = inject(Editor);
  private readonly engine = inject(Engine);
  protected readonly job = this.editor.job;
  protected readonly levels = BOX_LEVELS;
  protected readonly downward: BoxLevel[] = ['high', 'middle', 'low'];
  protected readonly offsets = WORK_OFFSETS;

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
