import type { Box, Vec3 } from '@esquisse/core';
import { BufferAttribute, BufferGeometry, EdgesGeometry, Group, LineBasicMaterial, LineSegments, Mesh } from 'three';
import type { HeightGrip } from './heightGrips';
import { clear, type Shown } from './shown';
import { boxLines, heightFrame, limitLine, type LimitLine, prismLines, spindleGlyph, zeroGlyph } from './solids';
import { setSeen, shadowOf, studio } from './studio';

/** How far the shadow on the ground reaches, as a share of the block's diagonal. */
const SHADOW_REACH = 0.16;
/** How much is seen of the lines of a pattern. */
const SKETCH_SEEN = 0.6;
/** Steel that earlier steps left over the part hides no pattern up to this thickness, mm. */
const SKETCH_LIFT_MM = 3;

/** What stands around part and steel: block, ground, fixtures, limits of a step, and marked places. */
export class AroundView {
  readonly ground = new Group();
  readonly glyphs = new Group();
  readonly fixtures = new Group();
  readonly limits = new Group();
  readonly marks = new Group();
  readonly crosses = new Group();
  readonly sketch = new Group();

  constructor(private readonly shown: Shown) {}

  /** Places marked by small crosses, joined by a line; in the frame of the work zero, mm. */
  setMarks(places: readonly Readonly<Vec3>[]): void {
    const joined = places.slice(1).flatMap((place, k) => [...places[k]!, ...place]);
    this.cross(this.marks, places, joined);
  }

  /** Places at which something is wrong, marked by small crosses; in the frame of the work zero, mm. */
  setCrosses(places: readonly Readonly<Vec3>[]): void {
    this.cross(this.crosses, places, []);
  }

  /** How far the pattern is lifted out of what hides it, mm. */
  sketchLift = 0;

  /**
   * The pattern of a step that is not calculated: ends of lines, in the frame of the work zero, mm.
   *
   * @param isInside the steel is a block of which nothing was cut: the pattern is seen through it
   */
  setSketch(lines: Float32Array | undefined, isInside: boolean): void {
    clear(this.sketch);
    this.sketchLift = isInside ? 2 * this.shown.size : SKETCH_LIFT_MM;
    if (lines && lines.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(lines, 3));
      const material = new LineBasicMaterial({
        color: this.shown.palette.indigo,
        transparent: true,
        opacity: SKETCH_SEEN,
      });
      const segments = new LineSegments(geometry, material);
      segments.renderOrder = 4;
      this.sketch.add(segments);
    }
    this.shown.draw();
  }

  private cross(group: Group, places: readonly Readonly<Vec3>[], lines: readonly number[]): void {
    clear(group);
    const r = this.shown.size / 70;
    const points = [...lines];
    for (const [x, y, z] of places)
      points.push(x - r, y, z, x + r, y, z, x, y - r, z, x, y + r, z, x, y, z - r, x, y, z + r);
    if (points.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3));
      const material = new LineBasicMaterial({ color: this.shown.palette.sanguine, depthTest: false });
      const segments = new LineSegments(geometry, material);
      segments.renderOrder = 6;
      group.add(segments);
    }
    this.shown.draw();
  }

  /** What holds the block: nine numbers a triangle, in the frame of the work zero. */
  setFixtures(triangles: Float64Array): void {
    clear(this.fixtures);
    if (triangles.length > 0) {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(Float32Array.from(triangles), 3));
      geometry.computeVertexNormals();
      const material = studio({ colour: this.shown.palette.indigo });
      setSeen(material, 0.35);
      // jaws lie on the block's sides
      material.polygonOffsetFactor = -1;
      material.polygonOffsetUnits = -2;
      this.fixtures.add(new Mesh(geometry, material));
      this.fixtures.add(
        new LineSegments(new EdgesGeometry(geometry, 20), new LineBasicMaterial({ color: this.shown.palette.indigo })),
      );
    }
    this.shown.draw();
  }

  /** Where a step is held in plan, drawn at a height, and the heights between which it is held, around a block. */
  setLimits(
    lines: readonly LimitLine[],
    z: number,
    heights: readonly HeightGrip[],
    block: Box | undefined,
    heldKey?: string,
  ): void {
    clear(this.limits);
    for (const line of lines) this.limits.add(limitLine(line, z, this.shown.palette));
    if (block) for (const h of heights) this.limits.add(heightFrame(block, h, h.key === heldKey, this.shown.palette));
    this.shown.draw();
  }

  /** Block, as thin lines. */
  setBlock(box: Box | undefined, outline: readonly (readonly [number, number])[] = [], spindle = false): void {
    clear(this.glyphs);
    clear(this.ground);
    if (box) {
      const [x, y] = [(box.maxX - box.minX) / 2, (box.maxY - box.minY) / 2];
      const ground = shadowOf(x, y, SHADOW_REACH * 2 * Math.hypot(x, y), this.shown.palette.shadow);
      ground.position.set((box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2, box.minZ);
      this.ground.add(ground);
      const size = Math.max(8, (box.maxX - box.minX) / 12);
      this.glyphs.add(
        outline.length > 0
          ? prismLines(outline, box, this.shown.palette.pencil)
          : boxLines(box, this.shown.palette.pencil),
        zeroGlyph(size, this.shown.palette),
      );
      if (spindle) this.glyphs.add(spindleGlyph(box, size, this.shown.palette));
    }
    this.shown.draw();
  }
}
