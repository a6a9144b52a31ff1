import { EsquisseError } from '../base/errors';
import type { Box } from '../geometry/box';
import { contactMesh } from '../geometry/contactMesh';
import { translateMesh, type TriangleMesh } from '../geometry/mesh';
import { bodyMap, cylinderMap, outlineMap } from '../steel/blank';
import { blockMap, type HeightMap } from '../steel/heightMap';
import type { Blank, Drilled } from '../job/job';

/** Takes holes drilled before, in the map's frame, out of the steel; a cell goes when its middle lies in the hole. */
export function drill(map: HeightMap, holes: readonly Drilled[]): void {
  const { x0, y0, cell, nx, ny, floor, heights } = map;
  for (const { x, y, diameter, bottom } of holes) {
    const r = diameter / 2;
    const z = Math.max(floor, bottom);
    const j1 = Math.min(ny - 1, Math.floor((y + r - y0) / cell));
    for (let j = Math.max(0, Math.floor((y - r - y0) / cell)); j <= j1; j++) {
      const half2 = r * r - (y0 + (j + 0.5) * cell - y) ** 2;
      if (half2 < 0) continue;
      const half = Math.sqrt(half2) / cell;
      const middle = (x - x0) / cell - 0.5;
      const i1 = Math.min(nx - 1, Math.floor(middle + half));
      for (let i = Math.max(0, Math.ceil(middle - half)); i <= i1; i++) {
        const o = j * nx + i;
        if (heights[o]! > z) heights[o] = z;
      }
    }
  }
}

/**
 * The steel that the work begins with, in the frame of the work zero.
 *
 * @param block box of the blank in that frame
 * @param zero the work zero in the laid frame, where outline and body are given
 * @throws EsquisseError `job-invalid` when the body that is to be the blank is not there
 */
export function startingSteel(
  blank: Blank,
  block: Box,
  cell: number,
  [x, y, z]: readonly [number, number, number],
  body: TriangleMesh | undefined,
): HeightMap {
  switch (blank.kind) {
    case 'offset':
    case 'fixed':
      return blockMap(block, cell);
    case 'cylinder':
      return cylinderMap(block, cell);
    case 'outline':
      return outlineMap(
        block,
        cell,
        blank.points.map(([px, py]) => [px - x, py - y]),
      );
    case 'body':
      if (!body)
        throw new EsquisseError(
          'job-invalid',
          'The body that is to be the blank is not there; bring in its file.',
          'blank',
        );
      return bodyMap(contactMesh(translateMesh(body, -x, -y, -z)), block, cell, blank.allowance);
  }
}
