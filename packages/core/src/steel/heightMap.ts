import { EsquisseError } from '../base/errors';
import type { Box } from '../geometry/box';
import type { PlanCells } from '../geometry/planCells';
import { sharedFloat32 } from '../base/shared';

/** More cells than this are refused: 256 MB of heights. */
export const MOST_CELLS = 64_000_000;

/** Place and size of a height map. */
export type GridFrame = PlanCells;

/** Steel as heights over a grid; row j is `heights[j * nx ...]`. `floor` (mm) is the underside of the block: no steel there. */
export interface HeightMap extends GridFrame {
  floor: number;
  heights: Float32Array;
}

/** A grid of square cells over a box, which hang over its sides by less than half a cell, evenly. */
export function gridOver(box: Box, cell: number): GridFrame {
  const nx = Math.max(1, Math.ceil((box.maxX - box.minX) / cell - 1e-6));
  const ny = Math.max(1, Math.ceil((box.maxY - box.minY) / cell - 1e-6));
  if (!(nx * ny <= MOST_CELLS))
    throw new EsquisseError(
      'memory',
      `A block of ${nx} x ${ny} cells of ${cell} mm needs more memory than there is; choose a larger cell.`,
      'cell',
    );
  const overX = nx * cell - (box.maxX - box.minX);
  const overY = ny * cell - (box.maxY - box.minY);
  return { x0: box.minX - overX / 2, y0: box.minY - overY / 2, cell, nx, ny };
}

/** A full block: steel up to the box's top over its whole plan. */
export function blockMap(box: Box, cell: number): HeightMap {
  const frame = gridOver(box, cell);
  const heights = sharedFloat32(frame.nx * frame.ny).fill(box.maxZ);
  return { ...frame, floor: box.minZ, heights };
}

export function copyMap(map: HeightMap): HeightMap {
  const heights = sharedFloat32(map.heights.length);
  heights.set(map.heights);
  return { ...map, heights };
}

/** Volume of steel above the floor, mm³. */
export function volumeOfMap(map: HeightMap): number {
  let sum = 0;
  for (const h of map.heights) if (h > map.floor) sum += h - map.floor;
  return sum * map.cell * map.cell;
}

/** A window of a map on cells of another size, each as high as the map there; what reaches beyond the map is left off. */
export function finerWindow(
  map: HeightMap,
  window: Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>,
  cell: number,
  top: number,
): HeightMap {
  const { x0, y0, cell: coarse, nx, ny, floor, heights } = map;
  const fine = blockMap(
    {
      minX: Math.max(window.minX, x0),
      minY: Math.max(window.minY, y0),
      maxX: Math.min(window.maxX, x0 + nx * coarse),
      maxY: Math.min(window.maxY, y0 + ny * coarse),
      minZ: floor,
      maxZ: top,
    },
    cell,
  );
  for (let j = 0; j < fine.ny; j++) {
    const row = Math.min(ny - 1, Math.floor((fine.y0 + (j + 0.5) * cell - y0) / coarse));
    for (let i = 0; i < fine.nx; i++) {
      const column = Math.min(nx - 1, Math.floor((fine.x0 + (i + 0.5) * cell - x0) / coarse));
      fine.heights[j * fine.nx + i] = heights[row * nx + column]!;
    }
  }
  return fine;
}
