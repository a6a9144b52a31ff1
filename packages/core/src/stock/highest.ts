import { type Sweep, TILE } from './sweep';

/**
 * Highest steel above `known` within `radius` mm of (x, y), in a map that a sweep lowers, through the sweep's maxima of tiles;
 * `known` when none is higher there. Cells count that come within half their diagonal.
 *
 * @param enough any steel above this will do, mm
 */
export function highestWithin(
  sweep: Sweep,
  x: number,
  y: number,
  radius: number,
  known = -Infinity,
  enough = Infinity,
): number {
  const { x0, y0, cell, nx, ny, heights, floor } = sweep.map;
  const reach = radius + cell * Math.SQRT1_2;
  const reach2 = reach * reach;
  const i0 = Math.max(0, Math.floor((x - reach - x0) / cell));
  const i1 = Math.min(nx - 1, Math.floor((x + reach - x0) / cell));
  const j0 = Math.max(0, Math.floor((y - reach - y0) / cell));
  const j1 = Math.min(ny - 1, Math.floor((y + reach - y0) / cell));
  let best = Math.max(known, floor);
  for (let tj = Math.floor(j0 / TILE); tj * TILE <= j1; tj++)
    for (let ti = Math.floor(i0 / TILE); ti * TILE <= i1; ti++) {
      if (sweep.tileBound(ti, tj) <= best || sweep.tileTop(ti, tj) <= best) continue;
      const from = Math.max(i0, ti * TILE);
      const to = Math.min(i1, ti * TILE + TILE - 1);
      const last = Math.min(j1, tj * TILE + TILE - 1);
      for (let j = Math.max(j0, tj * TILE); j <= last; j++) {
        const dy = y0 + (j + 0.5) * cell - y;
        for (let i = from; i <= to; i++) {
          const h = heights[j * nx + i]!;
          if (h <= best) continue;
          const dx = x0 + (i + 0.5) * cell - x;
          if (dx * dx + dy * dy > reach2) continue;
          if (h > enough) return h;
          best = h;
        }
      }
    }
  return best > floor ? best : known;
}
