import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { Keys } from './keys';

/** The list of keys. */
@Component({
  selector: 'esq-keys-help',
  changeDetection: ChangeDetectionStrategy.OnPush,
  styles: `
    :host {
      position: fixed;
      right: 16px;
      top: 56px;
      z-index: 20;
      background: var(--sheet);
      border: 1px solid var(--rule);
      padding: 14px 18px;
      box-shadow: 0 8px 28px rgb(0 0 0 / 18%);
    }
    dl {
      display: grid;
      grid-template-columns: auto auto;
      gap: 4px 18px;
      margin: 8px 0;
    }
    label {
      display: block;
      margin: 8px 0;
    }
  `,
  template: `
    <h2>Keys</h2>
    <dl>
      @for (key of shown(); track key.shown) {
        <dt class="mono">{{ key.shown }}</dt>
        <dd>{{ key.what }}</dd>
      }
      <dt class="mono">Esc</dt>
      <dd>leave a field, with the value that holds</dd>
    </dl>
    <label>
      <input type="checkbox" [checked]="keys.areOn()" (change)="keys.switchOn($any($event.target).checked)" />
      keys without Ctrl act
    </label>
    <button class="press" (click)="closed.emit()">Close</button>
  `,
})
export class KeysHelp {
  protected readonly keys = inject(Keys);
  readonly closed = output();
  /** Keys of the same name are told once: places that are left may still hold theirs. */
  protected readonly shown = computed(() => {
    const seen = new Set<string>();
    return this.keys.bindings().filter(({ shown }) => !seen.has(shown) && seen.add(shown));
  });
}
