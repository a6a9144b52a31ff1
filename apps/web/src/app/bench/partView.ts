import { axesOf, type Lay } from '@esquisse/core';
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
} from 'three';
import type { PartDrawing } from '../engine/partDrawing';
import { clear, type Shown } from './shown';
import { LEVEL_LIGHT, studio } from './studio';

/** Light plaster would be white in the light that dark steel wants. */
const PLASTER_LIGHT = 1 / LEVEL_LIGHT;

/** The part as it lies, with its folds, edges that a lens draws, and the faces that are chosen. */
export class PartView {
  readonly part = new Group();
  /** Edges of the part that a lens draws. */
  readonly edges = new Group();
  /** Folds of the part, over steel and part alike. */
  readonly folds = new Group();
  readonly lit = new Group();

  constructor(private readonly shown: Shown) {}

  /**
   * The part, drawn in its file's frame, as it lies.
   *
   * @param zero work zero in the laid frame
   * @param colours three numbers a corner, or plaster
   * @param lines pairs of places drawn over it, in its laid frame
   */
  set(
    drawing: PartDrawing | undefined,
    lay: Lay,
    zero: readonly [number, number, number],
    colours?: Float32Array,
    lines?: Float32Array,
  ): void {
    clear(this.part);
    clear(this.edges);
    clear(this.folds);
    const [x, y, z] = axesOf(lay);
    // prettier-ignore
    const way = new Matrix4().set(
      x[0], x[1], x[2], -zero[0],
      y[0], y[1], y[2], -zero[1],
      z[0], z[1], z[2], -zero[2],
      0, 0, 0, 1,
    );
    for (const group of [this.part, this.lit, this.folds]) {
      group.matrixAutoUpdate = false;
      group.matrix.copy(way);
      group.matrixWorldNeedsUpdate = true;
    }
    if (drawing) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(drawing.positions, 3));
      geometry.setAttribute('normal', new BufferAttribute(drawing.normals, 3));
      if (colours) geometry.setAttribute('color', new BufferAttribute(colours, 3));
      const material = studio({ ...(colours ? {} : { colour: this.shown.palette.plaster }), exposure: PLASTER_LIGHT });
      this.part.add(new Mesh(geometry, material));
      const folds = new BufferGeometry();
      folds.setAttribute('position', new BufferAttribute(drawing.folds, 3));
      const ink = new LineBasicMaterial({ color: this.shown.palette.ink, transparent: true, opacity: 0.4 });
      this.folds.add(new LineSegments(folds, ink));
      // always in sight: to find out whether it is takes longer than to draw it
      for (const object of [...this.part.children, ...this.folds.children]) object.frustumCulled = false;
    }
    if (lines && lines.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(lines, 3));
      this.edges.position.set(-zero[0], -zero[1], -zero[2]);
      this.edges.add(new LineSegments(geometry, new LineBasicMaterial({ color: this.shown.palette.indigo })));
    }
    this.shown.draw();
  }

  /** Triangles of the part drawn over it in the colour of what is chosen. */
  light(drawing: PartDrawing | undefined, triangles: readonly number[]): void {
    clear(this.lit);
    if (drawing && triangles.length > 0) {
      const positions = new Float32Array(9 * triangles.length);
      triangles.forEach((t, k) => positions.set(drawing.positions.subarray(9 * t, 9 * t + 9), 9 * k));
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(positions, 3));
      const material = new MeshBasicMaterial({
        color: new Color(this.shown.palette.verdigris),
        side: DoubleSide,
        transparent: true,
        opacity: 0.7,
        polygonOffset: true,
        polygonOffsetFactor: -2,
        polygonOffsetUnits: -4,
      });
      this.lit.add(new Mesh(geometry, material));
    }
    this.shown.draw();
  }
}
