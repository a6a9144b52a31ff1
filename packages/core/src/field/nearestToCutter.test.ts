import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, squarePocket } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { NearestToCutter } from './nearestToCutter';

const HALF = 20;
const DEPTH = 12;
/** A square pocket, turned about Z. */
const turned = (degrees: number) => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const soup = [...squarePocket(30, HALF, DEPTH, -20)];
  const positions = soup.map((value, k) =>
    k % 3 === 0 ? c * value - s * soup[k + 1]! : k % 3 === 1 ? s * soup[k - 1]! + c * value : value,
  );
  return { c, s, mesh: contactMesh(meshOf(positions)) };
};
const POCKETS = [0, 11.25, 30, 50].map(turned);

describe('how far a part is from the middle of a cutter’s round', () => {
  it('in a pocket it is the nearest of the floor under the corner and the walls beside the disc, for balls and bull-noses', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 8, noNaN: true }),
        fc.double({ min: 0.3, max: 1, noNaN: true }),
        numberIn(-1, 1),
        numberIn(-1, 1),
        numberIn(0, 4),
        fc.constantFrom(...POCKETS),
        (radius, share, u, v, over, { c, s, mesh }) => {
          const corner = share * radius;
          const piece = roundProfile(2 * radius, corner) as RoundPiece;
          const [x, y] = [u * (HALF - radius), v * (HALF - radius)];
          const floor = corner + over;
          const walls = HALF - Math.max(Math.abs(x), Math.abs(y)) - (radius - corner);
          // rims stand higher than the middle: nothing of them is nearer than the wall below
          fc.pre(floor < DEPTH);
          const far = new NearestToCutter(mesh, piece).distance(c * x - s * y, s * x + c * y, -DEPTH + over);
          const wanted = Math.min(floor, walls);
          expect(far).toBeGreaterThan(wanted - 1e-5);
          // between two places of the rim
          expect(far).toBeLessThan(wanted + 0.0193 * piece.flat + 1e-5);
        },
      ),
    );
  });

  it('beside one wall, high above the floor, it is just the wall’s distance, whichever way the wall looks', () => {
    fc.assert(
      fc.property(
        numberIn(1.5, 4),
        numberIn(0.3, 0.9),
        numberIn(-8, 8),
        numberIn(0.05, 1),
        fc.integer({ min: 0, max: 3 }),
        fc.constantFrom(...POCKETS),
        (radius, share, along, room, side, { c, s, mesh }) => {
          const corner = share * radius;
          const piece = roundProfile(2 * radius, corner) as RoundPiece;
          const across = HALF - piece.flat - room;
          const [x, y] = [
            [across, along],
            [along, across],
            [-across, along],
            [along, -across],
          ][side]! as [number, number];
          const far = new NearestToCutter(mesh, piece).distance(c * x - s * y, s * x + c * y, -corner - 3);
          expect(far).toBeCloseTo(room, 4);
        },
      ),
    );
  });
});
