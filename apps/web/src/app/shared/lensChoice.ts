import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';

/** A lens to choose: its name, and the key that chooses it where there is one. */
export interface LensEntry {
  id: string;
  name: string;
  key?: string;
}

/** The choice of what the bench's colours mean. */
@Component({
  selector: 'esq-lens-choice',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2 class="pencil">Lens</h2>
    <div role="radiogroup" [attr.aria-label]="label()">
      @for (l of lenses(); track l.id) {
        <button class="lens" role="radio" [attr.aria-checked]="chosen() === l.id" (click)="choose.emit(l.id)">
          {{ l.name }}
          @if (l.key) {
            <span class="mono pencil">{{ l.key }}</span>
          }
        </button>
      }
    </div>
  `,
  styles: `
    h2 {
      font-size: 12px;
      margin: 2px 0 6px;
    }
    .lens {
      display: flex;
      justify-content: space-between;
      width: 100%;
      padding: 4px 6px;
      border: 0;
      border-radius: 2px;
      background: none;
      text-align: left;
      cursor: pointer;
      color: var(--pencil);
    }
    .lens[aria-checked='true'] {
      background: var(--chosen);
      color: var(--ink);
      font-weight: 600;
    }
  `,
})
export class LensChoice {
  readonly label = input.required<string>();
  readonly lenses = input.required<readonly LensEntry[]>();
  readonly chosen = input.required<string>();
  readonly choose = output<string>();
}
