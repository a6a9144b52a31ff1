import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { heightAt, type RoundPiece, roundProfile, stackProfile } from '../tool/profile';
import { blockMap } from './heightMap';
import { SteelContact } from './steelContact';
import { SteelMemory } from './steelMemory';
import { Sweep } from './sweep';

describe('contact with the steel', () => {
  const wide = fc.double({ min: 1, max: 60, noNaN: true });
  const frustum = fc.record({
    bottomDiameter: wide,
    topDiameter: wide,
    length: fc.double({ min: 0.01, max: 30, noNaN: true }),
  });
  const stack = fc.array(frustum, { minLength: 1, maxLength: 5 });
  const ball = [roundProfile(9, 4.5)];
  const place = fc.tuple(numberIn(-26, 26), numberIn(-20, 20));

  it('a holder or cutter rests on the cell of the steel that it meets first, as a look at every cell says', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 4, maxLength: 12 }), place, stack, (way, [x, y], frusta) => {
        const block = blockMap({ minX: -22, minY: -17, minZ: -30, maxX: 22, maxY: 17, maxZ: 0 }, 0.5);
        const stacks = [stackProfile(frusta, 12), ball];
        const rows = [0, block.ny] as const;
        const memory = new SteelMemory(block, ...rows, SteelContact.bytes(block, rows, stacks));
        const sweep = new Sweep(block, roundProfile(7, 1) as RoundPiece, ...rows, 0, memory);
        const { map } = sweep;
        const steel = new SteelContact(sweep, stacks);
        for (let k = 1; k < way.length; k++) sweep.move(...way[k - 1]!, -k, ...way[k]!, -2 * k);
        // old maxima are upper bounds only: they cost time, never an answer
        for (let k = 0; k < 3; k++) steel.age();
        for (const profile of stacks) {
          let wanted = -Infinity;
          map.heights.forEach((h, o) => {
            const d = Math.hypot(
              map.x0 + ((o % map.nx) + 0.5) * map.cell - x,
              map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell - y,
            );
            for (const piece of profile) wanted = Math.max(wanted, h - heightAt(piece, d));
          });
          const tip = steel.at(profile, x, y);
          if (wanted === -Infinity) expect(tip).toBe(-Infinity);
          else expect(tip).toBeCloseTo(wanted, 9);
        }
      }),
      { numRuns: 100 },
    );
  });
});
