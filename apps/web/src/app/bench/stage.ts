import { Injectable, signal } from '@angular/core';
import type { Vec3 } from '@esquisse/core';

/** A place where the bench can stand, and what is special about it there; see `benchSlot.ts`. */
export interface BenchPlace {
  readonly element: HTMLElement;
  readonly partOnly: () => boolean;
  readonly colours: () => Float32Array | undefined;
  readonly edges: () => Float32Array | undefined;
  readonly lit: () => readonly number[];
  readonly marks: () => readonly Readonly<Vec3>[];
  readonly pointed: { emit: (place: { triangle: number; point: Vec3; reach: number }) => void };
}

/** Where the one bench of the application stands: it moves from place to place with its camera and all that is drawn. */
@Injectable({ providedIn: 'root' })
export class BenchStage {
  /** Direction from the piece to the eye, in the laid frame. */
  towardsEye: () => Vec3 = () => [0, 0, 1];
  /** A small picture of what stands on the bench, as a data URL; empty while nothing is to be seen. */
  picture: () => Promise<string> = () => Promise.resolve('');
  readonly slot = signal<BenchPlace | undefined>(undefined);
  /** The bench's element, and where it stands when no place shows it. */
  private bench?: { element: HTMLElement; parking: HTMLElement };

  /** The bench is there. */
  place(element: HTMLElement): void {
    this.bench = { element, parking: element.parentElement! };
    this.move();
  }

  enter(slot: BenchPlace): void {
    this.slot.set(slot);
    this.move();
  }

  leave(slot: BenchPlace): void {
    if (this.slot() !== slot) return;
    this.slot.set(undefined);
    this.move();
  }

  private move(): void {
    if (this.bench) (this.slot()?.element ?? this.bench.parking).append(this.bench.element);
  }
}
