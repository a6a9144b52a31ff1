import { computed, Injectable, signal } from '@angular/core';
import { PATH_KINDS, type PathColour, type PathKind, type PathShare, type PathView } from './pathLines';

/** What a person wants to see of the path of the step at the playhead. */
@Injectable({ providedIn: 'root' })
export class PathChoice {
  readonly isShown = signal(true);
  /** Whether the cutter stands at the playhead, with what holds it. */
  readonly hasTool = signal(true);
  readonly colour = signal<PathColour>('kind');
  readonly share = signal<PathShare>('all');
  readonly kinds = signal<readonly PathKind[]>(PATH_KINDS);
  readonly view = computed((): PathView => ({ colour: this.colour(), share: this.share(), kinds: this.kinds() }));

  /** Shows a kind of motion, or hides it. */
  toggle(kind: PathKind, isOn: boolean): void {
    this.kinds.update((all) => PATH_KINDS.filter((k) => (k === kind ? isOn : all.includes(k))));
  }
}
