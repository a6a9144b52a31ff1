import { NgComponentOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { LensChoice } from '../shared/lensChoice';
import { type Lens, PlanActions, planFeature } from '../state/plan.reducer';
import { LENSES } from './lenses';
import { LEGENDS } from './legends';
import { PathPanel } from './pathPanel';

/** Choice of lens, what it shows, and what of the path is drawn. */
@Component({
  selector: 'esq-lens-panel',
  imports: [LensChoice, NgComponentOutlet, PathPanel],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './lensPanel.scss',
  template: `
    <esq-lens-choice label="Lens" [lenses]="lenses" [chosen]="lens()" (choose)="choose($any($event))" />
    <ng-container *ngComponentOutlet="legend()" />
    @if (lens() !== 'part') {
      <esq-path-panel />
    }
  `,
})
export class LensPanel {
  private readonly store = inject(Store);
  protected readonly lenses = LENSES;
  protected readonly lens = this.store.selectSignal(planFeature.selectLens);
  protected readonly legend = computed(() => LEGENDS[this.lens()]);

  protected choose(lens: Lens): void {
    this.store.dispatch(PlanActions.lensChosen({ lens }));
  }
}
