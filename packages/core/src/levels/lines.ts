import { boundsOf, crossingsAt, type Polyline, type Region } from '../geometry/polygon';
import type { Loop, Nest } from './loop';

/** A stretch of a line inside a region: from `from` to `to` along the line, the lines counted from 0. */
interface Stretch {
  line: number;
  from: number;
  to: number;
}

/** Places of lines across a width from `low` to `high`, in their order, mm. */
export type LinePlaces = (low: number, high: number) => number[];

/** Lines at most so far apart, the outer ones half as far from the borders. */
export const evenly =
  (spacing: number): LinePlaces =>
  (low, high) => {
    const count = Math.max(1, Math.ceil((high - low) / spacing));
    return Array.from({ length: count }, (_, k) => low + ((k + 0.5) * (high - low)) / count);
  };

/**
 * As few lines as cover a width for a cutter that reaches so far to each side, at most so far apart: one where it covers all of it.
 *
 * @param beyond by how much the cutter passes the borders, mm
 */
export function covering(low: number, high: number, spacing: number, reach: number, beyond: number): number[] {
  const [first, last] = [low + reach - beyond, high - reach + beyond];
  if (first >= last) return [(low + high) / 2];
  const gaps = Math.max(1, Math.ceil((last - first) / spacing - 1e-9));
  return Array.from({ length: gaps + 1 }, (_, k) => first + (k * (last - first)) / gaps);
}

/**
 * Fills a region with parallel lines. Lines that can follow each other without crossing an island make one nest, cut in
 * order; in climb milling the steel lies on the right of the line, so the lines go on to that side.
 *
 * @param angle of the lines to X, rad
 * @param places where across them the lines lie
 * @param wanted the parts of a line that are worth cutting
 */
export function linesIn(
  region: Region,
  angle: number,
  places: LinePlaces,
  direction: 'climb' | 'conventional' | 'shortest',
  wanted: (loop: Loop) => Loop[],
): Nest[] {
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const turned = [region.outer, ...region.holes].map((ring) => rotated(ring, c, -s));
  const [, low, , high] = boundsOf(turned[0]!);
  const heights = places(low, high);
  const strips: Stretch[][] = [];
  let open: Stretch[][] = [];
  for (const [line, height] of heights.entries()) {
    const stretches = crossings(turned, height).map((s) => ({ line, ...s }));
    const next: Stretch[][] = [];
    for (const stretch of stretches) {
      const before = open.filter((strip) => meet(strip[strip.length - 1]!, stretch));
      const one = before.length === 1 ? before[0]! : undefined;
      const alone = one && stretches.filter((s) => meet(one[one.length - 1]!, s)).length === 1;
      const strip = alone ? one : [];
      if (!alone) strips.push(strip);
      strip.push(stretch);
      next.push(strip);
    }
    open = next;
  }
  // to the right of a line along +x lies -y: climb goes from the highest line down
  const downward = direction === 'climb';
  return strips.map((strip) => ({
    region,
    inner: [],
    inOrder: true,
    loops: (downward ? [...strip].reverse() : strip).flatMap(({ line, from, to }) => {
      const y = heights[line]!;
      const points = rotated(Float64Array.of(from, y, to, y), c, s);
      return wanted({ points, closed: false, either: direction === 'shortest' });
    }),
  }));
}

const meet = (a: Stretch, b: Stretch): boolean => a.from < b.to && b.from < a.to;

/** Where a level line at height y lies inside rings, by the crossing count. */
function crossings(rings: readonly Polyline[], y: number): { from: number; to: number }[] {
  const xs = crossingsAt(rings, y);
  const out: { from: number; to: number }[] = [];
  for (let k = 0; k + 1 < xs.length; k += 2) if (xs[k + 1]! > xs[k]!) out.push({ from: xs[k]!, to: xs[k + 1]! });
  return out;
}

function rotated(line: Polyline, c: number, s: number): Polyline {
  const out = new Float64Array(line.length);
  for (let k = 0; k < line.length; k += 2) {
    out[k] = c * line[k]! - s * line[k + 1]!;
    out[k + 1] = s * line[k]! + c * line[k + 1]!;
  }
  return out;
}
