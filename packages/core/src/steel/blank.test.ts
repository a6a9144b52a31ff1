import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { insideOutline, type Point2 } from '../geometry/outline';
import { drill } from '../evaluate/startingSteel';
import { outlineMap } from './blank';
import { blockMap } from './heightMap';

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

describe('the steel that a job begins with', () => {
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

  it('a drilled hole takes the cells whose middle lies in it, down to its bottom and no deeper than it was', () => {
    const hole = fc.record({
      x: coordinate,
      y: coordinate,
      diameter: fc.double({ min: 0.5, max: 30, noNaN: true }),
      bottom: fc.double({ min: -14, max: -1, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(hole, { minLength: 1, maxLength: 4 }), (holes) => {
        const map = blockMap(box, 1.1);
        drill(map, holes);
        map.heights.forEach((h, o) => {
          const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
          const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
          const r = holes.map((d) => Math.hypot(x - d.x, y - d.y) - d.diameter / 2);
          if (r.some((v) => Math.abs(v) < 1e-9)) return;
          const bottoms = holes.filter((_, k) => r[k]! < 0).map((d) => Math.max(map.floor, d.bottom));
          expect(h).toBeCloseTo(Math.min(0, ...bottoms), 5);
        });
      }),
      { numRuns: 100, seed: 6 },
    );
  });
});
