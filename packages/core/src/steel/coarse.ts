import { sharedFloat32 } from '../base/shared';
import type { HeightMap } from './heightMap';

/** A map of larger cells, each as high as the highest cell in it: never lower than the steel. */
export function coarseMap(map: HeightMap, factor: number): HeightMap {
  const nx = Math.ceil(map.nx / factor);
  const ny = Math.ceil(map.ny / factor);
  const heights = sharedFloat32(nx * ny).fill(-Infinity);
  for (let j = 0; j < map.ny; j++)
    for (let i = 0; i < map.nx; i++) {
      const o = Math.floor(j / factor) * nx + Math.floor(i / factor);
      const h = map.heights[j * map.nx + i]!;
      if (h > heights[o]!) heights[o] = h;
    }
  return { x0: map.x0, y0: map.y0, cell: map.cell * factor, nx, ny, floor: map.floor, heights };
}
