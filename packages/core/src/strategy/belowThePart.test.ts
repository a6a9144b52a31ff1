import { describe, expect, it } from 'vitest';
import { cuts, finished } from '../../test/finishing';
import { dome, saddle } from '../../test/grounds';
import { ClosestPoint } from '../geometry/closest';

const R = 2;
const TOLERANCE = 0.004;

const below = (soup: typeof dome, kind: string, allowance: number, values: Record<string, unknown> = {}) =>
  finished(
    soup,
    [
      {
        kind,
        cutter: ['ball', 2 * R, R, 18, 3.8, 30],
        values: { scallop: 0.02, tolerance: TOLERANCE, allowance, ...values },
      },
    ],
    { cell: 0.3 },
  );

// a ball of R + a about the same middle just touches the part (check 28: geometry)
describe('an allowance below zero, such as the spark gap of an electrode', () => {
  for (const [kind, values] of [
    ['parallel-passes', {}],
    ['waterline', { fromSlopeDeg: 40, rampDeg: null }],
    ['even-scallop', {}],
  ] as const)
    it(`${kind}: the middle of the ball stays R + a from the part, and that is no gouge`, async () => {
      const allowance = -0.15;
      const { result, part } = await below(dome, kind, allowance, values);
      const nearest = new ClosestPoint(part);
      const distances = cuts(result).map((c) => nearest.distance(c.x, c.y, c.z + R));
      for (const d of distances) expect(d).toBeGreaterThan(R + allowance - 2 * TOLERANCE);
      const near = distances.filter((d) => d < R + allowance + 2 * TOLERANCE);
      expect(near.length).toBeGreaterThan(0.6 * distances.length);
      expect(result.figures.findings).toEqual([]);
      // ridges are told from what is asked for
      const { all } = result.figures.ridges!;
      expect(all.p50).toBeLessThan(0.4 * 0.02);
      expect(all.p50).toBeGreaterThan(0);
    });

  it('deeper than the cutter’s corner lets it is refused at its field, with how deep it can go', async () => {
    await expect(below(saddle, 'parallel-passes', -1.97)).rejects.toMatchObject({
      place: 'allowance',
      message: expect.stringContaining('1.950 mm below the part at most'),
    });
  });
});
