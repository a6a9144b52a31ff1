import { ChangeDetectionStrategy, Component } from '@angular/core';

/** The part as it is to be. */
@Component({
  selector: 'esq-part-legend',
  imports: [],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styleUrl: './legend.scss',
  template: ` <p class="pencil note">The finished part in its block, with the work zero.</p> `,
})
export class PartLegend {}
