import type { ContactMesh } from '../geometry/contactMesh';
import type { Vec3 } from '../geometry/vector';

/** Parallel planes in which passes lie, and the ground that they are for. */
export interface PassPlanes {
  /** Unit normal of the planes. */
  readonly normal: Readonly<Vec3>;
  /** Their distance, mm, or where each lies along the normal. */
  readonly at: { readonly apart: number } | readonly number[];
  /** Least and greatest slope of the ground, degrees. */
  readonly slopesDeg?: readonly [number, number];
  /** Lowest and highest place, mm; null: no limit. */
  readonly bottom?: number | null;
  readonly top?: number | null;
}

/** The pattern of a step as lines on the part. */
export interface Sketch {
  /** Ends of the lines, six numbers each, mm. */
  readonly lines: Float32Array;
  /** Every so manieth pass is drawn: all of them would not be told apart. */
  readonly every: number;
}

/** Lines that are drawn at most. */
const MOST_LINES = 30_000;
/** A triangle whose normal points down by more than this is not reached from above. */
const DOWN = -1e-6;
/** Slopes are kept in degrees to this. */
const SLOPE_DEG = 0.01;

/**
 * Where the planes of passes cut a part: how a pattern lies before its path is planned.
 *
 * @param isOpen whether the cutter may go to a place in plan
 */
export function sketchOf(
  part: ContactMesh,
  families: readonly PassPlanes[],
  isOpen: (x: number, y: number) => boolean,
): Sketch {
  const { triangles: t } = part;
  const slopes = slopesOf(part);
  const all = families.map((family) => ({ family, ...reachOf(part, slopes, family) }));
  const wanted = all.reduce((sum, { lines }) => sum + lines, 0);
  const every = Math.max(1, Math.ceil(wanted / MOST_LINES));
  const lines = new Float32Array(6 * Math.ceil(1.2 * MOST_LINES + families.length));
  let size = 0;
  const cut = new Float64Array(6);
  for (const { family, numbers, ends } of all) {
    const { normal, bottom, top } = family;
    const [lowest, highest] = [bottom ?? -Infinity, top ?? Infinity];
    for (let k = 0; k < numbers.length; k++)
      for (const d of planesBetween(family.at, ends[2 * k]!, ends[2 * k + 1]!, every)) {
        if (!cutBy(t, 9 * numbers[k]!, normal, d, cut) || !isWithinHeights(cut, lowest, highest)) continue;
        if (size + 6 > lines.length || !isOpen((cut[0]! + cut[3]!) / 2, (cut[1]! + cut[4]!) / 2)) continue;
        lines.set(cut, size);
        size += 6;
      }
  }
  return { lines: lines.slice(0, size), every };
}

const slopesKnown = new WeakMap<ContactMesh, Float32Array>();

/** Slopes of a part's triangles, degrees, NaN where one looks down or has no area: worked out once for a part. */
function slopesOf(part: ContactMesh): Float32Array {
  let slopes = slopesKnown.get(part);
  if (!slopes) {
    slopes = new Float32Array(part.count);
    for (let i = 0; i < part.count; i++) slopes[i] = slopeOf(part.triangles, 9 * i);
    slopesKnown.set(part, slopes);
  }
  return slopes;
}

/** Triangles of the slopes that are wanted, each with how far it reaches along the normal; and how many lines there will be. */
function reachOf(
  { triangles: t, count }: ContactMesh,
  slopes: Float32Array,
  { normal, at, slopesDeg = [0, 90] }: PassPlanes,
) {
  const numbers = new Uint32Array(count);
  const ends = new Float64Array(2 * count);
  const [from, to] = [slopesDeg[0] - SLOPE_DEG, slopesDeg[1] + SLOPE_DEG];
  const sorted = 'apart' in at ? undefined : [...at].sort((a, b) => a - b);
  let [lines, n] = [0, 0];
  for (let i = 0; i < count; i++) {
    const slope = slopes[i]!;
    if (!(slope >= from && slope <= to)) continue;
    const [a, b, c] = [along(t, 9 * i, normal), along(t, 9 * i + 3, normal), along(t, 9 * i + 6, normal)];
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)];
    const own = sorted ? placeIn(sorted, high) - placeIn(sorted, low) : (high - low) / (at as { apart: number }).apart;
    lines += own;
    if (sorted && own === 0) continue;
    numbers[n] = i;
    ends[2 * n] = low;
    ends[2 * n + 1] = high;
    n++;
  }
  return { numbers: numbers.subarray(0, n), ends, lines };
}

/** How many of some numbers in order lie below one. */
function placeIn(sorted: readonly number[], value: number): number {
  let [from, to] = [0, sorted.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (sorted[middle]! < value) from = middle + 1;
    else to = middle;
  }
  return from;
}

const along = (t: Float64Array, o: number, n: Readonly<Vec3>): number =>
  t[o]! * n[0] + t[o + 1]! * n[1] + t[o + 2]! * n[2];

/** Slope of a triangle, degrees; NaN where it looks down or has no area. */
function slopeOf(t: Float64Array, o: number): number {
  const [ux, uy, uz] = [t[o + 3]! - t[o]!, t[o + 4]! - t[o + 1]!, t[o + 5]! - t[o + 2]!];
  const [vx, vy, vz] = [t[o + 6]! - t[o]!, t[o + 7]! - t[o + 1]!, t[o + 8]! - t[o + 2]!];
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
  return l > 0 && nz / l >= DOWN ? (Math.acos(Math.min(1, Math.max(0, nz / l))) * 180) / Math.PI : NaN;
}

function* planesBetween(at: PassPlanes['at'], low: number, high: number, every: number): Generator<number> {
  if (!('apart' in at)) {
    for (let k = 0; k < at.length; k += every) if (at[k]! > low && at[k]! < high) yield at[k]!;
    return;
  }
  const step = at.apart * every;
  // half a step off: faces often lie where the first pass would
  for (let k = Math.ceil(low / step - 0.5); (k + 0.5) * step < high; k++) yield (k + 0.5) * step;
}

/** The line in which a plane cuts a triangle, if it does. */
function cutBy(t: Float64Array, o: number, n: Readonly<Vec3>, d: number, line: Float64Array): boolean {
  let found = 0;
  for (let c = 0; c < 3; c++) {
    const [p, q] = [o + 3 * c, o + 3 * ((c + 1) % 3)];
    const [a, b] = [along(t, p, n) - d, along(t, q, n) - d];
    if (a >= 0 === b >= 0) continue;
    const s = a / (a - b);
    for (let k = 0; k < 3; k++) line[found + k] = t[p + k]! + s * (t[q + k]! - t[p + k]!);
    found += 3;
  }
  return found === 6;
}

/** Cuts a line off at two heights; false when nothing of it lies between them. */
function isWithinHeights(line: Float64Array, bottom: number, top: number): boolean {
  const [za, zb] = [line[2]!, line[5]!];
  if (Math.max(za, zb) < bottom || Math.min(za, zb) > top) return false;
  if (Math.min(za, zb) >= bottom && Math.max(za, zb) <= top) return true;
  const place = (z: number): number => (Math.min(top, Math.max(bottom, z)) - za) / (zb - za);
  const [s, e] = [place(za), place(zb)];
  for (let k = 0; k < 3; k++) {
    const [a, b] = [line[k]!, line[3 + k]!];
    line[k] = a + s * (b - a);
    line[3 + k] = a + e * (b - a);
  }
  return true;
}
