import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButtonToggleModule } from '@angular/material/button-toggle';

/** A lens to choose: its name, and the key that chooses it where there is one. */
export interface LensEntry {
  id: string;
  name: string;
  key?: string;
}

/** The choice of what the bench's colours mean. */
@Component({
  selector: 'esq-lens-choice',
  imports: [MatButtonToggleModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 class="pencil">Lens</h2>
    <mat-button-toggle-group
      class="lenses"
      vertical
      hideSingleSelectionIndicator
      [value]="chosen()"
      [attr.aria-label]="label()"
      (change)="choose.emit($event.value)"
    >
      @for (l of lenses(); track l.id) {
        <mat-button-toggle [value]="l.id">
          {{ l.name }}
          @if (l.key) {
            <span class="mono pencil">{{ l.key }}</span>
          }
        </mat-button-toggle>
      }
    </mat-button-toggle-group>
  `,
  styles: `
    h2 {
      font-size: 12px;
      margin: 2px 0 6px;
    }
  `,
})
export class LensChoice {
  readonly label = input.required<string>();
  readonly lenses = input.required<readonly LensEntry[]>();
  readonly chosen = input.required<string>();
  readonly choose = output<string>();
}
