import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { advisedStickOut, longestStickOut, type Tool } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { length, unitOf } from '../../shared/units';
import { withAssemblyChange } from '../../state/edit';
import { Editor } from '../../state/editor';
import { planFeature } from '../../state/plan.reducer';

/** More than this beyond what its steps need makes a cutter softer than it has to be, mm (common practice). */
const MUCH_LONGER_MM = 10;

/** What the steps of an assembly need of its stick-out, as far as they are calculated. */
@Component({
  selector: 'esq-needed-panel',
  imports: [MatButtonModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (rows().length > 0) {
      <div data-testid="needed">
        @for (r of rows(); track r.id) {
          <div class="row" [class.wrong]="r.margin < 0">
            <span>{{ r.name }} needs</span>
            <span class="number"
              >{{ length(r.needed, 1) }} {{ unitOf('mm') }}, {{ r.margin < 0 ? 'lacks' : 'spare' }}
              {{ length(Math.abs(r.margin), 1) }}</span
            >
          </div>
        }
        @if (proposed(); as mm) {
          <p class="pencil">
            With a margin of 5 mm {{ length(mm, 0) }} {{ unitOf('mm') }} would do.
            <button matButton class="plain ask" (click)="set(mm)">Set it out so far</button>
          </p>
        }
      </div>
    }
  `,
})
export class NeededPanel {
  private readonly editor = inject(Editor);
  private readonly store = inject(Store);
  private readonly summaries = this.store.selectSignal(planFeature.selectSummaries);
  private readonly fresh = this.store.selectSignal(planFeature.selectFresh);
  readonly tool = input.required<Tool>();
  protected readonly Math = Math;
  protected readonly length = length;
  protected readonly unitOf = unitOf;

  protected readonly rows = computed(() => {
    const { id, stickOut } = this.tool().assembly;
    const steps = this.editor.job()?.steps ?? [];
    return steps.flatMap((step, k) => {
      const figures = this.summaries().find((s) => s.stepId === step.id)?.figures;
      if (step.assemblyId !== id || !figures || !this.fresh().includes(step.id)) return [];
      const needed = figures.neededStickOut;
      return [{ id: step.id, name: `Step ${k + 1}`, needed, margin: stickOut - needed }];
    });
  });

  /** Whether each of its steps is planned whole and up to date: else what they need is not known. */
  private readonly isKnown = computed(() => {
    const { id } = this.tool().assembly;
    const own = (this.editor.job()?.steps ?? []).filter((step) => step.assemblyId === id && step.enabled);
    return own.every((step) => this.fresh().includes(step.id) && step.travel.reach === 'whole');
  });

  /** A stick-out that does for all of them, where the present one is too short or much longer. */
  protected readonly proposed = computed(() => {
    const { cutter, assembly } = this.tool();
    const most = Math.max(0, ...this.rows().map((r) => r.needed));
    const mm = Math.max(cutter.APMX, advisedStickOut(most));
    const margin = assembly.stickOut - most;
    const isWorth = margin < 0 || margin >= MUCH_LONGER_MM;
    return this.isKnown() && isWorth && mm !== assembly.stickOut && mm <= longestStickOut(cutter) ? mm : undefined;
  });

  protected set(stickOut: number): void {
    const { id } = this.tool().assembly;
    this.editor.make('crib', (job) => withAssemblyChange(job, id, { stickOut }));
  }
}
