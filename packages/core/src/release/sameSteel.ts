import type { HeightMap } from '../steel/heightMap';

/** Steel after the program may differ from the plan's by this, mm: rounding of words to 0.001 on slopes up to 80 degrees. */
export const SAME_STEEL_MM = 0.01;

/** A word rounded to 0.001 mm moves the path by so much at most along each of X and Y, so by √2 of it, mm. */
const SHIFT_MM = 0.0005 * Math.SQRT2;

/**
 * Largest difference of two states of the stock, mm, beyond the map's resolution: a height that lies between the planned
 * heights of the cell and its neighbours is one that a shift of less than a cell explains (at a wall, or at the rim of a
 * cut, a hair's shift moves a cell from floor to top). Nor counts what the rounding of words explains: on a slope it moves
 * the height by as much as the slope is steep, such as on a thin blade that is left between two cuts.
 */
export function worstDifference(a: HeightMap, b: HeightMap): { amount: number; x: number; y: number; z: number } {
  const worst = { amount: 0, x: 0, y: 0, z: 0 };
  for (let j = 0; j < a.ny; j++)
    for (let i = 0; i < a.nx; i++) {
      const o = j * a.nx + i;
      const h = b.heights[o]!;
      if (Math.abs(h - a.heights[o]!) <= worst.amount) continue;
      const [low, high] = rangeAround(a, i, j);
      const amount = Math.max(low - h, h - high) - (SHIFT_MM * (high - low)) / a.cell;
      if (amount > worst.amount)
        Object.assign(worst, {
          amount,
          x: a.x0 + (i + 0.5) * a.cell,
          y: a.y0 + (j + 0.5) * a.cell,
          z: a.heights[o]!,
        });
    }
  return worst;
}

/** Lowest and highest of a cell and its neighbours. */
function rangeAround(map: HeightMap, i: number, j: number): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (let v = Math.max(0, j - 1); v <= Math.min(map.ny - 1, j + 1); v++)
    for (let u = Math.max(0, i - 1); u <= Math.min(map.nx - 1, i + 1); u++) {
      const h = map.heights[v * map.nx + u]!;
      if (h < low) low = h;
      if (h > high) high = h;
    }
  return [low, high];
}
