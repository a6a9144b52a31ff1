import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { NearestToCutter } from './nearestToCutter';

const HALF = 20;
const DEPTH = 12;
const pocket = contactMesh(meshOf(squarePocket(30, HALF, DEPTH, -20)));

describe('how far a part is from the middle of a cutter’s round', () => {
  it('in a pocket it is the nearest of the floor under the corner and the walls beside the disc, for balls and bull-noses', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 8, noNaN: true }),
        fc.double({ min: 0.3, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 4, noNaN: true }),
        (radius, share, u, v, over) => {
          const corner = share * radius;
          const piece = roundProfile(2 * radius, corner) as RoundPiece;
          const [x, y] = [u * (HALF - radius), v * (HALF - radius)];
          const floor = corner + over;
          const walls = HALF - Math.max(Math.abs(x), Math.abs(y)) - (radius - corner);
          // rims stand higher than the middle: nothing of them is nearer than the wall below
          fc.pre(floor < DEPTH);
          const far = new NearestToCutter(pocket, piece).distance(x, y, -DEPTH + over);
          expect(far).toBeCloseTo(Math.min(floor, walls), 6);
        },
      ),
    );
  });
});
