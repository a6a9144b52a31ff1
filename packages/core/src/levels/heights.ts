import { CutterDrop } from '../tool/drop';
import { heightAt, type ProfilePiece } from '../tool/profile';
import type { ContactMesh } from '../geometry/contactMesh';
import { boundsOf, contains } from '../geometry/polygon';
import { nodeX, nodeY, type TipGrid } from '../field/tipSurface';
import type { HeightMap } from '../steel/heightMap';

/** A level facet: its unit normal leans less than this from Z. */
const LEVEL_NZ = 1 - 1e-9;
/** Heights of flats this close are one flat, mm. */
const SAME_MM = 1e-3;
/** Levels stand this far above the exact flat, where the tip surface crosses cleanly, mm. */
export const ABOVE_FLAT_MM = 1e-4;

/** Heights of the part's level faces, seen from above, of at least `smallest` mm², highest first, mm. */
export function flatsOf(part: ContactMesh, smallest: number): number[] {
  const found = new Map<number, { z: number; area: number }>();
  const ray = new CutterDrop(part, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
  for (let i = 0; i < part.count; i++) {
    if (part.planes[4 * i + 2]! < LEVEL_NZ) continue;
    const t = part.triangles;
    const o = 9 * i;
    const x = (t[o]! + t[o + 3]! + t[o + 6]!) / 3;
    const y = (t[o + 1]! + t[o + 4]! + t[o + 7]!) / 3;
    if (ray.at(x, y) > t[o + 2]! + SAME_MM) continue;
    const twice = (t[o + 3]! - t[o]!) * (t[o + 7]! - t[o + 1]!) - (t[o + 6]! - t[o]!) * (t[o + 4]! - t[o + 1]!);
    const key = Math.round(t[o + 2]! / SAME_MM);
    const flat = found.get(key) ?? { z: t[o + 2]!, area: 0 };
    // a level is cut at the highest of what counts as one flat: nothing of it may be below the part
    found.set(key, { z: Math.max(flat.z, t[o + 2]!), area: flat.area + Math.abs(twice) / 2 });
  }
  return [...found.values()]
    .filter(({ area }) => area >= smallest)
    .map(({ z }) => z)
    .sort((a, b) => b - a);
}

/**
 * Lowest height to which any part of the cutter's end can take the steel over the part's plan, mm; Infinity when it fits
 * nowhere. The axis may stand outside the plan: ground that falls off towards its border is reached from there, by the
 * flat or by the corner, which rises to `heightAt` its distance.
 *
 * @param piece the cutter, grown by its allowance
 */
export function lowestTip(
  grid: TipGrid,
  box: ContactMesh['box'],
  piece: ProfilePiece,
  forbids: (x: number, y: number, z: number) => boolean,
): number {
  let low = Infinity;
  for (let j = 0; j < grid.ny; j++)
    for (let i = 0; i < grid.nx; i++) {
      const tip = grid.z[j * grid.nx + i]!;
      if (!(tip > -Infinity && tip < low)) continue;
      const x = nodeX(grid, i, j);
      const y = nodeY(grid, i, j);
      const outside = Math.hypot(Math.max(0, box.minX - x, x - box.maxX), Math.max(0, box.minY - y, y - box.maxY));
      const z = tip + heightAt(piece, outside);
      if (z < low && !forbids(x, y, tip)) low = z;
    }
  return low;
}

/** A height to be cleared. */
export interface Level {
  z: number;
  /** Height of the level above, or of the steel, mm. */
  above: number;
  /** The flat for whose sake the level is there, when only that is to be cleared: height of the flat itself, mm. */
  flat?: number;
  /** Where steel stands higher over a line, that is left, mm; a little above the level above when left out. */
  tallest?: number;
}

/**
 * How levels and flats go together: `even`, equal steps of at most `ap` between the top, each flat and the bottom;
 * `added`, steps of `ap` from the top with a whole level more at each flat, in order; `over`, the same but the level more is
 * cleared only over the flat itself, right after the level above it.
 */
export const FLAT_LEVELS = ['even', 'added', 'over', 'none'] as const;
export type FlatLevels = (typeof FLAT_LEVELS)[number];

/**
 * The levels from the top down. Heights of flats come raised by their allowance, with the flat's own height beside.
 *
 * @param first depth of the first level, mm; null: as the others
 */
export function levelsOf(
  top: number,
  bottom: number,
  ap: number,
  flats: readonly { z: number; flat: number }[],
  how: FlatLevels,
  first: number | null = null,
): Level[] {
  const between = flats.filter((f) => f.z < top - SAME_MM && f.z > bottom + SAME_MM).sort((a, b) => b.z - a.z);
  const skin = first === null ? top : Math.max(bottom, top - first);
  const flatStops = how === 'even' ? between.map((f) => f.z) : [];
  const stops = [...flatStops, skin, bottom].sort((a, b) => b - a);
  const levels: Level[] = [];
  let from = top;
  for (const stop of stops) {
    if (from - stop < SAME_MM) continue;
    const step = stop > skin - SAME_MM ? (first ?? ap) : ap;
    const n = Math.ceil((from - stop) / step - 1e-9);
    for (let k = 1; k <= n; k++) {
      const z = how === 'even' ? from - ((from - stop) * k) / n : Math.max(stop, from - step * k);
      levels.push({ z: z + ABOVE_FLAT_MM, above: levels[levels.length - 1]?.z ?? top });
    }
    from = stop;
  }
  if (how !== 'added' && how !== 'over') return levels;
  for (const { z, flat } of between) {
    const at = levels.findIndex((level) => level.z <= z + SAME_MM);
    const below = levels[at]!;
    if (Math.abs(below.z - z) <= 2 * SAME_MM) continue;
    const added = { z: z + ABOVE_FLAT_MM, above: below.above };
    levels.splice(at, 0, how === 'over' ? { ...added, flat } : added);
    if (how === 'added') below.above = added.z;
  }
  return levels;
}

/** Cells of a map whose middle lies over the part's level faces at height z. */
export function cellsOver(part: ContactMesh, z: number, map: HeightMap): Uint8Array {
  const { x0, y0, cell, nx, ny } = map;
  const out = new Uint8Array(nx * ny);
  const t = part.triangles;
  for (let i = 0; i < part.count; i++) {
    const o = 9 * i;
    if (part.planes[4 * i + 2]! < LEVEL_NZ || Math.abs(t[o + 2]! - z) > SAME_MM) continue;
    const ring = Float64Array.of(t[o]!, t[o + 1]!, t[o + 3]!, t[o + 4]!, t[o + 6]!, t[o + 7]!);
    const [minX, minY, maxX, maxY] = boundsOf(ring);
    const j1 = Math.min(ny - 1, Math.floor((maxY - y0) / cell));
    const i1 = Math.min(nx - 1, Math.floor((maxX - x0) / cell));
    for (let v = Math.max(0, Math.floor((minY - y0) / cell)); v <= j1; v++)
      for (let u = Math.max(0, Math.floor((minX - x0) / cell)); u <= i1; u++)
        if (contains(ring, x0 + (u + 0.5) * cell, y0 + (v + 0.5) * cell)) out[v * nx + u] = 1;
  }
  return out;
}
