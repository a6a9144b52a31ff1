/**
 * The highest steel around a place as it stands, for WebAssembly (AssemblyScript: every type is a machine type).
 * `stock/highest.ts` says what it means.
 */
import {
  cell,
  firstTileRow,
  floor,
  heights,
  nx,
  refresh,
  rowEnd,
  rowStart,
  stales,
  TILE,
  tilesX,
  tops,
  x0,
  y0,
} from './steel';

export function highest(x: f64, y: f64, radius: f64, known: f64, enough: f64): f64 {
  const reach = radius + cell * Math.SQRT1_2;
  const reach2 = reach * reach;
  const i0 = max(0, <i32>Math.floor((x - reach - x0) / cell));
  const i1 = min(nx - 1, <i32>Math.floor((x + reach - x0) / cell));
  const j0 = max(rowStart, <i32>Math.floor((y - reach - y0) / cell));
  const j1 = min(rowEnd - 1, <i32>Math.floor((y + reach - y0) / cell));
  let best = Math.max(known, floor);
  if (i0 > i1 || j0 > j1) return best > floor ? best : known;
  for (let tj = j0 / TILE; tj * TILE <= j1; tj++)
    for (let ti = i0 / TILE; ti * TILE <= i1; ti++) {
      const t = (tj - firstTileRow) * tilesX + ti;
      const top = tops + ((<usize>t) << 2);
      if (<f64>load<f32>(top) <= best) continue;
      if (load<u8>(stales + <usize>t) > 0) {
        refresh(t);
        if (<f64>load<f32>(top) <= best) continue;
      }
      const from = max(i0, ti * TILE);
      const to = min(i1, ti * TILE + TILE - 1);
      const last = min(j1, tj * TILE + TILE - 1);
      for (let j = max(j0, tj * TILE); j <= last; j++) {
        const dy = y0 + (<f64>j + 0.5) * cell - y;
        for (let i = from; i <= to; i++) {
          const h = <f64>load<f32>(heights + ((<usize>(j * nx + i)) << 2));
          if (h <= best) continue;
          const dx = x0 + (<f64>i + 0.5) * cell - x;
          if (dx * dx + dy * dy > reach2) continue;
          if (h > enough) return h;
          best = h;
        }
      }
    }
  return best > floor ? best : known;
}
