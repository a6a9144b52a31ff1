import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { Bench } from '../bench/bench';
import { LensPanel } from '../lens/lensPanel';
import { StepSheet } from '../sheet/stepSheet';
import { RunStrip } from '../strip/runStrip';

/** What cuts what, and what is left? */
@Component({
  selector: 'esq-workplan',
  imports: [MatButtonModule, Bench, LensPanel, StepSheet, RunStrip],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      display: grid;
      grid-template: minmax(0, 1fr) auto / 208px minmax(0, 1fr) 348px;
      height: 100%;
    }
    :host.folded {
      grid-template-columns: 44px minmax(0, 1fr) 348px;
    }
    .left {
      min-height: 0;
      position: relative;
      display: grid;
    }
    .fold {
      position: absolute;
      right: 4px;
      top: 8px;
      color: var(--pencil);
      z-index: 2;
    }
    esq-run-strip {
      grid-column: 1 / -1;
      min-height: 136px;
    }
    @media (max-width: 900px) {
      :host {
        grid-template-columns: 150px minmax(0, 1fr) 320px;
      }
    }
    @media (max-width: 760px), (max-height: 440px) {
      :host,
      :host.folded {
        display: flex;
        flex-direction: column;
        height: auto;
      }
      esq-bench {
        height: 280px;
        order: -2;
      }
      esq-run-strip {
        order: -1;
      }
    }
  `,
  host: { '[class.folded]': 'folded()' },
  template: `
    <div class="left">
      @if (!folded()) {
        <esq-lens-panel />
      }
      <button
        matButton
        class="plain fold"
        (click)="folded.set(!folded())"
        [attr.aria-label]="folded() ? 'Unfold the lenses' : 'Fold the lenses'"
      >
        {{ folded() ? '›' : '‹' }}
      </button>
    </div>
    <esq-bench />
    <aside class="panel" aria-label="Step sheet"><esq-step-sheet /></aside>
    <esq-run-strip />
  `,
})
export class WorkplanPlace {
  protected readonly folded = signal(false);
}
