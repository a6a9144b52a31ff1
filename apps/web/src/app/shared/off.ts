import { Directive, ElementRef, inject, input } from '@angular/core';

/**
 * A button that does nothing for now. Unlike one that is disabled it keeps the focus that it was pressed with, so that the keys
 * go on from there when its work has begun.
 */
@Directive({ selector: 'button[esqOff]', host: { '[attr.aria-disabled]': 'esqOff() || null' } })
export class Off {
  readonly esqOff = input.required<boolean>();

  constructor() {
    inject<ElementRef<HTMLButtonElement>>(ElementRef).nativeElement.addEventListener(
      'click',
      (event) => {
        if (this.esqOff()) event.stopImmediatePropagation();
      },
      { capture: true },
    );
  }
}
