import { nearestOn, type Polyline, type Region, reversed } from '../../geometry/polygon';

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
  const n = dense.length / 2;
  const marks = Array.from({ length: n }, (_, k) => wanted(dense[2 * k]!, dense[2 * k + 1]!));
  const keep = bridged(marks, Math.ceil(gap / look), loop.closed);
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    if ((marks[k] && marks[m]) || !keep[k] || !keep[m] || (m === 0 && !loop.closed)) continue;
    const ax = dense[2 * k]!;
    const ay = dense[2 * k + 1]!;
    const bx = dense[2 * m]!;
    const by = dense[2 * m + 1]!;
    const length = Math.hypot(bx - ax, by - ay);
    const aside = tolerance / (length || 1);
    const pieces = Math.max(1, Math.ceil(length / GAP_LOOK_MM));
    const isFreeAt = (t: number): boolean =>
      [0, aside, -aside].some((off) =>
        isFree(ax + t * (bx - ax) - off * (by - ay), ay + t * (by - ay) + off * (bx - ax)),
      );
    for (let s = 0; s < pieces; s++)
      if (!isFreeAt((s + 0.5) / pieces)) {
        keep[marks[k] ? m : k] = false;
        break;
      }
  }
  if (keep.every((k) => k)) return [loop];
  const loops: Loop[] = [];
  const put = (places: number[]): void => {
    if (places.length < 2) return;
    // between its ends a part needs no points but the line's own
    const kept = places.filter((k, i) => i === 0 || i === places.length - 1 || isCorner[k]);
    const points = Float64Array.from(kept.flatMap((k) => [dense[2 * k]!, dense[2 * k + 1]!]));
    loops.push({ ...loop, points, closed: false });
  };
  const start = loop.closed ? keep.indexOf(false) : -1;
  let line: number[] = [];
  for (let s = 1; s <= n; s++) {
    const k = (start + s + n) % n;
    if (keep[k]) line.push(k);
    else {
      put(line);
      line = [];
    }
  }
  put(line);
  return loops;
}

function densified(loop: Loop, step: number): { points: Polyline; isCorner: boolean[] } {
  const out: number[] = [];
  const isCorner: boolean[] = [];
  const p = loop.points;
  const n = p.length / 2;
  for (let k = 0; k < (loop.closed ? n : n - 1); k++) {
    const m = (k + 1) % n;
    const dx = p[2 * m]! - p[2 * k]!;
    const dy = p[2 * m + 1]! - p[2 * k + 1]!;
    const pieces = Math.max(1, Math.ceil(Math.hypot(dx, dy) / step));
    for (let s = 0; s < pieces; s++) {
      out.push(p[2 * k]! + (dx * s) / pieces, p[2 * k + 1]! + (dy * s) / pieces);
      isCorner.push(s === 0);
    }
  }
  if (!loop.closed) {
    out.push(p[2 * n - 2]!, p[2 * n - 1]!);
    isCorner.push(true);
  }
  return { points: Float64Array.from(out), isCorner };
}

/** Marks with gaps of up to `gap` filled, and some more kept at either side of each stretch. */
function bridged(marks: boolean[], gap: number, closed: boolean): boolean[] {
  const n = marks.length;
  const keep = [...marks];
  const begin = closed ? marks.indexOf(true) : 0;
  if (begin < 0) return keep;
  let last = -1;
  for (let s = 0; s < n + (closed ? 1 : 0); s++) {
    const k = (begin + s) % n;
    if (!marks[k]) continue;
    if (last >= 0 && s - last - 1 <= gap) for (let g = last + 1; g < s; g++) keep[(begin + g) % n] = true;
    last = s;
  }
  for (let k = 0; k < n; k++) {
    if (!marks[k]) continue;
    for (let by = 1; by <= RUN_IN; by++) {
      if (closed || k >= by) keep[(k + n - by) % n] = true;
      if (closed || k + by < n) keep[(k + by) % n] = true;
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
