import type { GridFrame, HeightMap } from '@esquisse/core';

/** Cells of the stock that are drawn at most: what software rendering still turns smoothly. */
const MOST_DRAWN = 80_000;

/** Steel ready to be drawn: heights over a coarser grid, and what a lens says there (NaN: nothing). */
export interface DrawnSteel extends GridFrame {
  floor: number;
  heights: Float32Array;
  field?: Float32Array;
}

export function strideFor(map: GridFrame): number {
  return Math.max(1, Math.ceil(Math.sqrt((map.nx * map.ny) / MOST_DRAWN)));
}

/** Every stride-th cell; of a field the value of largest size in the square, so that no gouge is passed over. */
export function drawn(map: HeightMap, field?: Float32Array): DrawnSteel {
  const stride = strideFor(map);
  const nx = Math.floor((map.nx - 1) / stride) + 1;
  const ny = Math.floor((map.ny - 1) / stride) + 1;
  const heights = new Float32Array(nx * ny);
  const values = field ? new Float32Array(nx * ny) : undefined;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      heights[j * nx + i] = map.heights[j * stride * map.nx + i * stride]!;
      if (values) values[j * nx + i] = strongest(map, field!, i * stride, j * stride, stride);
    }
  const shift = (0.5 - stride / 2) * map.cell;
  return {
    x0: map.x0 + shift,
    y0: map.y0 + shift,
    cell: map.cell * stride,
    nx,
    ny,
    floor: map.floor,
    heights,
    ...(values ? { field: values } : {}),
  };
}

function strongest(map: HeightMap, field: Float32Array, i0: number, j0: number, stride: number): number {
  const here = field[j0 * map.nx + i0]!;
  let lowest = here;
  for (let j = j0; j < Math.min(map.ny, j0 + stride); j++)
    for (let i = i0; i < Math.min(map.nx, i0 + stride); i++) {
      const v = field[j * map.nx + i]!;
      if (v < lowest) lowest = v;
    }
  return lowest < 0 ? lowest : here;
}

/** Counts of a field's values in equal bins from `low` to `high`; what lies outside counts in the end bins. */
export function histogram(field: Float32Array, low: number, high: number, bins: number): number[] {
  const counts = new Array<number>(bins).fill(0);
  for (const v of field) {
    if (Number.isNaN(v)) continue;
    const k = Math.floor(((v - low) / (high - low)) * bins);
    counts[Math.min(bins - 1, Math.max(0, k))]!++;
  }
  return counts;
}
