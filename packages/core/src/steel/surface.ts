import type { HeightMap } from './heightMap';

/**
 * The steel as a closed triangle soup (nine coordinates a triangle, mm): a terrace of `stride` x `stride` cells for each
 * height, with upright walls between them, sides and underside. Cells at the floor are open.
 */
export function steelSoup(map: HeightMap, stride = 1): number[] {
  const { nx, ny, cell, x0, y0, floor } = map;
  const columns = Math.ceil(nx / stride);
  const rows = Math.ceil(ny / stride);
  const soup: number[] = [];
  const top = (i: number, j: number): number => {
    if (i < 0 || j < 0 || i >= columns || j >= rows) return floor;
    let h = -Infinity;
    for (let v = j * stride; v < Math.min(ny, (j + 1) * stride); v++)
      for (let u = i * stride; u < Math.min(nx, (i + 1) * stride); u++) h = Math.max(h, map.heights[v * nx + u]!);
    return Math.max(floor, h);
  };
  const size = cell * stride;
  const quad = (a: number[], b: number[], c: number[], d: number[]): void => {
    soup.push(...a, ...b, ...c, ...a, ...c, ...d);
  };
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const h = top(i, j);
      if (h <= floor) continue;
      const [xa, xb, ya, yb] = [x0 + i * size, x0 + (i + 1) * size, y0 + j * size, y0 + (j + 1) * size];
      quad([xa, ya, h], [xb, ya, h], [xb, yb, h], [xa, yb, h]);
      quad([xa, ya, floor], [xa, yb, floor], [xb, yb, floor], [xb, ya, floor]);
      const west = top(i - 1, j);
      if (west < h) quad([xa, yb, west], [xa, ya, west], [xa, ya, h], [xa, yb, h]);
      const east = top(i + 1, j);
      if (east < h) quad([xb, ya, east], [xb, yb, east], [xb, yb, h], [xb, ya, h]);
      const south = top(i, j - 1);
      if (south < h) quad([xa, ya, south], [xb, ya, south], [xb, ya, h], [xa, ya, h]);
      const north = top(i, j + 1);
      if (north < h) quad([xb, yb, north], [xa, yb, north], [xa, yb, h], [xb, yb, h]);
    }
  return soup;
}
