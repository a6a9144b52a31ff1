import type { Polygon } from '../geometry/polygon';
import { allowedRoot, ROOT_MM } from './curveRoot';
import type { Cancel, Matters } from './levelCurves';
import type { TipSurface } from './tipSurface';

/** Chords shorter than this are not divided further, mm. */
const SHORTEST_MM = 0.02;
const DEEPEST = 7;
/** Points of a ring nearer than this to the one before are left out, mm. */
const NEAREST_MM = 0.06;
/**
 * Height of an arc above its chord that needs no look, as a share of the tolerance, and how much the bend may change along
 * such a chord, rad a mm of tolerance.
 */
const FAIR_SHARE = 0.62;
const UNEVEN = 2.5;

/**
 * A ring with points put between its own wherever the curve leaves their chord.
 *
 * @param tolerance by which it may leave a chord to either side, mm
 */
export function refineRing(
  ring: Polygon,
  surface: TipSurface,
  z: number,
  matters: Matters,
  tolerance: number,
  cancel?: Cancel,
): Polygon {
  const out: number[] = [];
  const points = withoutNear(ring);
  const n = points.length / 2;
  const fair = fairChords(points, tolerance);
  const refiner = new Refiner(surface, z, tolerance, out);
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    out.push(points[2 * k]!, points[2 * k + 1]!);
    if ((k & 63) === 0) cancel?.check();
    if (fair[k]) continue;
    const [ax, ay, bx, by] = [points[2 * k]!, points[2 * k + 1]!, points[2 * m]!, points[2 * m + 1]!];
    if (matters((ax + bx) / 2, (ay + by) / 2)) refiner.between(ax, ay, bx, by, 0);
  }
  return Float64Array.from(out);
}

/** A ring without points so near to the one before that their chord's direction is noise. */
function withoutNear(ring: Polygon): Polygon {
  const kept: number[] = [];
  for (let k = 0; k < ring.length; k += 2) {
    const last = kept.length - 2;
    if (last >= 0 && Math.hypot(ring[k]! - kept[last]!, ring[k + 1]! - kept[last + 1]!) < NEAREST_MM) continue;
    kept.push(ring[k]!, ring[k + 1]!);
  }
  return Float64Array.from(kept);
}

/**
 * Chords that need no look: those at which the ring bends evenly, the same before as behind, and so little that the arc's
 * height L² κ / 8 is within tolerance. A corner or a notch shows as a bend that its neighbours do not have.
 */
function fairChords(ring: Polygon, tolerance: number): Uint8Array {
  const n = ring.length / 2;
  const length = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    length[k] = Math.hypot(ring[2 * m]! - ring[2 * k]!, ring[2 * m + 1]! - ring[2 * k + 1]!);
  }
  const bend = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const b = k > 0 ? k - 1 : n - 1;
    const m = k + 1 < n ? k + 1 : 0;
    const px = ring[2 * k]! - ring[2 * b]!;
    const py = ring[2 * k + 1]! - ring[2 * b + 1]!;
    const qx = ring[2 * m]! - ring[2 * k]!;
    const qy = ring[2 * m + 1]! - ring[2 * k + 1]!;
    bend[k] = (2 * Math.atan2(px * qy - py * qx, px * qx + py * qy)) / (length[b]! + length[k]!);
  }
  const fair = new Uint8Array(n);
  for (let k = 0; k < n; k++) {
    const at = (by: number): number => bend[(k + by + n) % n]!;
    const L = length[k]!;
    const strongest = Math.max(Math.abs(at(0)), Math.abs(at(1)));
    const uneven = Math.max(Math.abs(at(0) - at(-1)), Math.abs(at(1) - at(0)), Math.abs(at(2) - at(1)));
    fair[k] = strongest * L * L < 8 * FAIR_SHARE * tolerance && uneven * L < UNEVEN * tolerance ? 1 : 0;
  }
  return fair;
}

/** Puts points between two of a curve where it leaves their chord. */
class Refiner {
  /** @param tolerance by which it may leave the chord to either side, mm */
  constructor(
    private readonly surface: TipSurface,
    private readonly z: number,
    private readonly tolerance: number,
    private readonly out: number[],
  ) {}

  between(ax: number, ay: number, bx: number, by: number, depth: number): void {
    const { surface, z, tolerance } = this;
    const dx = bx - ax;
    const dy = by - ay;
    const length = Math.hypot(dx, dy);
    if (length < SHORTEST_MM || depth >= DEEPEST) return;
    const mx = 0.5 * (ax + bx);
    const my = 0.5 * (ay + by);
    // to the right of the chord, where the curve's allowed side is
    const nx = dy / length;
    const ny = -dx / length;
    const f = surface.at(mx, my) - z;
    const off = -f / surface.drop.climb(nx, ny);
    // the slope at the middle tells how far the curve is; where it tells nothing, a look on the other side does
    if (Math.abs(off) <= tolerance) return;
    const inside = f > 0;
    const sign = inside ? 1 : -1;
    let reach = off * sign > 0 && off * sign < length / 2 ? off * sign + ROOT_MM / 2 : tolerance;
    let ex = mx + sign * reach * nx;
    let ey = my + sign * reach * ny;
    let beyond = surface.at(ex, ey) - z;
    let px = ex;
    let py = ey;
    // on the allowed side and next to the curve: that is the point
    if (!(inside && beyond <= 0 && beyond >= surface.drop.climb(nx, ny) * 2 * ROOT_MM)) {
      if (beyond > 0 !== inside && reach <= tolerance) return;
      while (beyond > 0 === inside) {
        if (reach >= length) return;
        reach = Math.min(length, 2 * reach);
        ex = mx + sign * reach * nx;
        ey = my + sign * reach * ny;
        beyond = surface.at(ex, ey) - z;
      }
      const root = inside
        ? allowedRoot(surface, z, ex, ey, beyond + z, mx, my, f + z)
        : allowedRoot(surface, z, mx, my, f + z, ex, ey, beyond + z);
      [px, py] = root.at;
    }
    this.between(ax, ay, px, py, depth + 1);
    this.out.push(px, py);
    this.between(px, py, bx, by, depth + 1);
  }
}
