import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { BenchSlot } from '../bench/benchSlot';
import { LensPanel } from '../lens/lensPanel';
import { Columns } from '../shared/columns';
import { FacePicking } from '../sheet/facePicking';
import { SeveralSheet } from '../sheet/severalSheet';
import { StepSheet } from '../sheet/stepSheet';
import { SeveralSteps } from '../state/severalSteps';
import { RunStrip } from '../strip/runStrip';

/** What cuts what, and what is left? */
@Component({
  selector: 'esq-workplan',
  imports: [BenchSlot, Columns, LensPanel, MatButtonModule, MatIconModule, RunStrip, SeveralSheet, StepSheet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      display: grid;
      grid-template: minmax(0, 1fr) auto / minmax(0, 1fr);
      height: 100%;
      /* what is pressed beside a button of the lowest row would let the page scroll by it */
      overflow: hidden;
    }
    .left {
      height: 100%;
      min-height: 0;
      position: relative;
      display: grid;
    }
    .fold {
      position: absolute;
      right: 2px;
      top: 6px;
      z-index: 2;
    }
    .panel {
      height: 100%;
    }
    esq-run-strip {
      min-height: 136px;
    }
    @media (max-width: 760px), (max-height: 440px) {
      :host {
        display: flex;
        flex-direction: column;
        height: auto;
        overflow: visible;
      }
    }
  `,
  template: `
    <esq-columns name="workplan" [begin]="[208, 348]" [folded]="folded()">
      <ng-template #left>
        <div class="left">
          @if (!folded()) {
            <esq-lens-panel />
          }
          <button
            matIconButton
            class="fold"
            (click)="folded.set(!folded())"
            [attr.aria-label]="folded() ? 'Unfold the lenses' : 'Fold the lenses'"
          >
            <mat-icon [svgIcon]="folded() ? 'chevron-right' : 'chevron-left'" />
          </button>
        </div>
      </ng-template>
      <ng-template #middle>
        <esq-bench-slot [partOnly]="picking.isOn()" [lit]="picking.lit()" (pointed)="picking.press($event.triangle)" />
      </ng-template>
      <ng-template #right>
        <aside class="panel" aria-label="Step sheet">
          @if (several.ids().length > 1) {
            <esq-several-sheet />
          } @else {
            <esq-step-sheet />
          }
        </aside>
      </ng-template>
    </esq-columns>
    <esq-run-strip />
  `,
})
export class WorkplanPlace {
  protected readonly folded = signal(false);
  protected readonly picking = inject(FacePicking);
  protected readonly several = inject(SeveralSteps);
}
