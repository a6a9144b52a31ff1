import { ChangeDetectionStrategy, Component, DestroyRef, ElementRef, inject, input, output } from '@angular/core';
import type { Vec3 } from '@esquisse/core';
import { type BenchPlace, BenchStage } from './stage';

/** A place where the bench stands, and what is special about it there. */
@Component({
  selector: 'esq-bench-slot',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: '',
  styles: `
    :host {
      display: grid;
      min-width: 0;
      min-height: 0;
      height: 100%;
    }
  `,
})
export class BenchSlot implements BenchPlace {
  /** The part whatever the lens, where the piece itself is in question. */
  readonly partOnly = input(false);
  /** Colours of the corners of the part's triangles, where a lens colours it, and edges that it draws, in the laid frame. */
  readonly colours = input<Float32Array>();
  readonly edges = input<Float32Array>();
  /** Triangles of the part to light up, and places to mark, in the laid frame. */
  readonly lit = input<readonly number[]>([]);
  readonly marks = input<readonly Readonly<Vec3>[]>([]);
  /** A place of the part was pointed at: triangle, place in the laid frame, and how far round it a corner is meant, mm. */
  readonly pointed = output<{ triangle: number; point: Vec3; reach: number }>();
  readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  constructor() {
    const stage = inject(BenchStage);
    stage.enter(this);
    inject(DestroyRef).onDestroy(() => stage.leave(this));
  }
}
