import { Directive, effect, ElementRef, inject, input } from '@angular/core';

/** Keeps a list or field at the value that holds: a choice that was refused does not stay in sight. */
@Directive({
  selector: '[esqHeld]',
  host: { '(change)': 'showSoon()' },
})
export class HeldValue {
  readonly esqHeld = input.required<string | null>();
  private readonly element = inject<ElementRef<HTMLInputElement | HTMLSelectElement>>(ElementRef).nativeElement;

  constructor() {
    effect(() => this.show());
  }

  /** After whoever hears of the change has taken or refused it. */
  protected showSoon(): void {
    setTimeout(() => this.show());
  }

  private show(): void {
    const value = this.esqHeld() ?? '';
    // the options may not be there yet
    queueMicrotask(() => (this.element.value = value));
  }
}
