import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import type { WorkName } from '../engine/engine';
import { PlanActions } from '../state/plan.reducer';

/** How far a look has come is told this often at most, ms: each time the page is put together anew. */
const TOLD_EVERY_MS = 250;

/** Shows looks that take a while in the header, with how far they have come and a way to stop them. */
@Injectable({ providedIn: 'root' })
export class Looking {
  private readonly store = inject(Store);
  private turns = new Map<WorkName, number>();

  /** Does a look; one of the same name that goes on still is taken over by it. */
  async watch<T>(id: WorkName, what: string, look: (onProgress: (share: number) => void) => Promise<T>): Promise<T> {
    const turn = (this.turns.get(id) ?? 0) + 1;
    this.turns.set(id, turn);
    let last = 0;
    const tell = (share: number): void => {
      const now = performance.now();
      if (this.turns.get(id) !== turn || now - last < TOLD_EVERY_MS) return;
      last = now;
      this.store.dispatch(PlanActions.workTold({ work: { id, what, share } }));
    };
    tell(0);
    try {
      return await look(tell);
    } finally {
      if (this.turns.get(id) === turn) {
        this.turns.set(id, turn + 1);
        this.store.dispatch(PlanActions.workEnded({ id }));
      }
    }
  }
}
