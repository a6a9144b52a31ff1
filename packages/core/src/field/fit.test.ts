import { describe, expect, it } from 'vitest';
import { crewHere, meshOf, squarePocket } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { type FitAsk, fitTask } from './fit';

/** 40 wide, 12 deep, its block 80 wide. */
const part = contactMesh(meshOf(squarePocket(40, 20, 12, -30)));
const fit = async (DC: number, RE: number, more: Partial<FitAsk> = {}) => {
  const ask: FitAsk = {
    part,
    slopes: [0, 90],
    lowest: -100,
    highest: 100,
    closed: [],
    bare: { minX: -39.9, minY: -39.9, maxX: 39.9, maxY: 39.9 },
    piece: roundProfile(DC, RE) as RoundPiece,
    shank: [],
    holder: [roundProfile(30, 0)],
    samples: 6000,
    counts: 0.02,
    ...more,
  };
  return (await crewHere().all(fitTask, [ask]))[0]!;
};

describe('how a cutter fits a part', () => {
  it('in upright corners a ball leaves (√2 - 1) R, in those of three walls (√3 - 1) R, and no more', async () => {
    for (const R of [2, 3, 5]) {
      const { thickest, narrow, stays, places } = await fit(2 * R, R);
      expect(narrow).toBe(0);
      expect(thickest).toBeLessThan((Math.sqrt(3) - 1) * R + 0.01);
      expect(thickest).toBeGreaterThan((Math.sqrt(2) - 1) * R);
      // along an edge of two walls √((R - t)² + R²) - R stays at t from it
      const wide = R - Math.sqrt((R + 0.02) ** 2 - R ** 2);
      const edges = 4 * 12 + 4 * 40;
      const area = 80 * 80 + 4 * 12 * 40;
      expect(stays / places).toBeGreaterThan((0.9 * 2 * wide * (edges - 8 * R)) / area);
      expect(stays / places).toBeLessThan((1.1 * 2 * wide * edges) / area);
    }
  });

  it('a cutter wider than the pocket finds it too narrow: floor and walls are all that it does not reach', async () => {
    const { narrow, stays, touched, places } = await fit(44, 22);
    expect((narrow + stays) / places).toBeCloseTo((40 * 40 + 4 * 12 * 40) / (80 * 80 + 4 * 12 * 40), 1);
    expect(touched / places).toBeCloseTo((80 * 80 - 40 * 40) / (80 * 80 + 4 * 12 * 40), 1);
  });

  it('a wide holder has to stay above the pocket, a narrow one only where the walls are near', async () => {
    expect((await fit(6, 3)).stickOut).toBeCloseTo(12, 2);
    // beside a wall the holder overhangs it by 4 mm; in the middle it goes in
    const slim = await fit(6, 3, { holder: [roundProfile(14, 0)] });
    expect(slim.stickOut).toBeCloseTo(12, 2);
    const inside = await fit(6, 3, { holder: [roundProfile(5, 0)] });
    expect(inside.stickOut).toBeLessThan(3);
  });

  it('level ground is touched by the middle of a ball, which rubs, and by the flat of a bull-nose, which does not', async () => {
    const ball = await fit(6, 3);
    // floor and walls are touched up to a radius from their corners
    const level = 80 ** 2 - 40 ** 2 + 34 ** 2;
    expect(ball.slow / ball.touched).toBeCloseTo(level / (level + 4 * 34 * 9), 2);
    expect((await fit(6, 1)).slow).toBe(0);
  });

  it('a shank thicker than the edges is told where it stands in a wall', async () => {
    const thick = [{ ...roundProfile(8, 0), z: 5 }];
    expect((await fit(6, 3, { shank: thick })).shankTouches).toBeGreaterThan(100);
    expect((await fit(6, 3, { shank: [{ ...roundProfile(5.8, 0), z: 5 }] })).shankTouches).toBe(0);
  });
});
