import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { area, unitOf, volume } from '../../shared/units';
import { RegionLook } from '../regionLook';

/** Where the chosen step would cut. */
@Component({
  selector: 'esq-region-legend',
  imports: [],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: `
    @if (region.view(); as r) {
      <p class="pencil note">Verdigris is where the chosen step would cut: steel above its threshold.</p>
      <dl class="figures">
        <div class="row">
          <dt>area</dt>
          <dd class="number">
            {{ area(r.area, 2) }} <span class="unit">{{ unitOf('cm²') }}</span>
          </dd>
        </div>
        <div class="row">
          <dt>volume</dt>
          <dd class="number">
            {{ volume(r.volume, 3) }} <span class="unit">{{ unitOf('cm³') }}</span>
          </dd>
        </div>
      </dl>
    } @else {
      <p class="pencil note">
        {{ region.has() ? region.problem() || 'Looking for it …' : 'The chosen step cuts wherever its limits let it.' }}
      </p>
    }
  `,
})
export class RegionLegend {
  protected readonly region = inject(RegionLook);
  protected readonly area = area;
  protected readonly unitOf = unitOf;
  protected readonly volume = volume;
}
