import type { Cancel } from '../base/cancel';
import type { TipGrid, TipSurface } from './tipSurface';

/** A valley or crest between two nodes counts when it lies this far below or above both of them, mm. */
const LEAST_MM = 0.05;
/** It is found to this along the grid, mm, or to this in height, mm, in at most so many looks. */
const PLACE_MM = 0.02;
const HEIGHT_MM = 0.005;
const MOST_LOOKS = 8;
/** A flat is off a place when it is this far beside it, mm. */
const OFF_MM = 1e-4;
/** Numbers a fold: node, its shift along x and y, height, climbs along x and y, how far it stands out. */
const FOLD = 7;

/**
 * Valleys and crests of a tip surface that run between nodes of a grid, where both ends of an edge fall towards the other
 * or both rise: seen from the nodes alone, a passage hardly wider than the cutter would be closed. The nearer node of each
 * is to be moved on to it ({@link layFolds}).
 *
 * @param from first row, and `to` the row behind the last one whose edges are looked at
 * @returns {@link FOLD} numbers each
 */
export function findFolds(grid: TipGrid, surface: TipSurface, from: number, to: number, cancel?: Cancel): Float64Array {
  const { nx, ny } = grid;
  const found: number[] = [];
  for (let j = from; j < to; j++) {
    cancel?.check();
    for (let i = 0; i < nx; i++) {
      const o = j * nx + i;
      if (i + 1 < nx) alongEdge(grid, surface, o, 0, found);
      if (j + 1 < ny) alongEdge(grid, surface, o, 1, found);
    }
  }
  return Float64Array.from(found);
}

/** @param along 0: the edge goes along x, 1: along y */
function alongEdge(grid: TipGrid, surface: TipSurface, a: number, along: 0 | 1, found: number[]): void {
  const { x0, y0, step, nx, z, climbs } = grid;
  const b = along ? a + nx : a + 1;
  const ca = climbs[2 * a + along]!;
  const cb = climbs[2 * b + along]!;
  // 1: a valley, both fall towards it; -1: a crest
  const way = ca < 0 && cb > 0 ? 1 : ca > 0 && cb < 0 ? -1 : 0;
  if (way === 0) {
    betweenWalls(grid, surface, a, b, along, found);
    return;
  }
  const near = way * Math.min(way * z[a]!, way * z[b]!);
  let low = { s: 0, z: z[a]!, c: ca };
  let high = { s: step, z: z[b]!, c: cb };
  // nowhere between is it lower than where the tangents of its ends meet, were it one valley
  if (way * (near - meeting(low, high).z) < LEAST_MM) return;
  const ax = x0 + (a % nx) * step;
  const ay = y0 + Math.floor(a / nx) * step;
  let best = { s: 0, z: near };
  for (let k = 0; k < MOST_LOOKS && high.s - low.s > PLACE_MM; k++) {
    const met = meeting(low, high);
    const inside = met.s > low.s + PLACE_MM / 4 && met.s < high.s - PLACE_MM / 4;
    const s = inside ? met.s : (low.s + high.s) / 2;
    const at = { s, z: surface.at(along ? ax : ax + s, along ? ay + s : ay), c: 0 };
    at.c = surface.drop.climb(along ? 0 : 1, along ? 1 : 0);
    if (way * (at.z - best.z) < 0) best = at;
    if (way * (best.z - met.z) < HEIGHT_MM) break;
    if (way * at.c < 0) low = at;
    else high = at;
  }
  tell(grid, surface, a, b, along, best.s, way * (near - best.z), found);
}

/**
 * A passage between upright walls, where nothing slopes: a flat that stands on the wall beside it must move so far until it
 * is off that, and from there so far until it is off the next thing, and nowhere on the way does it come down.
 */
function betweenWalls(grid: TipGrid, surface: TipSurface, a: number, b: number, along: 0 | 1, found: number[]): void {
  const { x0, y0, step, nx, z, escapes } = grid;
  const fromA = escapes[4 * a + 2 * along]!;
  const fromB = escapes[4 * b + 2 * along + 1]!;
  if (!(fromA > 0 && fromB > 0 && fromA + fromB < step)) return;
  const near = Math.min(z[a]!, z[b]!);
  const ax = x0 + (a % nx) * step;
  const ay = y0 + Math.floor(a / nx) * step;
  let s = fromA + OFF_MM;
  for (let k = 0; k < MOST_LOOKS && s < step; k++) {
    const height = surface.at(along ? ax : ax + s, along ? ay + s : ay);
    if (near - height > LEAST_MM) {
      tell(grid, surface, a, b, along, s, near - height, found);
      return;
    }
    const on = surface.drop.escape(along ? 0 : 1, along ? 1 : 0);
    if (on === 0) return;
    s += on + OFF_MM;
  }
}

/** A fold `s` mm from a on the edge to b, that stands out by `deep`. */
function tell(
  { x0, y0, step, nx }: TipGrid,
  surface: TipSurface,
  a: number,
  b: number,
  along: 0 | 1,
  s: number,
  deep: number,
  found: number[],
): void {
  if (deep < LEAST_MM) return;
  const ax = x0 + (a % nx) * step;
  const ay = y0 + Math.floor(a / nx) * step;
  const toA = s <= step / 2;
  const shift = toA ? s : s - step;
  const height = surface.at(along ? ax : ax + s, along ? ay + s : ay);
  const { drop } = surface;
  found.push(toA ? a : b, along ? 0 : shift, along ? shift : 0, height, drop.climb(1, 0), drop.climb(0, 1), deep);
}

/** Where the tangents of two places meet, s mm along. */
function meeting(a: { s: number; z: number; c: number }, b: { s: number; z: number; c: number }) {
  const s = (b.z - a.z - b.c * b.s + a.c * a.s) / (a.c - b.c);
  return { s, z: a.z + a.c * (s - a.s) };
}

/** Moves nodes on to the folds that stand out most beside them. */
export function layFolds(grid: TipGrid, folds: readonly Float64Array[]): void {
  const most = new Map<number, number>();
  for (const list of folds)
    for (let k = 0; k < list.length; k += FOLD) {
      const o = list[k]!;
      const deep = list[k + 6]!;
      if (deep <= (most.get(o) ?? 0)) continue;
      most.set(o, deep);
      grid.shifts[2 * o] = list[k + 1]!;
      grid.shifts[2 * o + 1] = list[k + 2]!;
      grid.z[o] = list[k + 3]!;
      grid.climbs[2 * o] = list[k + 4]!;
      grid.climbs[2 * o + 1] = list[k + 5]!;
    }
}
