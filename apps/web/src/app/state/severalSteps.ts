import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { Editor } from './editor';
import { jobFeature } from './job.reducer';

/** Steps that are chosen together, to be changed in one go. */
@Injectable({ providedIn: 'root' })
export class SeveralSteps {
  private readonly editor = inject(Editor);
  private readonly chosen = inject(Store).selectSignal(jobFeature.selectSelectedStepId);
  private readonly marked = signal<readonly string[]>([]);

  /** Ids in the order of the plan; none unless there are two at least. */
  readonly ids = computed((): readonly string[] => {
    const marked = new Set([...this.marked(), this.chosen()]);
    const ids = (this.editor.job()?.steps ?? []).map((s) => s.id).filter((id) => marked.has(id));
    return ids.length > 1 ? ids : [];
  });

  constructor() {
    const jobId = computed(() => this.editor.job()?.id);
    effect(() => {
      jobId();
      untracked(() => this.clear());
    });
  }

  /** Adds a step to those that are chosen, or lets it go. The one whose sheet is open stays among them. */
  toggle(id: string): void {
    if (id !== this.chosen())
      this.marked.update((all) => (all.includes(id) ? all.filter((other) => other !== id) : [...all, id]));
  }

  /** Chooses all steps from the one whose sheet is open to another. */
  upTo(id: string): void {
    const ids = (this.editor.job()?.steps ?? []).map((s) => s.id);
    const [a, b] = [ids.indexOf(id), ids.indexOf(this.chosen() ?? '')];
    if (a >= 0 && b >= 0) this.marked.set(ids.slice(Math.min(a, b), Math.max(a, b) + 1));
  }

  clear(): void {
    this.marked.set([]);
  }
}
