import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { heightAt, type ProfilePiece, roundProfile } from '../../cutter/profile';
import { blockMap, type HeightMap } from '../../stock/heightMap';
import { SteelAtLevel } from './steelAtLevel';

type Round = ProfilePiece & { kind: 'round' };
const CELL = 0.5;

/** A block of 20 by 20 mm amid a lower floor. */
function step(top: number): HeightMap {
  const map = blockMap({ minX: -25, minY: -25, minZ: -30, maxX: 25, maxY: 25, maxZ: 0 }, CELL);
  map.heights.forEach((_, o) => {
    const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
    const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
    map.heights[o] = Math.abs(x) < 10 && Math.abs(y) < 10 ? top : -20;
  });
  return map;
}

describe('steel at a level', () => {
  const place = fc.double({ min: -24, max: 24, noNaN: true });

  it('is touched wherever the underside of the cutter is lower than the steel, and nowhere that all steel is passed over', () => {
    fc.assert(
      fc.property(
        fc.constantFrom([10, 5], [10, 2], [10, 0], [12, 1.5]),
        fc.double({ min: -12, max: 0, noNaN: true }),
        fc.double({ min: -16, max: -2, noNaN: true }),
        place,
        place,
        ([DC, RE], top, z, x, y) => {
          const piece = roundProfile(DC!, RE!) as Round;
          const map = step(top);
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
          const beside = Math.hypot(Math.max(0, Math.abs(x) - 10), Math.max(0, Math.abs(y) - 10));
          const q = top - z;
          const wide = q < RE! ? piece.flat + Math.sqrt(Math.max(0, q * (2 * RE! - q))) : piece.radius;
          if (q < 0.02 || beside > wide + 2 * CELL) expect(steel.at(x, y)).toBe(false);
        },
      ),
      { numRuns: 300 },
    );
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
