import { ChangeDetectionStrategy, Component, output } from '@angular/core';

const KEYS = [
  ['1 2 3 4', 'lens: part, steel, leftover, region of the step'],
  ['Space', 'play, stop'],
  [', .', 'one motion back, on'],
  ['; \u2019', 'one step back, on'],
  ['B', 'this step: steel before, after, leftover, part'],
  ['A', 'add a step'],
  ['R', 'work out what is stale'],
  ['F', 'fit the view'],
  ['Esc', 'leave a field, with the value that holds'],
  ['Ctrl Z, Ctrl Y', 'take back, do again'],
  ['?', 'this list'],
] as const;

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
  `,
  template: `
    <h2>Keys</h2>
    <dl>
      @for (key of keys; track key[0]) {
        <dt class="mono">{{ key[0] }}</dt>
        <dd>{{ key[1] }}</dd>
      }
    </dl>
    <button class="press" (click)="closed.emit()">Close</button>
  `,
})
export class KeysHelp {
  readonly closed = output();
  protected readonly keys = KEYS;
}
