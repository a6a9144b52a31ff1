import type { ContactMesh } from '../geometry/contactMesh';
import { cellsUnder } from '../geometry/planCells';
import type { HeightMap } from './heightMap';

/**
 * Writes the part's height under the middle of each cell into a map, -Infinity where there is no part: every triangle is laid
 * over the cells in its plan. Upright triangles have no plan; the facets beside them stand for them.
 */
export function partTops(part: ContactMesh, map: HeightMap): void {
  const { heights } = map;
  const { triangles: t, facets } = part;
  heights.fill(-Infinity);
  const stride = facets.length / Math.max(1, part.count);
  for (let k = 0; k < part.count; k++) {
    const a = facets[k * stride]!;
    if (a !== a) continue;
    const b = facets[k * stride + 1]!;
    const c = facets[k * stride + 2]!;
    const o = 9 * k;
    const highest = Math.max(t[o + 2]!, t[o + 5]!, t[o + 8]!);
    const lowest = Math.min(t[o + 2]!, t[o + 5]!, t[o + 8]!);
    cellsUnder(t[o]!, t[o + 1]!, t[o + 3]!, t[o + 4]!, t[o + 6]!, t[o + 7]!, map, (cell, x, y) => {
      const z = Math.min(highest, Math.max(lowest, a * x + b * y + c));
      if (z > heights[cell]!) heights[cell] = z;
    });
  }
}
