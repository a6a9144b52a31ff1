import { DOCUMENT, DestroyRef, inject, Injectable, signal } from '@angular/core';

/** A key and what it does. */
export interface KeyBinding {
  /** As `KeyboardEvent.key` gives it, small letters; with "ctrl+" and "shift+" before it. */
  readonly keys: readonly string[];
  /** As the list of keys shows it. */
  readonly shown: string;
  readonly what: string;
  readonly run: () => void;
  /** Whether it acts now; always when left out. */
  readonly when?: () => boolean;
}

const KEPT_AS = 'esquisse.keys';
/** Roles inside which letters are the widget's own. */
const OWN_KEYS = '[role="menu"], [role="dialog"], [role="listbox"], [role="alertdialog"]';
/** What is answered before anything else goes on. */
const HOLDING = '[role="dialog"], [role="alertdialog"]';
/** What a press of the space bar works on itself. */
const PRESSED_BY_SPACE = 'button, a, [role="button"], [role="radio"], [role="menuitem"], [role="option"]';

/**
 * All keys of the application: one list that is dispatched from and shown. None of them acts while something is typed (undo
 * does as soon as it is entered), or while a menu or a dialog is open; those without Ctrl can be switched off (WCAG 2.1.4).
 */
@Injectable({ providedIn: 'root' })
export class Keys {
  private readonly document = inject(DOCUMENT);
  readonly bindings = signal<readonly KeyBinding[]>([]);
  /** Whether keys without Ctrl act. */
  readonly areOn = signal(localStorage.getItem(KEPT_AS) !== 'off');

  /** Fields in which something was typed that was not entered yet. */
  private readonly typedIn = new WeakSet<EventTarget>();

  constructor() {
    this.document.addEventListener('keydown', (event) => this.press(event));
    this.document.addEventListener('input', ({ target }) => target && this.typedIn.add(target));
    for (const end of ['change', 'focusout'])
      this.document.addEventListener(end, ({ target }) => target && this.typedIn.delete(target));
  }

  /** Adds keys for as long as a component lives. */
  bind(bindings: readonly KeyBinding[], until: DestroyRef): void {
    this.bindings.update((all) => [...all, ...bindings]);
    until.onDestroy(() => this.bindings.update((all) => all.filter((b) => !bindings.includes(b))));
  }

  switchOn(on: boolean): void {
    this.areOn.set(on);
    localStorage.setItem(KEPT_AS, on ? 'on' : 'off');
  }

  private press(event: KeyboardEvent): void {
    if (event.defaultPrevented || event.altKey || event.isComposing) return;
    // a field puts its own value back and is left
    if (event.key === 'Escape' && event.target instanceof HTMLElement && takesText(event.target)) leave(event.target);
    const isCommand = event.ctrlKey || event.metaKey;
    if (!isCommand && !this.areOn()) return;
    const name = `${isCommand ? 'ctrl+' : ''}${isCommand && event.shiftKey ? 'shift+' : ''}${event.key.toLowerCase()}`;
    const binding = this.bindings().find((b) => b.keys.includes(name));
    if (!binding || binding.when?.() === false || !this.isFree(event, isCommand)) return;
    event.preventDefault();
    binding.run();
  }

  /** Whether a key is nobody else's: no field, menu or dialog has it, and no button is pressed by it. */
  private isFree({ target, key }: KeyboardEvent, isCommand: boolean): boolean {
    const at = target instanceof HTMLElement ? target : this.document.body;
    // once a value is entered, undo takes it back; before, it is the field's own
    const isEntered = !this.typedIn.has(at) && at.getAttribute('aria-invalid') !== 'true';
    if (takesText(at) && !(isCommand && isEntered)) return false;
    if (at.closest(OWN_KEYS)) return false;
    // a menu or list has the focus while it is open: one that is only fading away holds nothing up
    if (this.document.querySelector(`.cdk-overlay-container :is(${HOLDING})`)) return false;
    return !(key === ' ' && at.closest(PRESSED_BY_SPACE));
  }
}

/** Leaves a field for the row that it stands in: letters are keys again, and the Tab key goes on from there. */
function leave(field: HTMLElement): void {
  const row = field.closest<HTMLElement>('.row, .field-row, .line, section, aside, main');
  field.blur();
  if (!row) return;
  row.tabIndex = -1;
  row.focus({ preventScroll: true });
  row.addEventListener('focusout', () => row.removeAttribute('tabindex'), { once: true });
}

/** Whether what is typed goes into an element. */
function takesText(at: HTMLElement): boolean {
  if (at.isContentEditable || at instanceof HTMLTextAreaElement) return true;
  // a list takes letters for the first ones of its choices
  if (at.getAttribute('role') === 'combobox') return true;
  return at instanceof HTMLInputElement && !/^(range|checkbox|radio|button|submit|file)$/.test(at.type);
}
