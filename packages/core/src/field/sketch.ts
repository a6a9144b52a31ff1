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
  { triangles: t, count }: ContactMesh,
  families: readonly PassPlanes[],
  isOpen: (x: number, y: number) => boolean,
): Sketch {
  const all = families.map((family) => ({ family, ...reachOf(t, count, family) }));
  const wanted = all.reduce((sum, { lines }) => sum + lines, 0);
  const every = Math.max(1, Math.ceil(wanted / MOST_LINES));
  const out: number[] = [];
  for (const { family, spans } of all)
    for (const [i, low, high] of spans)
      for (const d of planesBetween(family.at, low, high, every)) {
        const cut = cutBy(t, 9 * i, family.normal, d);
        const clipped = cut && withinHeights(cut, family.bottom ?? -Infinity, family.top ?? Infinity);
        if (clipped && isOpen((clipped[0] + clipped[3]) / 2, (clipped[1] + clipped[4]) / 2)) out.push(...clipped);
      }
  return { lines: Float32Array.from(out), every };
}

type Line = [number, number, number, number, number, number];

/** Triangles of the slopes that are wanted, each with how far it reaches along the normal; and how many lines there will be. */
function reachOf(t: Float64Array, count: number, { normal, at, slopesDeg = [0, 90] }: PassPlanes) {
  const spans: [number, number, number][] = [];
  let lines = 0;
  for (let i = 0; i < count; i++) {
    const slope = slopeOf(t, 9 * i);
    if (slope === undefined || slope < slopesDeg[0] - SLOPE_DEG || slope > slopesDeg[1] + SLOPE_DEG) continue;
    const [a, b, c] = [0, 3, 6].map((k) => along(t, 9 * i + k, normal)) as [number, number, number];
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)];
    spans.push([i, low, high]);
    lines += 'apart' in at ? (high - low) / at.apart : at.filter((d) => d > low && d < high).length;
  }
  return { spans, lines };
}

const along = (t: Float64Array, o: number, n: Readonly<Vec3>): number =>
  t[o]! * n[0] + t[o + 1]! * n[1] + t[o + 2]! * n[2];

/** Slope of a triangle, degrees; undefined where it looks down or has no area. */
function slopeOf(t: Float64Array, o: number): number | undefined {
  const [ux, uy, uz] = [t[o + 3]! - t[o]!, t[o + 4]! - t[o + 1]!, t[o + 5]! - t[o + 2]!];
  const [vx, vy, vz] = [t[o + 6]! - t[o]!, t[o + 7]! - t[o + 1]!, t[o + 8]! - t[o + 2]!];
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const l = Math.hypot(nx, ny, nz);
  return l > 0 && nz / l >= DOWN ? (Math.acos(Math.min(1, Math.max(0, nz / l))) * 180) / Math.PI : undefined;
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

/** The line in which a plane cuts a triangle. */
function cutBy(t: Float64Array, o: number, n: Readonly<Vec3>, d: number): Line | undefined {
  const ends: number[] = [];
  for (let c = 0; c < 3; c++) {
    const [p, q] = [o + 3 * c, o + 3 * ((c + 1) % 3)];
    const [a, b] = [along(t, p, n) - d, along(t, q, n) - d];
    if (a >= 0 === b >= 0) continue;
    const s = a / (a - b);
    for (let k = 0; k < 3; k++) ends.push(t[p + k]! + s * (t[q + k]! - t[p + k]!));
  }
  return ends.length === 6 ? (ends as Line) : undefined;
}

/** What of a line lies between two heights. */
function withinHeights(line: Line, bottom: number, top: number): Line | undefined {
  const [za, zb] = [line[2], line[5]];
  if (Math.max(za, zb) < bottom || Math.min(za, zb) > top) return undefined;
  const place = (z: number): number => (zb === za ? 0 : (z - za) / (zb - za));
  const [s, e] =
    za <= zb
      ? [place(Math.max(za, bottom)), place(Math.min(zb, top))]
      : [place(Math.min(za, top)), place(Math.max(zb, bottom))];
  const end = zb === za ? 1 : e;
  return [s, end].flatMap((f) => [0, 1, 2].map((k) => line[k]! + f * (line[3 + k]! - line[k]!))) as Line;
}
