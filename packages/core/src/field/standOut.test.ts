import { describe, expect, it } from 'vitest';
import { crewHere, meshOf, squarePocket } from '../../test/shapes';
import { sharedFloat32 } from '../base/shared';
import { contactMesh } from '../geometry/contactMesh';
import { blockMap } from '../steel/heightMap';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { standOutTask } from './standOut';

describe('how far a cutter has to stand out over a part', () => {
  it.each([1, 3])('in a pocket as deep as it is, on top not at all; every %d. place is looked at', async (stride) => {
    const part = contactMesh(meshOf(squarePocket(40, 20, 12, -30)));
    const around = { minX: -40, minY: -40, minZ: -30, maxX: 40, maxY: 40, maxZ: 0 };
    const map = blockMap(around, 1);
    const out = sharedFloat32(map.heights.length);
    const spec = { mesh: part, piece: roundProfile(6, 3) as RoundPiece, side: 0, floor: 0 };
    const holder = [roundProfile(30, 0)];
    await crewHere().all(standOutTask, [{ spec, holder, map, stride, out, rows: [0, map.ny] as const }]);
    const at = (x: number, y: number): number =>
      out[Math.floor((y - map.y0) / map.cell) * map.nx + Math.floor((x - map.x0) / map.cell)]!;
    // near a wall the holder of Ø 30 stands over the block, in the middle it goes into the pocket of 40
    expect(at(14, 0)).toBeCloseTo(12, 4);
    expect(at(-14, 13)).toBeCloseTo(12, 4);
    expect(at(0, 0)).toBeCloseTo(0, 4);
    expect(at(30, 30)).toBeCloseTo(0, 4);
    expect(at(-30, 5)).toBeCloseTo(0, 4);
  });
});
