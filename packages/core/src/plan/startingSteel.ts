import { EsquisseError } from '../errors';
import type { Box } from '../geometry/box';
import { contactMesh } from '../geometry/contactMesh';
import { translateMesh, type TriangleMesh } from '../geometry/mesh';
import { bodyMap, cylinderMap, outlineMap } from '../stock/blank';
import { blockMap, type HeightMap } from '../stock/heightMap';
import type { Blank } from './job';

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
