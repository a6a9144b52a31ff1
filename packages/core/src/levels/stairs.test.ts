import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { highestOver, roughed } from '../../test/roughing';
import { sheet } from '../../test/shapes';
import { betweenLevels, stairRun } from './stairs';

describe('stairs between levels', () => {
  it('heights in between rise, and no stair above the limit is left undivided', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 10, noNaN: true }),
        fc.double({ min: 0.2, max: 5, noNaN: true }),
        (height, limit) => {
          const between = betweenLevels(-7 - height, -7, limit);
          const all = [-7 - height, ...between.map((b) => b.z), -7];
          for (let k = 1; k < all.length; k++) {
            expect(all[k]!).toBeGreaterThan(all[k - 1]!);
            expect(all[k]! - all[k - 1]!).toBeLessThanOrEqual(limit + 1e-9);
          }
          // what a height divides is twice as high as what it leaves on either side when it is cut alone
          for (const { z, stair } of between) {
            const low = (z - (-7 - height)) / stair;
            expect(Math.abs(low - Math.round(low))).toBeCloseTo(0.5, 6);
          }
        },
      ),
    );
  });

  it('on a slope the stair is h cos(slope) thick', () => {
    for (const slope of [10, 30, 60, 85]) {
      const rad = (slope * Math.PI) / 180;
      expect(stairRun(2, 2 * Math.cos(rad))).toBeCloseTo(2 / Math.tan(rad), 9);
    }
  });

  it.each([25, 50, 70])(
    'a slope of %d degrees keeps stairs of h cos(slope), or the limit where that is less',
    async (deg) => {
      const rise = Math.tan((deg * Math.PI) / 180);
      // a ridge along Y whose flanks fall off to a level
      const ridge = (x: number): number => Math.max(-8, -Math.abs(x) * rise);
      const soup = sheet([-30, -12, 30, 12], 0.5, -20, ridge);
      const flank = (x: number, y: number): number | undefined =>
        Math.abs(y) < 8 && ridge(x) > -7.5 && ridge(x) < -0.5 ? ridge(x) : undefined;
      const cos = Math.cos((deg * Math.PI) / 180);
      // bull-nose corners make the stair smaller than that of a sharp one by at most their cusp
      const thickness = async (stairs: number | null): Promise<number> => {
        const values = { sideAllowance: 0, floorAllowance: 0, ap: 2, flats: 'none', stairs };
        const result = await roughed(soup, 't4', values);
        expect(result.figures.leftOut).toEqual([]);
        return highestOver(result, flank) * cos;
      };
      const cell = 0.2 * Math.sin((deg * Math.PI) / 180);
      const plain = await thickness(null);
      expect(plain).toBeLessThan(2 * cos + cell);
      expect(plain).toBeGreaterThan(2 * cos - 2 * cell - 0.1);
      const limited = await thickness(0.6);
      expect(limited).toBeLessThan(0.6 + cell);
      expect(limited).toBeLessThanOrEqual(plain + 1e-3);
    },
  );
});
