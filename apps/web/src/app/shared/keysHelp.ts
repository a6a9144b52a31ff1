import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatDialogModule } from '@angular/material/dialog';
import { Keys } from './keys';

/** The list of keys, as a dialog. */
@Component({
  selector: 'esq-keys-help',
  imports: [MatDialogModule, MatButtonModule, MatCheckboxModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    dl {
      display: grid;
      grid-template-columns: auto auto;
      gap: 4px 18px;
      margin: 0 0 8px;
    }
    dd {
      margin: 0;
    }
  `,
  template: `
    <h2 mat-dialog-title>Keys</h2>
    <mat-dialog-content>
      <dl>
        @for (key of shown(); track key.shown) {
          <dt class="mono">{{ key.shown }}</dt>
          <dd>{{ key.what }}</dd>
        }
      </dl>
      <mat-checkbox [checked]="keys.areOn()" (change)="keys.switchOn($event.checked)"
        >keys without Ctrl act</mat-checkbox
      >
    </mat-dialog-content>
    <mat-dialog-actions>
      <button matButton mat-dialog-close cdkFocusInitial>Close</button>
    </mat-dialog-actions>
  `,
})
export class KeysHelp {
  protected readonly keys = inject(Keys);
  /** Keys of the same name are told once: places that are left may still hold theirs. */
  protected readonly shown = computed(() => {
    const seen = new Set<string>();
    return this.keys.bindings().filter(({ shown }) => !seen.has(shown) && seen.add(shown));
  });
}
