import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { nearestOn, type Region } from '../geometry/polygon';
import { covering, evenly, linesIn } from './lines';

describe('lines that fill an area', () => {
  const ring = (s: number): Float64Array => Float64Array.of(-s, -s, s, -s, s, s, -s, s);
  const hole = Float64Array.of(-5, -5, -5, 5, 5, 5, 5, -5);

  it('no place of the area is farther than half the spacing from a line, and no line leaves the area', () => {
    fc.assert(
      fc.property(
        numberIn(-1.5, 1.5),
        fc.double({ min: 1, max: 6, noNaN: true }),
        numberIn(-18, 18),
        numberIn(-18, 18),
        (angle, spacing, x, y) => {
          const region: Region = { outer: ring(20), holes: [hole] };
          fc.pre(Math.max(Math.abs(x), Math.abs(y)) > 8);
          const lines = linesIn(region, angle, evenly(spacing), 'climb', (l) => [l]).flatMap((n) => n.loops);
          const near = Math.min(...lines.map((l) => nearestOn(l.points, x, y, false).distance));
          expect(near).toBeLessThanOrEqual(spacing / 2 + spacing);
          for (const { points } of lines)
            for (let t = 0.01; t < 1; t += 0.07) {
              const px = points[0]! + t * (points[2]! - points[0]!);
              const py = points[1]! + t * (points[3]! - points[1]!);
              expect(Math.max(Math.abs(px), Math.abs(py))).toBeLessThan(20 + 1e-6);
              expect(Math.max(Math.abs(px), Math.abs(py))).toBeGreaterThan(5 - 1e-6);
            }
        },
      ),
    );
  });

  it('in climb milling the next line lies on the right of the one before, otherwise on its left', () => {
    for (const direction of ['climb', 'conventional'] as const) {
      const [nest] = linesIn({ outer: ring(10), holes: [] }, 0.4, evenly(2), direction, (l) => [l]);
      const [a, b] = nest!.loops;
      const side =
        (a!.points[2]! - a!.points[0]!) * (b!.points[1]! - a!.points[1]!) -
        (a!.points[3]! - a!.points[1]!) * (b!.points[0]! - a!.points[0]!);
      expect(Math.sign(side)).toBe(direction === 'climb' ? -1 : 1);
    }
  });

  it('a cutter that covers a width with its overlap takes it in one line; else no place is farther from a line than it reaches', () => {
    expect(covering(-40, 40, 70, 50, 1)).toEqual([0]);
    const size = fc.double({ min: 1, max: 200, noNaN: true });
    fc.assert(
      fc.property(size, size, fc.double({ min: 0.1, max: 1, noNaN: true }), (width, reach, share) => {
        const spacing = 2 * reach * share;
        const lines = covering(0, width, spacing, reach, 0.5);
        for (let k = 0; k <= 40; k++)
          expect(Math.min(...lines.map((y) => Math.abs(y - (k / 40) * width)))).toBeLessThanOrEqual(reach + 1e-9);
        for (let k = 1; k < lines.length; k++) expect(lines[k]! - lines[k - 1]!).toBeLessThanOrEqual(spacing + 1e-9);
        // one fewer would not do
        if (lines.length > 2) expect((lines.length - 2) * spacing).toBeLessThan(width + 1 - 2 * reach + 1e-6);
      }),
    );
  });
});
