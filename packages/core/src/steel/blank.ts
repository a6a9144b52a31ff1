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

/** Steel under a closed outline (X, Y of its corners) up to the box's top. */
export function outlineMap(box: Box, cell: number, points: readonly (readonly [number, number])[]): HeightMap {
  const map = blockMap(box, cell);
  const reach2 = (cell * Math.SQRT1_2) ** 2;
  return emptied(map, (x, y) => insideOutline(points, x, y) || nearOutline(points, x, y, reach2));
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

/** Whether (x, y) lies inside a closed outline, by the number of its sides that a ray crosses. */
export function insideOutline(points: readonly (readonly [number, number])[], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [ax, ay] = points[i]!;
    const [bx, by] = points[j]!;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

function nearOutline(points: readonly (readonly [number, number])[], x: number, y: number, reach2: number): boolean {
  for (let i = 0, j = points.length - 1; i < points.length; j = i++) {
    const [ax, ay] = points[j]!;
    const [bx, by] = points[i]!;
    const dx = bx - ax;
    const dy = by - ay;
    const l2 = dx * dx + dy * dy;
    const t = l2 > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / l2)) : 0;
    if ((x - ax - t * dx) ** 2 + (y - ay - t * dy) ** 2 <= reach2) return true;
  }
  return false;
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
