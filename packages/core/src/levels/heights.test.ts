import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { each, highestOver, roughed } from '../../test/roughing';
import { sheet, squarePocket } from '../../test/shapes';
import { levelsOf, type FlatLevels } from './heights';

describe('heights of levels', () => {
  const flats = fc.array(fc.double({ min: -39, max: -1, noNaN: true }), { maxLength: 5 });
  const heights = (list: number[], ap: number, how: FlatLevels, first: number | null = null) =>
    levelsOf(
      0,
      -40,
      ap,
      list.map((z) => ({ z, flat: z - 0.3 })),
      how,
      first,
    );

  it('a first depth of its own is that of the first level, flats apart; all others keep to ap', () => {
    fc.assert(
      fc.property(
        flats,
        fc.double({ min: 0.3, max: 8, noNaN: true }),
        fc.double({ min: 0.2, max: 60, noNaN: true }),
        fc.constantFrom<FlatLevels>('even', 'added', 'over', 'none'),
        (list, ap, first, how) => {
          const levels = heights(list, ap, how, first);
          const skin = Math.max(-40, -first);
          const at = levels.findIndex(({ z }) => Math.abs(z - skin) < 2e-3);
          expect(at).toBeGreaterThanOrEqual(0);
          // above it nothing but flats
          for (const { z } of levels.slice(0, at))
            expect(Math.min(...list.map((f) => Math.abs(f - z)))).toBeLessThan(2e-3);
          for (const { z, above } of levels.slice(at + 1)) expect(above - z).toBeLessThanOrEqual(ap + 2e-3);
          expect(levels.at(-1)!.z).toBeCloseTo(-40, 3);
          for (let k = 1; k < levels.length; k++) expect(levels[k]!.z).toBeLessThan(levels[k - 1]!.z);
        },
      ),
    );
  });

  it('no level is deeper than ap below the one above it, and the last is at the bottom', () => {
    fc.assert(
      fc.property(
        flats,
        fc.double({ min: 0.3, max: 8, noNaN: true }),
        fc.constantFrom<FlatLevels>('even', 'added', 'over', 'none'),
        (list, ap, how) => {
          const levels = heights(list, ap, how);
          for (const { z, above } of levels) {
            expect(above - z).toBeLessThanOrEqual(ap + 2e-3);
            expect(above).toBeGreaterThan(z);
          }
          expect(levels[levels.length - 1]!.z).toBeCloseTo(-40, 3);
          for (let k = 1; k < levels.length; k++) expect(levels[k]!.z).toBeLessThan(levels[k - 1]!.z);
        },
      ),
    );
  });

  it('every flat gets a level, and a level over a flat alone moves no other', () => {
    fc.assert(
      fc.property(flats, fc.double({ min: 0.3, max: 8, noNaN: true }), (list, ap) => {
        for (const how of ['even', 'added', 'over'] as const)
          for (const flat of list)
            expect(Math.min(...heights(list, ap, how).map((l) => Math.abs(l.z - flat)))).toBeLessThan(3e-3);
        const plain = heights(list, ap, 'none').map((l) => l.z);
        const over = heights(list, ap, 'over').filter((l) => l.flat === undefined);
        expect(over.map((l) => l.z)).toEqual(plain);
      }),
    );
  });
});

describe('ground that falls off at the border of the block', () => {
  const none = { sideAllowance: 0, floorAllowance: 0, ap: 2, stairs: null, flats: 'none', ae: 5 };

  it.each([
    ['t1', 30],
    ['t1', 75],
    ['t2', 50],
    ['t3', 60],
  ])('%s reaches the foot of a slope of %d degrees from outside, and goes no deeper', async (assemblyId, deg) => {
    const rise = Math.tan((deg * Math.PI) / 180);
    const ridge = (x: number): number => -Math.abs(x) * rise;
    const half = 16 / rise;
    const result = await roughed(sheet([-half, -14, half, 14], half / 20, -30, ridge), assemblyId, none);
    expect(result.figures.findings).toEqual([]);
    // a stair of ap, the grid on which the border is met, and one cell on the slope
    const most = highestOver(result, (x, y) => (Math.abs(y) < 13 && Math.abs(x) < half - 0.1 ? ridge(x) : undefined));
    expect(most).toBeLessThan(2 + 0.5 * rise);
    each(result.path, (_x, _y, z) => expect(z).toBeGreaterThan(-16 - 0.01));
  });

  it('an upright side is not milled round: the lowest level is the floor of the pocket', async () => {
    const { path } = await roughed(squarePocket(30, 14, 6, -20), 't2', none, { above: 1 });
    each(path, (_x, _y, z) => expect(z).toBeGreaterThan(-6 - 1e-3));
  });
});
