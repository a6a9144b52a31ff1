import type { Group, Mesh, Object3D } from 'three';
import type { Palette } from './palette';

/** What all that is drawn on the bench shares. */
export interface Shown {
  readonly palette: Palette;
  /** Diagonal of what was fitted into the view, mm. */
  readonly size: number;
  /** To be called after each change. */
  draw(): void;
}

/** Takes everything out of a group. */
export function clear(group: Group): void {
  for (const child of [...group.children]) {
    group.remove(child);
    free(child);
  }
}

function free(object: Object3D): void {
  object.traverse((o) => {
    // materials are kept: they hold nothing but their programs, and to make one again takes half a second without a chip
    (o as Partial<Mesh>).geometry?.dispose();
  });
}
