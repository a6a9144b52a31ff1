import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { insideOutline, type Point2 } from '../geometry/outline';
import { outlineMap } from './blank';

const box = { minX: -20, minY: -15, minZ: -10, maxX: 20, maxY: 15, maxZ: 0 };
const coordinate = fc.integer({ min: -60, max: 60 }).map((v) => v / 3);

/** Distance of a place from a closed outline's sides. */
function away(points: readonly Point2[], x: number, y: number): number {
  let least = Infinity;
  points.forEach(([bx, by], k) => {
    const [ax, ay] = points[(k || points.length) - 1]!;
    const l2 = (bx - ax) ** 2 + (by - ay) ** 2;
    const t = l2 > 0 ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / l2)) : 0;
    least = Math.min(least, Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay)));
  });
  return least;
}

describe('the steel under an outline', () => {
  it('an outline of any corners holds the cells whose middle lies in it and those that it passes through, no others', () => {
    const outline = fc.array(fc.tuple(coordinate, coordinate), { minLength: 3, maxLength: 9 });
    fc.assert(
      fc.property(outline, fc.constantFrom(0.7, 1, 1.9), (points, cell) => {
        const map = outlineMap(box, cell, points);
        const reach = cell * Math.SQRT1_2;
        map.heights.forEach((h, o) => {
          const x = map.x0 + ((o % map.nx) + 0.5) * cell;
          const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * cell;
          const distance = away(points, x, y);
          // a place just on the rim may go either way
          if (Math.abs(distance - reach) < 1e-9) return;
          expect(h > map.floor).toBe(distance < reach || insideOutline(points, x, y));
        });
      }),
      { numRuns: 200, seed: 5 },
    );
  });
});
