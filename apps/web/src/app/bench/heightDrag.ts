import { computed, inject, Injectable, signal } from '@angular/core';
import { withValue } from '../state/edit';
import { Editor } from '../state/editor';
import { length, sizeOfUnit, unitOf } from '../shared/units';
import { BenchContent } from './benchContent';
import { draggedTo, gripAt, type HeightGrip, type Seen } from './heightGrips';
import { heightCorners } from './solids';

type Place = readonly [number, number];

/** A height that is being dragged, with what it hangs on. */
interface Held {
  readonly stepId: string;
  readonly grip: HeightGrip;
  readonly from: Place;
  readonly levels: readonly number[];
  readonly z: number;
}

/** Heights of the chosen step are dragged by their frames on the bench; level places of the part hold them. */
@Injectable({ providedIn: 'root' })
export class HeightDrag {
  private readonly shows = inject(BenchContent);
  private readonly editor = inject(Editor);
  private readonly held = signal<Held | undefined>(undefined);
  private readonly hovered = signal<string | undefined>(undefined);
  readonly isHeld = computed(() => this.held() !== undefined);
  /** Key of the height that is dragged, or that a press would take hold of. */
  readonly litKey = computed(() => this.held()?.grip.key ?? this.hovered());
  /** The heights as they are to be drawn. */
  readonly heights = computed((): HeightGrip[] => {
    const held = this.held();
    if (this.shows.partOnly()) return [];
    const heights = this.shows.heights();
    if (held?.stepId !== this.shows.stepId()) return heights;
    return heights.map((h) => (h.key === held?.grip.key ? { ...h, z: held.z, isOpen: false } : h));
  });
  /** The dragged height in words, or that under the pointer. */
  readonly words = computed((): string => {
    const key = this.litKey();
    const height = this.heights().find((h) => h.key === key);
    if (!height) return '';
    return height.isOpen && !this.held()
      ? `${height.label}: open, drag it`
      : `${height.label} ${length(height.z)} ${unitOf('mm')}`;
  });

  /** The pointer moves over the bench, or drags the held height. */
  move(seen: Seen, at: Place): void {
    const held = this.held();
    if (!held) {
      this.hovered.set(this.under(seen, at)?.key);
      return;
    }
    const moved = [at[0] - held.from[0], at[1] - held.from[1]] as const;
    this.held.set({ ...held, z: draggedTo(held.grip.z, seen, moved, held.levels, sizeOfUnit('mm')) });
  }

  /** Takes hold of the height under the pointer. @returns whether there is one */
  take(seen: Seen, at: Place): boolean {
    const grip = this.under(seen, at);
    const stepId = this.shows.stepId();
    if (!grip || stepId === undefined) return false;
    this.held.set({ stepId, grip, from: at, levels: this.shows.levels(), z: grip.z });
    return true;
  }

  /** The held height is let go: the step takes it, unless it was called off or is where it was. */
  letGo(isTaken: boolean): void {
    const held = this.held();
    this.held.set(undefined);
    this.hovered.set(undefined);
    if (!held || !isTaken || held.z === held.grip.z) return;
    this.editor.make('workplan', (job) => withValue(job, held.stepId, held.grip.key, held.z));
  }

  private under(seen: Seen, at: Place): HeightGrip | undefined {
    const block = this.shows.block();
    return block ? gripAt(this.heights(), heightCorners(block), seen, at) : undefined;
  }
}
