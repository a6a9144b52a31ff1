import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blockMap, copyMap } from '../steel/heightMap';
import { worstDifference } from './sameSteel';

/** A floor at -10 with a wall up to 0 at x = 0. */
function stair(shift = 0) {
  const map = blockMap({ minX: -5, minY: -5, minZ: -20, maxX: 5, maxY: 5, maxZ: 0 }, 0.5);
  for (let o = 0; o < map.heights.length; o++)
    map.heights[o] = map.x0 + ((o % map.nx) + 0.5) * map.cell < shift ? -10 : 0;
  return map;
}

describe('difference of two states of the steel', () => {
  it('is none between equal ones, nor where a wall lies off by less than a cell', () => {
    expect(worstDifference(stair(), stair()).amount).toBe(0);
    expect(worstDifference(stair(), stair(0.4)).amount).toBe(0);
    expect(worstDifference(stair(), stair(1.2)).amount).toBe(10);
  });

  it('on a blade between two cuts is what the rounding of words does not explain', () => {
    const blade = (height: number) => {
      const map = stair(99);
      for (let j = 0; j < map.ny; j++) map.heights[j * map.nx + 9] = height;
      return map;
    };
    // 7 mm high over cells of 0.5 mm: a shift of 0.0007 mm moves its edge by 0.01 mm
    expect(worstDifference(blade(-3), blade(-2.991)).amount).toBe(0);
    expect(worstDifference(blade(-3), blade(-2.97)).amount).toBeGreaterThan(0.015);
  });

  it('is that of the cell that differs most, above or below, with its place', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 17 }),
        fc.integer({ min: 2, max: 17 }),
        fc.double({ min: 0.02, max: 3, noNaN: true }),
        fc.boolean(),
        (i, j, by, up) => {
          const planned = stair();
          const found = copyMap(planned);
          const inner = i < 9 ? i - 2 : i + 2; // off the wall
          const o = j * planned.nx + Math.max(0, Math.min(planned.nx - 1, inner));
          found.heights[o]! += up ? by : -by;
          const one = o === 0 ? 1 : o - 1;
          found.heights[one]! += by / 2;
          const { amount, x, y, z } = worstDifference(planned, found);
          expect(amount).toBeCloseTo(by, 5);
          expect(x).toBeCloseTo(planned.x0 + ((o % planned.nx) + 0.5) * planned.cell, 9);
          expect(y).toBeCloseTo(planned.y0 + (Math.floor(o / planned.nx) + 0.5) * planned.cell, 9);
          expect(z).toBe(planned.heights[o]);
        },
      ),
    );
  });
});
