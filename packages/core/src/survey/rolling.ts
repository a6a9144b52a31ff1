import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import { cross, dot, minus, unit, type Vec3 } from '../geometry/vector';

/** Radii above this count as roomy, mm. */
export const ROOMY_MM = 16;
/** A ball may sink this deep into the mesh: chords of a hollow lie inside it by up to the mesh's own deviation, mm. */
const SINK_MM = 0.02;
/** Where the depth to which a ball may sink is less than this share of how high the obstacle stands, it does not matter. */
const WELL_TOLD = 0.025;
/** Two walls face each other when their normals are this opposite: cosine. */
const OPPOSITE = -0.95;
const MOST_ROLLS = 12;
/** A wall across a gap is within this of the far side of the ball between, mm. */
const ACROSS_MM = 0.1;

/** Balls that touch the surface at a point from outside, shrunk until nothing is in their way. */
export class Rolling {
  private readonly nearest: ClosestPoint;
  /** Whether the last ball was stopped by a wall that faces the point's own. */
  opposite = false;
  private perRadius = 0;

  constructor(private readonly contact: ContactMesh) {
    this.nearest = new ClosestPoint(contact);
  }

  /**
   * Radius (mm) of the largest ball, at most {@link ROOMY_MM}, that touches at `p` with normal `n`.
   *
   * @param guess a radius near the answer: begun with a little more, and more again while that fits
   * @param turn how much the facets around the point turn, radians: a ball that touches between two of them sinks into
   * both, by r (1 - cos turn / 2)
   */
  at(p: Vec3, n: Vec3, guess: number, turn = 0): number {
    this.opposite = false;
    this.perRadius = 1 - Math.cos(turn / 2);
    let r = Math.min(ROOMY_MM, guess * 1.25 + 0.1);
    let k = 0;
    while (r < ROOMY_MM && !this.inTheWay(p, n, r)) r = Math.min(ROOMY_MM, 2 * r);
    for (; k < MOST_ROLLS; k++) {
      if (!this.inTheWay(p, n, r)) break;
      const { x, y, z } = this.nearest;
      const dx = x - p[0];
      const dy = y - p[1];
      const dz = z - p[2];
      const up = dx * n[0] + dy * n[1] + dz * n[2];
      const sink = this.sinkOf(r);
      if (!(up > sink)) break;
      // a low obstacle holds the ball that sinks as deep as it may, or a hair in the mesh would halve the radius
      const share = sink / up;
      const low = Math.min(1, Math.max(0, share / WELL_TOLD - 1));
      const next = (dx * dx + dy * dy + dz * dz) / (2 * up * (1 - low * share));
      if (!(next < r)) break;
      r = next;
    }
    // something stands right across when it is where the ball is farthest from the place
    const across = 2 * r;
    this.opposite =
      r < ROOMY_MM &&
      this.nearest.distance(p[0] + n[0] * across, p[1] + n[1] * across, p[2] + n[2] * across, ACROSS_MM) < ACROSS_MM &&
      this.facing(this.nearest.last, n) < OPPOSITE;
    return r;
  }

  /** Cosine between the outward normal of a triangle and `n`. */
  private facing(triangle: number, n: Vec3): number {
    const t = this.contact.triangles;
    const corner = (k: number): Vec3 => [
      t[9 * triangle + 3 * k]!,
      t[9 * triangle + 3 * k + 1]!,
      t[9 * triangle + 3 * k + 2]!,
    ];
    const a = corner(0);
    return dot(unit(cross(minus(corner(1), a), minus(corner(2), a))), n);
  }

  /** How deep a ball may sink into the mesh at the place looked at, mm. */
  private sinkOf(r: number): number {
    return Math.max(SINK_MM, r * this.perRadius);
  }

  private inTheWay(p: Vec3, n: Vec3, r: number): boolean {
    const free = r - this.sinkOf(r);
    return free > 0 && this.nearest.distance(p[0] + n[0] * r, p[1] + n[1] * r, p[2] + n[2] * r, free) < free;
  }
}
