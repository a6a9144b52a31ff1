import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { heightAt, type RoundPiece, roundProfile } from '../tool/profile';
import { blockMap, type HeightMap } from '../steel/heightMap';
import { SteelAtLevel } from './steelAtLevel';

type Round = RoundPiece;
const CELL = 0.5;

/** A block amid a lower floor, which it may cover. */
function step(top: number, half = 10): HeightMap {
  const map = blockMap({ minX: -25, minY: -25, minZ: -30, maxX: 25, maxY: 25, maxZ: 0 }, CELL);
  map.heights.forEach((_, o) => {
    const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
    const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
    map.heights[o] = Math.abs(x) < half && Math.abs(y) < half ? top : -20;
  });
  return map;
}

describe('steel at a level', () => {
  // the map ends at 25
  const place = numberIn(-34, 34);

  it('is touched wherever the underside of the cutter is lower than the steel, and nowhere that all steel is passed over', () => {
    fc.assert(
      fc.property(
        fc.constantFrom([10, 5], [10, 2], [10, 0], [12, 1.5]),
        numberIn(-12, 0),
        fc.double({ min: -16, max: -2, noNaN: true }),
        fc.constantFrom(10, 18, 25),
        place,
        place,
        ([DC, RE], top, z, half, x, y) => {
          const piece = roundProfile(DC!, RE!) as Round;
          const map = step(top, half);
          const steel = new SteelAtLevel(map, z, piece, 2);
          let deepest = -Infinity;
          map.heights.forEach((h, o) => {
            const d = Math.hypot(
              map.x0 + ((o % map.nx) + 0.5) * map.cell - x,
              map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell - y,
            );
            // places are known to a cell
            const near = Math.max(0, d + CELL);
            if (near <= piece.radius) deepest = Math.max(deepest, h - z - heightAt(piece, near));
          });
          if (deepest > 0.03) expect(steel.at(x, y)).toBe(true);
          // beside the block by more than the cutter is wide at the block's height, and by what rounding to cells may take
          const beside = Math.hypot(Math.max(0, Math.abs(x) - half), Math.max(0, Math.abs(y) - half));
          const q = top - z;
          const wide = q < RE! ? piece.flat + Math.sqrt(Math.max(0, q * (2 * RE! - q))) : piece.radius;
          if (q < 0.02 || beside > wide + 2 * CELL) expect(steel.at(x, y)).toBe(false);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('is touched by a large cutter beside the map too, all round its corners, as far as the cutter reaches', () => {
    const steel = new SteelAtLevel(step(-2), -6, roundProfile(70, 2) as Round, 2);
    for (let x = -50; x <= 50; x++)
      for (let y = -50; y <= 50; y++) {
        const beside = Math.hypot(Math.max(0, Math.abs(x) - 10), Math.max(0, Math.abs(y) - 10));
        if (Math.abs(beside - 35) > 2 * CELL && steel.at(x, y) !== beside < 35) expect([x, y, beside]).toBeUndefined();
      }
  });

  it('is met by a region that holds a touched place, though its border touches nothing', () => {
    const ring = (r: number): Float64Array => Float64Array.from([-r, -r, r, -r, r, r, -r, r]);
    const steel = new SteelAtLevel(step(-2), -6, roundProfile(6, 1) as Round, 2);
    expect(steel.meets({ outer: ring(20), holes: [] })).toBe(true);
    // a ring around the block, too far from it on both sides
    expect(steel.meets({ outer: ring(20), holes: [ring(15).reverse()] })).toBe(false);
    expect(steel.meets({ outer: ring(12), holes: [] })).toBe(true);
  });
});
