import { nearestOn, type Polyline, type Region, reversed } from '../geometry/polygon';

/** Places along a line at which it is asked whether it is wanted lie so many cutter radii apart, and at most so many mm. */
const LOOK_SHARE = 0.2;
export const LOOK_MM = 1;
/** Where a line is kept though it may be off, it is asked this often whether the axis may be there, mm. */
const GAP_LOOK_MM = 0.3;
/** Looks kept before and behind a wanted stretch, so that it begins and ends in air. */
const RUN_IN = 2;

/** A line to cut at a level. */
export interface Loop {
  points: Polyline;
  closed: boolean;
  /** It may be cut from either end. */
  either?: boolean;
  /** It only eases what comes after it: where there is no way to it, it is left without a word. */
  easing?: true;
}

/** A connected area at a level with the lines along its border, and the areas further away from the wall in it. */
export interface Nest {
  region: Region;
  loops: Loop[];
  inner: Nest[];
  /** Lines that come right before those along the border: they ease its corners. */
  relief?: Loop[];
  /** The lines are cut as they stand, one after another. */
  inOrder?: boolean;
  /** The lines along the border are cut before the areas inside. */
  borderFirst?: boolean;
}

/** How parts of a line are chosen, see {@link partsOf}. */
export interface PartsOptions {
  radius: number;
  gap: number;
  isFree: (x: number, y: number) => boolean;
  tolerance: number;
}

/**
 * The parts of a line whose points are wanted, begun and ended a little beyond; gaps of up to `gap` mm are kept. Where it is
 * not wanted a line may be off, so there it is kept only where the axis may be.
 *
 * @param radius of the cutter, mm
 * @param isFree whether the axis may be at a place
 * @param tolerance by which lines may be off where they are wanted, mm
 */
export function partsOf(
  loop: Loop,
  wanted: (x: number, y: number) => boolean,
  { radius, gap, isFree, tolerance }: PartsOptions,
): Loop[] {
  const look = Math.min(LOOK_MM, LOOK_SHARE * radius);
  const { points: dense, isCorner } = densified(loop, look);
  const n = isCorner.length;
  const marks = new Uint8Array(n);
  let marked = 0;
  for (let k = 0; k < n; k++) if (wanted(dense[2 * k]!, dense[2 * k + 1]!)) marked += marks[k] = 1;
  if (marked === 0) return [];
  if (marked === n) return [loop];
  const keep = bridged(marks, Math.ceil(gap / look), loop.closed);
  let kept = 0;
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    if ((marks[k] && marks[m]) || !keep[k] || !keep[m] || (m === 0 && !loop.closed)) continue;
    const ax = dense[2 * k]!;
    const ay = dense[2 * k + 1]!;
    const dx = dense[2 * m]! - ax;
    const dy = dense[2 * m + 1]! - ay;
    const length = Math.sqrt(dx * dx + dy * dy);
    const aside = tolerance / (length || 1);
    const pieces = Math.max(1, Math.ceil(length / GAP_LOOK_MM));
    for (let s = 0; s < pieces; s++) {
      const t = (s + 0.5) / pieces;
      const x = ax + t * dx;
      const y = ay + t * dy;
      if (isFree(x, y) || isFree(x - aside * dy, y + aside * dx) || isFree(x + aside * dy, y - aside * dx)) continue;
      keep[marks[k] ? m : k] = 0;
      break;
    }
  }
  for (let k = 0; k < n; k++) kept += keep[k]!;
  if (kept === n) return [loop];
  const loops: Loop[] = [];
  let line: number[] = [];
  const put = (): void => {
    const count = line.length;
    if (count < 2) return;
    // between its ends a part needs no points but the line's own
    const points: number[] = [];
    line.forEach((k, i) => {
      if (i === 0 || i === count - 1 || isCorner[k]) points.push(dense[2 * k]!, dense[2 * k + 1]!);
    });
    loops.push({ ...loop, points: Float64Array.from(points), closed: false });
  };
  const start = loop.closed ? keep.indexOf(0) : -1;
  for (let s = 1; s <= n; s++) {
    const k = (start + s + n) % n;
    if (keep[k]) line.push(k);
    else {
      put();
      line = [];
    }
  }
  put();
  return loops;
}

