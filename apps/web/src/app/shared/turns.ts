import { DestroyRef, Directive, inject, Injectable, TemplateRef, ViewContainerRef } from '@angular/core';

/**
 * Drawing that need not be done at once is done one piece after another, each in a task of its own: the page answers in
 * between. Of a piece that is asked for again before its turn the newer asking counts.
 */
@Injectable({ providedIn: 'root' })
export class Turns {
  private readonly waiting = new Map<unknown, () => void>();
  private readonly bell = new MessageChannel();
  private isRung = false;

  constructor() {
    this.bell.port1.onmessage = () => this.take();
    // under Node an open port would keep the process alive
    (this.bell.port1 as { unref?: () => void }).unref?.();
    inject(DestroyRef).onDestroy(() => this.bell.port1.close());
  }

  /** Does a piece of work when its turn comes. */
  next(key: unknown, work: () => void): void {
    // a piece that waits keeps its place
    this.waiting.set(key, work);
    this.ring();
  }

  forget(key: unknown): void {
    this.waiting.delete(key);
  }

  private ring(): void {
    if (this.isRung) return;
    this.isRung = true;
    this.bell.port2.postMessage(0);
  }

  private take(): void {
    this.isRung = false;
    const [first] = this.waiting;
    if (!first) return;
    this.waiting.delete(first[0]);
    if (this.waiting.size > 0) this.ring();
    first[1]();
  }
}

/** Makes what it stands on in a turn of its own: what takes long to make and is looked at later than the rest. */
@Directive({ selector: '[esqInTurn]' })
export class InTurn {
  constructor() {
    const template = inject<TemplateRef<unknown>>(TemplateRef);
    const place = inject(ViewContainerRef);
    const turns = inject(Turns);
    turns.next(this, () => place.createEmbeddedView(template).detectChanges());
    inject(DestroyRef).onDestroy(() => turns.forget(this));
  }
}
