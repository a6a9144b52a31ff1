import type { Polygon } from '../geometry/polygon';
import { allowedRoot } from './curveRoot';
import type { Cancel } from '../base/cancel';
import type { Matters } from './matters';
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
/** A point is taken where it is expected when the curve is this share of the tolerance from there. */
const EXPECTED_SHARE = 0.2;
/** The curve between two points lies within this share of their distance from one of them or from the middle between. */
const ROOM_SHARE = 0.3;

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
  const bulge = new Float64Array(n);
  const fair = fairChords(points, tolerance, bulge);
  const refiner = new Refiner(surface, z, tolerance, out);
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    out.push(points[2 * k]!, points[2 * k + 1]!);
    if ((k & 63) === 0) cancel?.check();
    if (fair[k]) continue;
    const ax = points[2 * k]!;
    const ay = points[2 * k + 1]!;
    const bx = points[2 * m]!;
    const by = points[2 * m + 1]!;
    const room = ROOM_SHARE * Math.hypot(bx - ax, by - ay);
    if (matters(ax, ay, room) || matters((ax + bx) / 2, (ay + by) / 2, room) || matters(bx, by, room))
      refiner.between(ax, ay, bx, by, bulge[k]!, 0);
  }
  return Float64Array.from(out);
}

/** A ring without points so near to the one before that their chord's direction is noise. */
function withoutNear(ring: Polygon): Polygon {
  const kept: number[] = [];
  for (let k = 0; k < ring.length; k += 2) {
    const last = kept.length - 2;
    const dx = ring[k]! - kept[last]!;
    const dy = ring[k + 1]! - kept[last + 1]!;
    if (last >= 0 && dx * dx + dy * dy < NEAREST_MM * NEAREST_MM) continue;
    kept.push(ring[k]!, ring[k + 1]!);
  }
  return Float64Array.from(kept);
}

/**
 * Chords that need no look: those at which the ring bends evenly, the same before as behind, and so little that the arc's
 * height L² κ / 8 is within tolerance. A corner or a notch shows as a bend that its neighbours do not have.
 *
 * @param bulge filled with how far to the right of each chord the middle of its arc stands, by the bends at its ends, mm
 */
function fairChords(ring: Polygon, tolerance: number, bulge: Float64Array): Uint8Array {
  const n = ring.length / 2;
  const length = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    const dx = ring[2 * m]! - ring[2 * k]!;
    const dy = ring[2 * m + 1]! - ring[2 * k + 1]!;
    length[k] = Math.sqrt(dx * dx + dy * dy);
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
    const L = length[k]!;
    const m = k + 1 < n ? k + 1 : 0;
    const before = bend[k > 0 ? k - 1 : n - 1]!;
    const from = bend[k]!;
    const to = bend[m]!;
    const behind = bend[m + 1 < n ? m + 1 : 0]!;
    bulge[k] = ((from + to) * L * L) / 16;
    const strongest = Math.max(Math.abs(from), Math.abs(to));
    const uneven = Math.max(Math.abs(from - before), Math.abs(to - from), Math.abs(behind - to));
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

  /** @param bulge how far to the right of the middle the curve is expected, mm; a hint */
  between(ax: number, ay: number, bx: number, by: number, bulge: number, depth: number): void {
    const { surface, z, tolerance } = this;
    const dx = bx - ax;
    const dy = by - ay;
    const length = Math.sqrt(dx * dx + dy * dy);
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
    const expected = this.asExpected(mx, my, nx, ny, bulge, inside);
    const far = expected ?? this.search(mx, my, nx, ny, f, off, sign, length);
    if (far === undefined) return;
    const px = mx + far * nx;
    const py = my + far * ny;
    // halves of an arc stand a quarter as high: where it is one they need no look either when that is little
    const isArc = expected !== undefined && Math.abs(far) < 4 * FAIR_SHARE * tolerance;
    if (!isArc) this.between(ax, ay, px, py, far / 4, depth + 1);
    this.out.push(px, py);
    if (!isArc) this.between(px, py, bx, by, far / 4, depth + 1);
  }

  /** Where the curve was expected and is, to a share of the tolerance, on its allowed side; undefined when it is not there. */
  private asExpected(
    mx: number,
    my: number,
    nx: number,
    ny: number,
    bulge: number,
    inside: boolean,
  ): number | undefined {
    if (bulge > 0 !== inside || Math.abs(bulge) <= this.tolerance) return undefined;
    const by = EXPECTED_SHARE * this.tolerance;
    const isThere = !this.forbids(mx, my, nx, ny, bulge + by) && this.forbids(mx, my, nx, ny, bulge - by);
    return isThere ? bulge + by : undefined;
  }

  private forbids(mx: number, my: number, nx: number, ny: number, far: number): boolean {
    return this.surface.forbids(mx + far * nx, my + far * ny, this.z);
  }

  /** How far to the right of the middle the curve runs, mm; undefined when that is within tolerance or nowhere. */
  private search(
    mx: number,
    my: number,
    nx: number,
    ny: number,
    f: number,
    off: number,
    sign: 1 | -1,
    length: number,
  ): number | undefined {
    const { surface, z, tolerance } = this;
    const inside = sign > 0;
    const near = EXPECTED_SHARE * tolerance;
    // a little to the allowed side of where the slope at the middle has the curve
    const guess = off * sign + (sign * near) / 2;
    let reach = guess > 0 && guess < length / 2 ? guess : tolerance;
    let ex = mx + sign * reach * nx;
    let ey = my + sign * reach * ny;
    let beyond = surface.at(ex, ey) - z;
    // on the allowed side and next to the curve: that is the point
    if (beyond <= 0 && beyond >= surface.drop.climb(nx, ny) * near) return sign * reach;
    if (beyond > 0 !== inside && reach <= tolerance) return undefined;
    while (beyond > 0 === inside) {
      if (reach >= length) return undefined;
      reach = Math.min(length, 2 * reach);
      ex = mx + sign * reach * nx;
      ey = my + sign * reach * ny;
      beyond = surface.at(ex, ey) - z;
    }
    const [zm, ze] = [f + z, beyond + z];
    const unknown = { ca: NaN, cb: NaN };
    return inside
      ? reach - allowedRoot(surface, z, { ax: ex, ay: ey, za: ze, bx: mx, by: my, zb: zm, ...unknown }).s
      : -allowedRoot(surface, z, { ax: mx, ay: my, za: zm, bx: ex, by: ey, zb: ze, ...unknown }).s;
  }
}
