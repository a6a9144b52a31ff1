import { CutterDrop } from '../tool/drop';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Box } from '../geometry/box';
import { blockMap, type HeightMap } from './heightMap';
import { partTops } from './partTops';

/** A full cylinder of steel that fills the box's plan. */
export function cylinderMap(box: Box, cell: number): HeightMap {
  const map = blockMap(box, cell);
  const x = (box.minX + box.maxX) / 2;
  const y = (box.minY + box.maxY) / 2;
  const r = (box.maxX - box.minX) / 2;
  // a cell that the rim crosses holds steel: never told less than there is
  const reach = r + cell * Math.SQRT1_2;
  return emptied(map, (cx, cy) => (cx - x) ** 2 + (cy - y) ** 2 <= reach * reach);
}

/**
 * Steel under a closed outline (X, Y of its corners) up to the box's top: cells whose middle lies in it, and all that it
 * passes through. Takes time in proportion to the cells of the map and of the outline.
 */
export function outlineMap(box: Box, cell: number, points: readonly (readonly [number, number])[]): HeightMap {
  const map = blockMap(box, cell);
  const { x0, y0, nx, ny, heights, floor } = map;
  const holds = new Uint8Array(nx * ny);
  const crossings: number[][] = Array.from({ length: ny }, () => []);
  const column = (x: number): number => (x - x0) / cell - 0.5;
  const row = (y: number): number => (y - y0) / cell - 0.5;
  points.forEach((end, k) => {
    const [a, b] = [points[(k || points.length) - 1]!, end];
    const [low, high] = a[1] < b[1] ? [a, b] : [b, a];
    for (let j = Math.max(0, Math.ceil(row(low[1]))); j < Math.min(ny, row(high[1])); j++)
      crossings[j]!.push(low[0] + ((high[0] - low[0]) * (y0 + (j + 0.5) * cell - low[1])) / (high[1] - low[1]));
    markRim(map, holds, low, high);
  });
  crossings.forEach((xs, j) => {
    xs.sort((p, q) => p - q);
    for (let k = 0; k + 1 < xs.length; k += 2)
      for (let i = Math.max(0, Math.ceil(column(xs[k]!))); i < nx && i <= column(xs[k + 1]!); i++)
        holds[j * nx + i] = 1;
  });
  for (let o = 0; o < holds.length; o++) if (!holds[o]) heights[o] = floor;
  return map;
}

/** Marks the cells that a side of an outline may pass through: their middles lie within half a diagonal of it. */
function markRim(
  { x0, y0, cell, nx, ny }: HeightMap,
  holds: Uint8Array,
  low: readonly [number, number],
  high: readonly [number, number],
): void {
  const reach = cell * Math.SQRT1_2;
  const [dx, dy] = [high[0] - low[0], high[1] - low[1]];
  const l2 = dx * dx + dy * dy;
  const along = (y: number): number => (dy > 0 ? Math.max(0, Math.min(1, (y - low[1]) / dy)) : 0);
  const first = Math.max(0, Math.floor((low[1] - reach - y0) / cell));
  for (let j = first; j < ny; j++) {
    const y = y0 + (j + 0.5) * cell;
    if (y > high[1] + reach) break;
    // the stretch of the side that comes near this row, and its columns
    const [p, q] = [low[0] + dx * along(y - reach), low[0] + dx * (dy > 0 ? along(y + reach) : 1)];
    const from = Math.max(0, Math.floor((Math.min(p, q) - reach - x0) / cell));
    const to = Math.min(nx - 1, Math.floor((Math.max(p, q) + reach - x0) / cell));
    for (let i = from; i <= to; i++) {
      const x = x0 + (i + 0.5) * cell;
      const t = l2 > 0 ? Math.max(0, Math.min(1, ((x - low[0]) * dx + (y - low[1]) * dy) / l2)) : 0;
      if ((x - low[0] - t * dx) ** 2 + (y - low[1] - t * dy) ** 2 <= reach * reach) holds[j * nx + i] = 1;
    }
  }
}

/**
 * Steel that a body fills, all round larger by `allowance` mm: the height of the body grown by a ball.
 *
 * @param body its mesh in the frame of the map
 */
export function bodyMap(body: ContactMesh, box: Box, cell: number, allowance: number): HeightMap {
  const map = blockMap(box, cell);
  if (allowance === 0) partTops(body, map);
  else {
    const ball = new CutterDrop(body, { kind: 'round', z: 0, flat: 0, corner: allowance, radius: allowance });
    for (let j = 0; j < map.ny; j++)
      for (let i = 0; i < map.nx; i++)
        map.heights[j * map.nx + i] = ball.at(map.x0 + (i + 0.5) * cell, map.y0 + (j + 0.5) * cell) + allowance;
  }
  for (let k = 0; k < map.heights.length; k++) if (!(map.heights[k]! > map.floor)) map.heights[k] = map.floor;
  return map;
}

function emptied(map: HeightMap, holds: (x: number, y: number) => boolean): HeightMap {
  const { x0, y0, cell, nx, ny, heights, floor } = map;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) if (!holds(x0 + (i + 0.5) * cell, y0 + (j + 0.5) * cell)) heights[j * nx + i] = floor;
  return map;
}

/**
 * The largest height (mm) by which a part stands out of the steel, and where; undefined when it is nowhere more than
 * `tolerance`. A cell is compared with the highest steel around it, so that walls do not count.
 */
export function standsOut(
  tops: HeightMap,
  steel: HeightMap,
  tolerance: number,
): { amount: number; x: number; y: number } | undefined {
  let worst: { amount: number; x: number; y: number } | undefined;
  const { nx, ny, cell, x0, y0 } = steel;
  for (let j = 1; j < ny - 1; j++)
    for (let i = 1; i < nx - 1; i++) {
      const z = tops.heights[j * nx + i]!;
      if (!(z > steel.heights[j * nx + i]! + Math.max(tolerance, worst?.amount ?? 0))) continue;
      let high = -Infinity;
      for (let v = -1; v <= 1; v++)
        for (let u = -1; u <= 1; u++) high = Math.max(high, steel.heights[(j + v) * nx + i + u]!);
      if (z - high > (worst?.amount ?? tolerance))
        worst = { amount: z - high, x: x0 + (i + 0.5) * cell, y: y0 + (j + 0.5) * cell };
    }
  return worst;
}
