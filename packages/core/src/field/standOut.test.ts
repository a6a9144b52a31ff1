import { describe, expect, it } from 'vitest';
import { crewHere, meshOf, sheet, squarePocket } from '../../test/shapes';
import { sharedFloat32 } from '../base/shared';
import { contactMesh } from '../geometry/contactMesh';
import { blockMap } from '../steel/heightMap';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { ProfileDrop } from '../tool/drop';
import { standOutTask } from './standOut';
import { TipSurface } from './tipSurface';

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

  it('each cell has what holds at the middle of the cell that stands for it, in its own rows alone; where no part is, nothing', async () => {
    const part = contactMesh(
      meshOf(sheet([-9, -6, 12, 7], 0.5, -20, (x, y) => -8 + 4 * Math.sin(x / 3) + 3 * Math.cos(y / 2))),
    );
    const map = blockMap({ minX: -19.3, minY: -14.1, minZ: -20, maxX: 21.3, maxY: 15.4, maxZ: 0 }, 0.7);
    const spec = { mesh: part, piece: roundProfile(4, 2) as RoundPiece, side: 0.1, floor: 0.2 };
    const holder = [roundProfile(14, 0)];
    const [tips, drop] = [new TipSurface(spec), new ProfileDrop(part, holder)];
    for (const [stride, rows] of [
      [1, [0, map.ny]],
      [3, [6, 25]],
      [4, [0, map.ny]],
    ] as const) {
      const out = sharedFloat32(map.heights.length).fill(-1);
      await crewHere().all(standOutTask, [{ spec, holder, map, stride, out, rows }]);
      let [worst, none, deep] = [0, 0, 0];
      for (let j = 0; j < map.ny; j++)
        for (let i = 0; i < map.nx; i++) {
          const value = out[j * map.nx + i]!;
          const isOwn = j >= rows[0] && j < rows[1];
          const [u, v] = [i - (i % stride), rows[0] + Math.floor((j - rows[0]) / stride) * stride];
          const [x, y] = [map.x0 + (u + 0.5) * map.cell, map.y0 + (v + 0.5) * map.cell];
          const tip = isOwn ? tips.at(x, y) : 0;
          const wanted = !isOwn ? -1 : tip === -Infinity ? NaN : Math.max(0, drop.at(x, y) - tip);
          if (Number.isNaN(wanted)) none++;
          else if (isOwn && wanted > 1) deep++;
          worst = Math.max(
            worst,
            Number.isNaN(wanted) === Number.isNaN(value) ? Math.abs((wanted || 0) - (value || 0)) : 1,
          );
        }
      expect(worst).toBeLessThan(1e-4);
      expect(none).toBeGreaterThan(100);
      expect(deep).toBeGreaterThan(30);
    }
  });
});
