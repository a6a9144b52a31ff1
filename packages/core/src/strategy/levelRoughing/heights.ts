import { CutterDrop } from '../../cutter/drop';
import type { ContactMesh } from '../../geometry/contactMesh';
import type { TipGrid } from '../../region/tipSurface';

/** A level facet: its unit normal leans less than this from Z. */
const LEVEL_NZ = 1 - 1e-9;
/** Heights of flats this close are one flat, mm. */
const SAME_MM = 1e-3;
/** Levels stand this far above the exact flat, where the tip surface crosses cleanly, mm. */
const ABOVE_FLAT_MM = 1e-4;

/** Heights of the part's level faces, seen from above, of at least `smallest` mm², highest first, mm. */
export function flatsOf(part: ContactMesh, smallest: number): number[] {
  const area = new Map<number, number>();
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
    area.set(key, (area.get(key) ?? 0) + Math.abs(twice) / 2);
  }
  return [...area]
    .filter(([, a]) => a >= smallest)
    .map(([key]) => key * SAME_MM)
    .sort((a, b) => b - a);
}

/** Lowest height that the tip reaches over the part's plan, mm; Infinity when it reaches none. */
export function lowestTip(grid: TipGrid, box: ContactMesh['box']): number {
  let low = Infinity;
  for (let j = 0; j < grid.ny; j++) {
    const y = grid.y0 + j * grid.step;
    if (y < box.minY || y > box.maxY) continue;
    for (let i = 0; i < grid.nx; i++) {
      const x = grid.x0 + i * grid.step;
      const z = grid.z[j * grid.nx + i]!;
      if (z > -Infinity && z < low && x >= box.minX && x <= box.maxX) low = z;
    }
  }
  return low;
}

/**
 * Heights of the levels from the top down: equal steps of at most `ap` between the top, each flat in between (raised by
 * its allowance) and the bottom.
 */
export function levelHeights(top: number, bottom: number, ap: number, flats: readonly number[]): number[] {
  const stops = [...flats.filter((z) => z < top - SAME_MM && z > bottom + SAME_MM), bottom];
  const levels: number[] = [];
  let from = top;
  for (const stop of stops.sort((a, b) => b - a)) {
    if (from - stop < SAME_MM) continue;
    const n = Math.ceil((from - stop) / ap - 1e-9);
    for (let k = 1; k <= n; k++) levels.push(from - ((from - stop) * k) / n + ABOVE_FLAT_MM);
    from = stop;
  }
  return levels;
}
