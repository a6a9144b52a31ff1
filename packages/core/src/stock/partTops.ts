import type { ContactMesh } from '../geometry/contactMesh';
import type { HeightMap } from './heightMap';

/** A cell's centre this far outside a triangle (share of its plan area) still lies in it: rounding at shared edges. */
const INSIDE = -1e-11;

/**
 * Writes the part's height under the middle of each cell into a map, -Infinity where there is no part: every triangle is laid
 * over the cells in its plan. Upright triangles have no plan; the facets beside them stand for them.
 */
export function partTops(part: ContactMesh, map: HeightMap): void {
  const { x0, y0, cell, nx, ny, heights } = map;
  const { triangles: t, facets } = part;
  heights.fill(-Infinity);
  const stride = facets.length / Math.max(1, part.count);
  for (let k = 0; k < part.count; k++) {
    const a = facets[k * stride]!;
    if (a !== a) continue;
    const b = facets[k * stride + 1]!;
    const c = facets[k * stride + 2]!;
    const o = 9 * k;
    const ax = t[o]!;
    const ay = t[o + 1]!;
    const bx = t[o + 3]!;
    const by = t[o + 4]!;
    const cx = t[o + 6]!;
    const cy = t[o + 7]!;
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const way = area < 0 ? -1 : 1;
    const slack = INSIDE * area * way;
    const i0 = Math.max(0, Math.ceil((Math.min(ax, bx, cx) - x0) / cell - 0.5 - 1e-9));
    const i1 = Math.min(nx - 1, Math.floor((Math.max(ax, bx, cx) - x0) / cell - 0.5 + 1e-9));
    const j0 = Math.max(0, Math.ceil((Math.min(ay, by, cy) - y0) / cell - 0.5 - 1e-9));
    const j1 = Math.min(ny - 1, Math.floor((Math.max(ay, by, cy) - y0) / cell - 0.5 + 1e-9));
    const highest = Math.max(t[o + 2]!, t[o + 5]!, t[o + 8]!);
    const lowest = Math.min(t[o + 2]!, t[o + 5]!, t[o + 8]!);
    for (let j = j0; j <= j1; j++) {
      const y = y0 + (j + 0.5) * cell;
      for (let i = i0; i <= i1; i++) {
        if (heights[j * nx + i]! >= highest) continue;
        const x = x0 + (i + 0.5) * cell;
        if (
          way * ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) < slack ||
          way * ((cx - bx) * (y - by) - (x - bx) * (cy - by)) < slack ||
          way * ((ax - cx) * (y - cy) - (x - cx) * (ay - cy)) < slack
        )
          continue;
        const z = Math.min(highest, Math.max(lowest, a * x + b * y + c));
        if (z > heights[j * nx + i]!) heights[j * nx + i] = z;
      }
    }
  }
}
