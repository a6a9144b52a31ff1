import { Clipper64, ClipType, FillRule, type Path64, type Paths64 } from 'clipper2-ts';
import { fromInteger, type Polygon, SCALE } from './polygon';

/** Directions that differ by less (sine) are one. */
const STRAIGHT = 1e-6;
/** Share of an edge that must be left between the joins at its ends for them to be made there. */
const LEFT = 1e-3;

/**
 * Polygons (outer borders counter-clockwise, holes clockwise) grown by `by` mm with round joins, shrunk when negative.
 *
 * Where two edges come to overlap they are joined where they cross, when both are long enough for it; a polygon out of many
 * short edges then hardly crosses itself, and what is left to the polygon library, the union of what does, is little.
 *
 * @param arc by which joins may leave their arc, mm
 */
export function offsetRings(polygons: readonly Polygon[], by: number, arc: number): Polygon[] {
  if (by === 0 || polygons.length === 0) return [...polygons];
  const raw = polygons.filter((p) => p.length >= 6).map((p) => rawOffset(p, by, arc));
  const clipper = new Clipper64();
  clipper.preserveCollinear = false;
  clipper.addSubject(raw);
  const solution: Paths64 = [];
  clipper.execute(ClipType.Union, FillRule.Positive, solution);
  return solution.map(fromInteger);
}

/** The edges of a polygon moved to their right by `by`, with what joins them; it may cross itself. */
function rawOffset(polygon: Polygon, by: number, arc: number): Path64 {
  const p = withoutDoubles(polygon);
  const n = p.length / 2;
  const ux = new Float64Array(n);
  const uy = new Float64Array(n);
  const length = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    const dx = p[2 * m]! - p[2 * k]!;
    const dy = p[2 * m + 1]! - p[2 * k + 1]!;
    const d = Math.sqrt(dx * dx + dy * dy);
    length[k] = d;
    ux[k] = dx / d;
    uy[k] = dy / d;
  }
  const turns = new Float64Array(n);
  // how much of its edges each inward corner takes: the distance times the tangent of half the turn
  const taken = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const b = k > 0 ? k - 1 : n - 1;
    const turn = ux[b]! * uy[k]! - uy[b]! * ux[k]!;
    const cos = ux[b]! * ux[k]! + uy[b]! * uy[k]!;
    const isBack = Math.abs(turn) < STRAIGHT && cos < 0;
    turns[k] = isBack ? (pointsInward(p, k, ux[b]!, uy[b]!) ? -STRAIGHT : STRAIGHT) : turn;
    if (turns[k]! * by < 0) taken[k] = isBack ? Infinity : (Math.abs(by) * Math.abs(turn)) / (1 + cos);
  }
  const fits = (k: number): boolean => {
    const m = k + 1 < n ? k + 1 : 0;
    return taken[k]! + taken[m]! < (1 - LEFT) * length[k]!;
  };
  const step = 2 * Math.acos(Math.max(0, 1 - arc / Math.abs(by)));
  const out: Path64 = [];
  const put = (k: number, dx: number, dy: number): void => {
    out.push({ x: Math.round((p[2 * k]! + dx) * SCALE), y: Math.round((p[2 * k + 1]! + dy) * SCALE) });
  };
  for (let k = 0; k < n; k++) {
    const b = k > 0 ? k - 1 : n - 1;
    // to the right of the edge before and of the one behind
    const ax = by * uy[b]!;
    const ay = -by * ux[b]!;
    const cx = by * uy[k]!;
    const cy = -by * ux[k]!;
    const turn = turns[k]!;
    const cos = ux[b]! * ux[k]! + uy[b]! * uy[k]!;
    if (Math.abs(turn) < STRAIGHT && cos > 0) put(k, cx, cy);
    else if (turn * by < 0) {
      if (fits(b) && fits(k)) put(k, (ax + cx) / (1 + cos), (ay + cy) / (1 + cos));
      else {
        put(k, ax, ay);
        put(k, 0, 0);
        put(k, cx, cy);
      }
    } else {
      const angle = Math.atan2(turn, cos);
      const pieces = Math.max(1, Math.ceil(Math.abs(angle) / step));
      put(k, ax, ay);
      for (let s = 1; s < pieces; s++) {
        const c = Math.cos((angle * s) / pieces);
        const d = Math.sin((angle * s) / pieces);
        put(k, ax * c - ay * d, ax * d + ay * c);
      }
      put(k, cx, cy);
    }
  }
  return out;
}

/** Whether the way out and back over point `k`, along a direction, is a slit in the area rather than a hair that stands out of it. */
function pointsInward(p: Float64Array, k: number, ux: number, uy: number): boolean {
  // a hair beyond its tip
  const x = p[2 * k]! + ux / SCALE;
  const y = p[2 * k + 1]! + uy / SCALE;
  let isInside = false;
  let area = 0;
  for (let i = 0, j = p.length - 2; i < p.length; j = i, i += 2) {
    const [ax, ay, bx, by] = [p[j]!, p[j + 1]!, p[i]!, p[i + 1]!];
    area += ax * by - bx * ay;
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) isInside = !isInside;
  }
  return isInside === area > 0;
}

/** A polygon without points that round to the one before. */
function withoutDoubles(polygon: Polygon): Float64Array {
  const out: number[] = [];
  const isNew = (x: number, y: number, at: number): boolean =>
    Math.abs(x - out[at]!) * SCALE >= 1 || Math.abs(y - out[at + 1]!) * SCALE >= 1;
  for (let k = 0; k < polygon.length; k += 2) {
    const x = polygon[k]!;
    const y = polygon[k + 1]!;
    if (out.length === 0 || isNew(x, y, out.length - 2)) out.push(x, y);
  }
  while (out.length > 2 && !isNew(out[0]!, out[1]!, out.length - 2)) out.length -= 2;
  return Float64Array.from(out);
}
