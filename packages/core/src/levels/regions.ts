import {
  boundsOf,
  crossingsAt,
  nearestOn,
  type Polygon,
  type Region,
  regionContains,
  reversed,
} from '../geometry/polygon';
import type { Loop } from './loop';

/** Two points this close to a straight border of the plan lie on it, mm. */
export const ON_BORDER_MM = 1e-3;
/** Level lines on which a place inside an area is looked for, as shares of its depth; odd ones, to miss its points. */
const LOOKS = [0.4837, 0.2713, 0.7321, 0.1279, 0.8803, 0.6117];

/** Whether one region lies in another. Their borders may coincide, so a place well inside is asked. */
export function holds(region: Region, inner: Region): boolean {
  const [x, y] = insideOf(inner);
  return regionContains(region, x, y);
}

const known = new WeakMap<Region, readonly [number, number]>();

/** A place in a region, in the middle of the longest stretch of some level lines. */
export function insideOf(region: Region): readonly [number, number] {
  const before = known.get(region);
  if (before) return before;
  const [, low, , high] = boundsOf(region.outer);
  let best: readonly [number, number] = [region.outer[0]!, region.outer[1]!];
  const rings = [region.outer, ...region.holes];
  let longest = 0;
  for (const share of LOOKS) {
    const y = low + share * (high - low);
    const xs = crossingsAt(rings, y);
    for (let k = 0; k + 1 < xs.length; k += 2)
      if (xs[k + 1]! - xs[k]! > longest) {
        longest = xs[k + 1]! - xs[k]!;
        best = [(xs[k]! + xs[k + 1]!) / 2, y];
      }
  }
  known.set(region, best);
  return best;
}

/** The borders of a region without what lies on the border of the plan; wall on the right (climb, ISO 3002) or left. */
export function linesOf(region: Region, within: Polygon, direction: 'climb' | 'conventional' | 'shortest'): Loop[] {
  const loops: Loop[] = [];
  for (const ring of [region.outer, ...region.holes])
    for (const loop of withoutBorder(ring, within)) {
      const points = direction === 'conventional' ? reversed(loop.points) : loop.points;
      loops.push({ points, closed: loop.closed, either: direction === 'shortest' });
    }
  return loops;
}

function withoutBorder(ring: Polygon, within: Polygon): Loop[] {
  const n = ring.length / 2;
  const onBorder: boolean[] = [];
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    const mx = (ring[2 * k]! + ring[2 * m]!) / 2;
    const my = (ring[2 * k + 1]! + ring[2 * m + 1]!) / 2;
    onBorder.push(
      nearestOn(within, mx, my, true).distance < ON_BORDER_MM &&
        nearestOn(within, ring[2 * k]!, ring[2 * k + 1]!, true).distance < ON_BORDER_MM,
    );
  }
  if (!onBorder.some(Boolean)) return [{ points: ring, closed: true }];
  const loops: Loop[] = [];
  const start = onBorder.indexOf(true);
  let line: number[] = [];
  for (let s = 1; s <= n; s++) {
    const k = (start + s) % n;
    const m = (k + 1) % n;
    if (onBorder[k]) {
      if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
      line = [];
      continue;
    }
    if (line.length === 0) line.push(ring[2 * k]!, ring[2 * k + 1]!);
    line.push(ring[2 * m]!, ring[2 * m + 1]!);
  }
  if (line.length > 2) loops.push({ points: Float64Array.from(line), closed: false });
  return loops;
}
