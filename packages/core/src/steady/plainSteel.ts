import type { HeightMap } from '../steel/heightMap';
import { distanceTo, lineAt, type PlanGrid, valueAt } from './planGrid';

/** Steel lower than this above the level is not worth a pass, mm. */
const THIN_MM = 0.02;

/**
 * Signed distance of the steel that stands above a height: above 0 in it. Its border runs half way between cells that stand and
 * cells that do not. Farther than `most` mm it is not told.
 */
export function standingSteel(grid: PlanGrid, map: HeightMap, z: number, most: number): Float32Array {
  // one more cell all round, in which nothing stands
  const cells: PlanGrid = {
    x0: map.x0 - map.cell / 2,
    y0: map.y0 - map.cell / 2,
    step: map.cell,
    nx: map.nx + 2,
    ny: map.ny + 2,
  };
  const stands = new Float32Array(cells.nx * cells.ny).fill(-1);
  for (let j = 0; j < map.ny; j++)
    for (let i = 0; i < map.nx; i++)
      if (map.heights[j * map.nx + i]! > z + THIN_MM) stands[(j + 1) * cells.nx + i + 1] = 1;
  const out = distanceTo(grid, lineAt(cells, stands, 0), most);
  for (let j = 0; j < grid.ny; j++)
    for (let i = 0; i < grid.nx; i++) {
      const o = j * grid.nx + i;
      const isIn = valueAt(cells, stands, grid.x0 + i * grid.step, grid.y0 + j * grid.step, -1) > 0;
      if (!isIn) out[o] = -out[o]!;
    }
  return out;
}