/** A line with places at most `step` mm apart, and which of them are its own points. */
function densified({ points: p, closed }: Loop, step: number): { points: Polyline; isCorner: Uint8Array } {
  const n = p.length / 2;
  const edges = closed ? n : n - 1;
  const pieces = new Uint32Array(n);
  let count = closed ? 0 : 1;
  for (let k = 0; k < edges; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    const dx = p[2 * m]! - p[2 * k]!;
    const dy = p[2 * m + 1]! - p[2 * k + 1]!;
    count += pieces[k] = Math.max(1, Math.ceil(Math.sqrt(dx * dx + dy * dy) / step));
  }
  const points = new Float64Array(2 * count);
  const isCorner = new Uint8Array(count);
  let o = 0;
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    const dx = p[2 * m]! - p[2 * k]!;
    const dy = p[2 * m + 1]! - p[2 * k + 1]!;
    isCorner[o] = 1;
    for (let s = 0; s < Math.max(1, pieces[k]!); s++, o++) {
      const t = s / pieces[k]! || 0;
      points[2 * o] = p[2 * k]! + t * dx;
      points[2 * o + 1] = p[2 * k + 1]! + t * dy;
    }
  }
  return { points, isCorner };
}

/** Marks with gaps of up to `gap` filled, and some more kept at either side of each stretch. */
function bridged(marks: Uint8Array, gap: number, closed: boolean): Uint8Array {
  const n = marks.length;
  const keep = marks.slice();
  const begin = closed ? marks.indexOf(1) : 0;
  let last = -1;
  for (let s = 0; s < n + (closed ? 1 : 0); s++) {
    const k = (begin + s) % n;
    if (!marks[k]) continue;
    if (last >= 0 && s - last - 1 <= gap) for (let g = last + 1; g < s; g++) keep[(begin + g) % n] = 1;
    last = s;
  }
  for (let k = 0; k < n; k++) {
    if (!marks[k]) continue;
    for (let by = 1; by <= RUN_IN; by++) {
      if (closed || k >= by) keep[(k + n - by) % n] = 1;
      if (closed || k + by < n) keep[(k + by) % n] = 1;
    }
  }
  return keep;
}

/** Points of a line from its start on, at most `step` mm apart. */
export function alongOf(line: Polyline, step: number): [number, number][] {
  const out: [number, number][] = [];
  for (let k = 0; k + 2 < line.length; k += 2) {
    const dx = line[k + 2]! - line[k]!;
    const dy = line[k + 3]! - line[k + 1]!;
    const n = Math.max(1, Math.ceil(Math.hypot(dx, dy) / step));
    for (let s = 0; s < n; s++) out.push([line[k]! + (dx * s) / n, line[k + 1]! + (dy * s) / n]);
  }
  return out;
}

/** A closed line as an open one that ends where it begins. */
export function closedUp(ring: Polyline): Polyline {
  return Float64Array.from([...ring, ring[0]!, ring[1]!]);
}

/** A line from its point k on: all round a closed one, an open one from the end that k is. */
export function startingAt(loop: Loop, k: number): Polyline {
  if (!loop.closed) return k === 0 ? loop.points : reversed(loop.points);
  const p = loop.points;
  const out = new Float64Array(p.length + 2);
  out.set(p.subarray(2 * k));
  out.set(p.subarray(0, 2 * k), p.length - 2 * k);
  out[p.length] = p[2 * k]!;
  out[p.length + 1] = p[2 * k + 1]!;
  return out;
}

/** A closed line beginning at its place nearest to (x, y); an open one from its start, or its nearer end when it may be. */
export function startingNear(loop: Loop, x: number, y: number): Polyline {
  if (!loop.closed) {
    const p = loop.points;
    const n = p.length;
    const isEndNearer = Math.hypot(p[n - 2]! - x, p[n - 1]! - y) < Math.hypot(p[0]! - x, p[1]! - y);
    return loop.either && isEndNearer ? reversed(p) : p;
  }
  const near = nearestOn(loop.points, x, y, true);
  const from = startingAt(loop, (near.piece + 1) % (loop.points.length / 2));
  const out = new Float64Array(from.length + 2);
  out[0] = near.x;
  out[1] = near.y;
  out.set(from.subarray(0, from.length - 2), 2);
  out[from.length] = near.x;
  out[from.length + 1] = near.y;
  return out;
}
