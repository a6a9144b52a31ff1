import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blockMap } from './heightMap';
import { restRegion } from './restRegion';

const CELL = 0.1;
const map = blockMap({ minX: 0, minY: 0, minZ: -10, maxX: 20, maxY: 12, maxZ: 0 }, CELL);

/** Leftover over the plan as a function of the place, mm. */
function field(left: (x: number, y: number) => number): Float32Array {
  return Float32Array.from(map.heights, (_, o) =>
    left(((o % map.nx) + 0.5) * CELL, (Math.floor(o / map.nx) + 0.5) * CELL),
  );
}
const cells = (kept: Float32Array): number => kept.filter((h) => h > -Infinity).length * CELL * CELL;

describe('where steel is thick enough to be cut again', () => {
  it('the threshold counts above the allowance: on a wedge the region begins at their sum, volume by the integral', () => {
    const wedge = field((x) => x / 10);
    const range = (max: number) => fc.double({ min: 0.03, max, noNaN: true });
    fc.assert(
      fc.property(range(0.6), range(0.8), (allowance, threshold) => {
        const from = 10 * (allowance + threshold);
        const { area, volume } = restRegion(map, wedge, allowance, threshold, 0, 0);
        expect(Math.abs(area - 12 * (20 - from))).toBeLessThan(12 * CELL * 1.01);
        const integral = 12 * ((20 ** 2 - from ** 2) / 20 - allowance * (20 - from));
        expect(Math.abs(volume - integral)).toBeLessThan(12 * CELL * 2);
      }),
    );
  });

  it('what a larger cutter left in a square corner, thicker than a threshold, is what a fine sum over the corner says', () => {
    // corner at the origin, cutter of radius r: steel outside the arc around (r, r), its thickness from the nearer wall
    const r = 5;
    const t = 0.5;
    const inCorner = (x: number, y: number): boolean => x < r && y < r && Math.hypot(x - r, y - r) > r;
    const left = field((x, y) => (inCorner(x, y) ? Math.min(x, y) : 0));
    let wanted = 0;
    const fine = 0.01;
    for (let y = fine / 2; y < r; y += fine)
      for (let x = fine / 2; x < r; x += fine) if (inCorner(x, y) && Math.min(x, y) > t) wanted += fine * fine;
    const { area } = restRegion(map, left, 0, t, 0, 0);
    expect(Math.abs(area / wanted - 1)).toBeLessThan(0.02);
    expect(restRegion(map, left, 0, r, 0, 0).area).toBe(0);
  });

  it('small pieces are left out before the region grows, and it grows by the distance asked for, all round', () => {
    const spots = field((x, y) => (Math.hypot(x - 6, y - 6) < 2 || Math.hypot(x - 15, y - 6) < 0.5 ? 1 : 0));
    const small = restRegion(map, spots, 0, 0.5, 0, 2);
    expect(small.area).toBeCloseTo(Math.PI * 4, 0);
    const grown = restRegion(map, spots, 0, 0.5, 1.5, 2);
    expect(grown.area).toBe(small.area);
    expect(Math.abs(cells(grown.map.heights) - Math.PI * 3.5 ** 2)).toBeLessThan(2 * Math.PI * 3.5 * CELL);
    expect(cells(restRegion(map, spots, 0, 0.5, 0, 0).map.heights)).toBeCloseTo(Math.PI * (4 + 0.25), 0);
  });
});
