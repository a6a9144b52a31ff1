import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { planFeature } from '../../state/plan.reducer';

/** Where something touches that must not. */
@Component({
  selector: 'esq-contacts-legend',
  imports: [],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: ` <p class="pencil note">{{ contactWords() }}</p> `,
})
export class ContactsLegend {
  private readonly summaries = inject(Store).selectSignal(planFeature.selectSummaries);
  /** How many places of the plan something is wrong at. */
  protected readonly contactWords = computed(() => {
    const count = this.summaries()
      .flatMap((s) => s.figures.findings)
      .reduce((sum, { places }) => sum + places.length, 0);
    if (count === 0) return 'Nothing but the edges touches steel in any step that is calculated; no gouge.';
    return `Crosses stand where the tip is while something touches that must not: ${count === 1 ? 'one place' : `${count} places`} in all steps. “Next finding” goes from one to the next.`;
  });
}
