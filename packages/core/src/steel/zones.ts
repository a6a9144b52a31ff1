import { Heap } from '../base/heap';
import type { HeightMap } from './heightMap';

/** Where steel is to be removed: over the part, beside it, out of what is open to a side, out of a closed hollow. */
export type ZoneKind = 'above' | 'around' | 'open' | 'pocket';

/** A zone of steel that is to be removed before the part is there, as it is seen from above; lengths in mm. */
export interface Zone {
  readonly kind: ZoneKind;
  readonly volume: number;
  /** In plan. */
  readonly area: number;
  /** Heights of the steel's highest place in it and of the deepest place of the part under it, from the work zero. */
  readonly top: number;
  readonly bottom: number;
  /** The middle of its deepest cell. */
  readonly x: number;
  readonly y: number;
}

/** Steel thinner than this over the part is none, mm: rounding of heights. */
const NOTHING_MM = 1e-3;
/** A hollow of fewer cells cannot be told from facets and cells themselves. */
const FEWEST_CELLS = 6;

/**
 * Zones of steel over a part. A hollow is closed where water would stand in it: it is filled up to its lowest rim. What runs off
 * lies open to a side; holes through the part are hollows down to its underside. Steel under the part, and beside it deeper than
 * that, is none to be removed.
 *
 * @param steel the steel before the first step
 * @param tops the part's height on the same cells, -Infinity where there is none
 * @param underside lowest height of the part
 * @returns the largest volume first
 */
export function zonesOf(steel: HeightMap, tops: HeightMap, underside: number): Zone[] {
  const { nx, ny, cell, x0, y0, floor } = steel;
  const cells = nx * ny;
  let highest = -Infinity;
  for (const h of tops.heights) if (h > highest) highest = h;
  if (highest === -Infinity) return [];
  const outside = outsideOf(tops);
  const bottom = Math.max(floor, underside);
  const part = Float64Array.from(tops.heights, (h) => (h > -Infinity ? h : bottom));
  const filled = flooded(part, outside, nx, ny);
  const zones: Zone[] = [];
  /** Collects cells into a zone: of each from its lower to its upper height, as far as there is steel. */
  const collect = (kind: ZoneKind, each: Iterable<number>, from: (o: number) => number, to: (o: number) => number) => {
    let [volume, count, top, low, deepest] = [0, 0, -Infinity, Infinity, -1];
    for (const o of each) {
      const [below, above] = [from(o), Math.min(to(o), steel.heights[o]!)];
      if (above - below <= NOTHING_MM) continue;
      volume += above - below;
      count++;
      if (above > top) top = above;
      if (below < low) [low, deepest] = [below, o];
    }
    if (count === 0) return;
    const [x, y] = [x0 + ((deepest % nx) + 0.5) * cell, y0 + (Math.floor(deepest / nx) + 0.5) * cell];
    zones.push({ kind, volume: volume * cell * cell, area: count * cell * cell, top, bottom: low, x, y });
  };
  const all = function* (wanted: (o: number) => boolean): Generator<number> {
    for (let o = 0; o < cells; o++) if (wanted(o)) yield o;
  };
  const ground = (o: number): number => part[o]!;
  collect(
    'above',
    all(() => true),
    () => highest,
    () => Infinity,
  );
  collect(
    'around',
    all((o) => outside[o] === 1),
    () => bottom,
    () => highest,
  );
  // a speck of a hollow is a facet's, and goes with what is open
  const small = new Uint8Array(cells);
  for (const hollow of groups((o) => outside[o] === 0 && filled[o]! - part[o]! > NOTHING_MM, nx, ny)) {
    if (hollow.length < FEWEST_CELLS) for (const o of hollow) small[o] = 1;
    else collect('pocket', hollow, ground, (o) => filled[o]!);
  }
  const rim = (o: number): number => (small[o] ? part[o]! : filled[o]!);
  for (const open of groups(
    (o) => outside[o] === 0 && Math.min(highest, steel.heights[o]!) - rim(o) > NOTHING_MM,
    nx,
    ny,
  ))
    collect('open', open, rim, () => highest);
  return zones.sort((a, b) => b.volume - a.volume);
}

/** Cells without part that are joined to the border of the map: beside the part, not in a hole through it. */
function outsideOf({ heights, nx, ny }: HeightMap): Uint8Array {
  const outside = new Uint8Array(nx * ny);
  const open: number[] = [];
  const look = (o: number): void => {
    if (outside[o] || heights[o]! > -Infinity) return;
    outside[o] = 1;
    open.push(o);
  };
  for (const o of borderOf(nx, ny)) look(o);
  while (open.length > 0) for (const next of neighbours(open.pop()!, nx, ny)) look(next);
  return outside;
}

/** Height up to which each place would fill with water that runs off over the border and beside the part. */
function flooded(part: Float64Array, outside: Uint8Array, nx: number, ny: number): Float64Array {
  const level = new Float64Array(nx * ny).fill(Infinity);
  const heap = new Heap(level);
  const reach = (o: number, height: number): void => {
    if (height >= level[o]!) return;
    level[o] = height;
    heap.push(o, height);
  };
  for (const o of borderOf(nx, ny)) reach(o, part[o]!);
  for (let o = 0; o < outside.length; o++) if (outside[o]) reach(o, -Infinity);
  for (let o = heap.pop(); o >= 0; o = heap.pop())
    for (const next of neighbours(o, nx, ny)) reach(next, Math.max(part[next]!, level[o]!));
  return level;
}

/** Cells that are wanted, in groups that hang together over their sides. */
function groups(wanted: (o: number) => boolean, nx: number, ny: number): number[][] {
  const seen = new Uint8Array(nx * ny);
  const out: number[][] = [];
  for (let first = 0; first < seen.length; first++) {
    if (seen[first] || !wanted(first)) continue;
    const group = [first];
    seen[first] = 1;
    for (let k = 0; k < group.length; k++)
      for (const next of neighbours(group[k]!, nx, ny)) {
        if (seen[next] || !wanted(next)) continue;
        seen[next] = 1;
        group.push(next);
      }
    out.push(group);
  }
  return out;
}

function borderOf(nx: number, ny: number): number[] {
  const out: number[] = [];
  for (let i = 0; i < nx; i++) out.push(i, (ny - 1) * nx + i);
  for (let j = 0; j < ny; j++) out.push(j * nx, j * nx + nx - 1);
  return out;
}

function neighbours(o: number, nx: number, ny: number): number[] {
  const i = o % nx;
  const out: number[] = [];
  if (i > 0) out.push(o - 1);
  if (i < nx - 1) out.push(o + 1);
  if (o >= nx) out.push(o - nx);
  if (o < nx * (ny - 1)) out.push(o + nx);
  return out;
}
