import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blockMap } from '../steel/heightMap';
import { drill } from './startingSteel';

const box = { minX: -20, minY: -15, minZ: -10, maxX: 20, maxY: 15, maxZ: 0 };
const coordinate = fc.integer({ min: -60, max: 60 }).map((v) => v / 3);

describe('the steel that a job begins with', () => {
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
