import type { Cancel } from '../base/cancel';
import { ClosestPoint } from '../geometry/closest';
import { ranked } from '../geometry/ranked';
import type { ContactMesh } from '../geometry/contactMesh';
import type { HeightMap } from './heightMap';

/** Steel thicker than this is given as this, mm: farther points are not searched for. */
export const THICKEST_MM = 12;

/**
 * Distance between steel and part along the part's normal, mm, for rows of the stock map: positive where steel is left,
 * negative where the part is gouged, NaN where no part lies below. The sign is that of the height difference, the size
 * that of the shortest way from the steel's surface to the part.
 *
 * @param before an earlier state and its field; cells that did not change since are copied
 */
export function leftoverRows(
  part: ContactMesh,
  partMap: HeightMap,
  stock: HeightMap,
  out: Float32Array,
  rows: readonly [number, number],
  before?: { heights: Float32Array; leftover: Float32Array },
  cancel?: Cancel,
): void {
  const closest = new ClosestPoint(part);
  for (let j = rows[0]; j < rows[1]; j++) {
    cancel?.check();
    const y = stock.y0 + (j + 0.5) * stock.cell;
    for (let i = 0; i < stock.nx; i++) {
      const o = j * stock.nx + i;
      const zs = stock.heights[o]!;
      if (before && before.heights[o] === zs) {
        out[o] = before.leftover[o]!;
        continue;
      }
      const zp = partMap.heights[o]!;
      if (zp === -Infinity) {
        out[o] = NaN;
        continue;
      }
      const x = stock.x0 + (i + 0.5) * stock.cell;
      const d = closest.distance(x, y, zs, Math.min(Math.abs(zs - zp), THICKEST_MM));
      out[o] = zs >= zp ? d : -d;
    }
  }
}

/** Figures of a field of leftovers, mm. `gouge` is the deepest place below the part (0 when there is none). */
export interface LeftoverFigures {
  p50: number;
  p90: number;
  p99: number;
  largest: number;
  gouge: number;
  /** How far the thickest and the thinnest tenth are apart: 0 where the skin is even. */
  spread: number;
}

export function leftoverFigures(field: Float32Array): LeftoverFigures {
  const [least, p10, p50, p90, p99, largest] = ranked(field, [0, 0.1, 0.5, 0.9, 0.99, 1]) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return { p50, p90, p99, largest: Math.max(0, largest), spread: p90 - p10, gouge: Math.max(0, -least) };
}
