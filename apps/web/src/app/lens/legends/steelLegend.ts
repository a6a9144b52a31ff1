import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatSliderModule } from '@angular/material/slider';
import { messageOf } from '@esquisse/core';
import { Store } from '@ngrx/store';
import { Engine } from '../../engine/engine';
import { saveFile } from '../../shared/files';
import { PlanActions, planFeature } from '../../state/plan.reducer';
import { LensData } from '../lensData';

/** The steel at the playhead, to be kept as a file, and the part seen through it. */
@Component({
  selector: 'esq-steel-legend',
  imports: [MatButtonModule, MatSliderModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
    <p class="pencil note">Graphite is steel as it stands at the playhead; darker where the block is still raw.</p>
    <button matButton class="plain save" data-testid="save-steel" (click)="save('stl')">Save this steel as STL</button>
    <button matButton class="plain save" data-testid="save-steel-3mf" (click)="save('3mf')">
      Save this steel as 3MF
    </button>
    <label class="through" for="through">Part through the steel</label>
    <mat-slider min="0" max="1" step="0.05" discrete [displayWith]="percent">
      <input id="through" matSliderThumb [value]="data.through()" (valueChange)="data.through.set($event)" />
    </mat-slider>
  `,
})
export class SteelLegend {
  private readonly store = inject(Store);
  private readonly engine = inject(Engine);
  private readonly moment = this.store.selectSignal(planFeature.selectMoment);
  protected readonly data = inject(LensData);
  protected readonly percent = (share: number): string => `${Math.round(share * 100)} %`;

  /** Saves the steel at the playhead, in the frame of the part's file. */
  protected async save(format: 'stl' | '3mf'): Promise<void> {
    try {
      saveFile(`steel.${format}`, await this.engine.steelFile(this.moment(), format), `model/${format}`);
    } catch (error) {
      this.store.dispatch(PlanActions.failed({ trouble: { message: messageOf(error), place: 'workplan' } }));
    }
  }
}
