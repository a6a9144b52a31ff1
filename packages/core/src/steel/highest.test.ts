import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { blockMap } from './heightMap';
import { highestWithin } from './highest';
import { Sweep } from './sweep';

const place = fc.tuple(numberIn(-26, 26), numberIn(-20, 20));

/** Rounding of a distance, mm. */
const ROUNDING = 1e-9;

describe('highest steel around a place', () => {
  it('is what a look at every cell says while the steel is lowered, and what is known already when nothing is higher', () => {
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 2, maxLength: 14 }),
        place,
        numberIn(0, 14),
        numberIn(-25, 1),
        (way, [x, y], radius, known) => {
          const block = blockMap({ minX: -22, minY: -17, minZ: -30, maxX: 22, maxY: 17, maxZ: 0 }, 0.6);
          const sweep = new Sweep(block, roundProfile(9, 2) as RoundPiece);
          const { map } = sweep;
          for (let k = 1; k < way.length; k++) sweep.move(...way[k - 1]!, -2 * k, ...way[k]!, -2 * k - 1);
          const look = (radius: number) => {
            let best = -Infinity;
            map.heights.forEach((h, o) => {
              const cx = map.x0 + ((o % map.nx) + 0.5) * map.cell;
              const cy = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
              if (Math.hypot(cx - x, cy - y) <= radius + map.cell * Math.SQRT1_2 && h > map.floor)
                best = Math.max(best, h);
            });
            return best;
          };
          // A cell that lies on the border itself may count or not.
          const [least, most] = [look(radius - ROUNDING), look(radius + ROUNDING)];
          const found = highestWithin(sweep, x, y, radius);
          expect(found).toBeGreaterThanOrEqual(least);
          expect(found).toBeLessThanOrEqual(most);
          expect(highestWithin(sweep, x, y, radius, known) === Math.max(known, found)).toBe(true);
          // whether there is any above a height is known from the first that is found
          expect(highestWithin(sweep, x, y, radius, known, known) > known).toBe(found > known);
        },
      ),
      { numRuns: 80 },
    );
  });
});
