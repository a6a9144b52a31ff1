import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { blockOf, hole, modeller, soupOf } from '../../test/plates';
import { meshOf } from '../../test/shapes';
import type { TriangleMesh } from '../geometry/mesh';
import { MovedPlaces } from './movedPlaces';
import { compareRevisions } from './revision';

const solids = await modeller();
/** A block with two pockets, a slanted roof on a rib, and a hole whose rim lies in a pocket's floor. */
function plate(left: number, right: number, ridge: number): TriangleMesh {
  const { Manifold } = solids;
  const rib = new solids.CrossSection([
    [
      [0, 0],
      [10, 0],
      [10, ridge - 2],
      [4, ridge],
      [0, ridge - 3],
    ],
  ]);
  const roof = Manifold.extrude(rib, 8).rotate([90, 0, 0]).translate([40, 30, 0]);
  const solid = blockOf(solids, [-5, -5, -20], [105, 45, 0])
    .subtract(blockOf(solids, [0, 0, left], [30, 40, 1]))
    .subtract(blockOf(solids, [60, 0, right], [100, 40, 1]))
    .subtract(hole(solids, 80, 20, 4, right - 6))
    .add(roof);
  return meshOf(soupOf(solid));
}
const of = (before: TriangleMesh, after: TriangleMesh): MovedPlaces =>
  new MovedPlaces(before, after, compareRevisions(before, after).pairs);

describe('places of a part at a revision', () => {
  const depth = numberIn(-11, -3);
  it('of two floors of one height each goes its own way; by the height alone it is then not known which is meant', () => {
    fc.assert(
      fc.property(depth, depth, (left, right) => {
        const places = of(plate(-6, -6, 9), plate(left, right, 9));
        expect(places.moved(-6, [15, 20])!.height).toBeCloseTo(left, 4);
        expect(places.moved(-6, [63, 5])!.height).toBeCloseTo(right, 4);
        // the rim of the hole, picked by its middle
        expect(places.moved(-6, [80, 20])!.height).toBeCloseTo(right, 4);
        if (Math.abs(left - right) > 0.02) expect(places.moved(-6)).toBeUndefined();
        expect(places.moved(0)!.height).toBeCloseTo(0, 4);
      }),
      { numRuns: 25 },
    );
  });

  it('an edge and a corner are found again where no level face lies, as high as they are now', () => {
    fc.assert(
      fc.property(numberIn(7.5, 10.5), (ridge) => {
        const places = of(plate(-6, -6, 9), plate(-6, -6, ridge));
        for (const at of [undefined, [44, 26], [44, 30]] as const) {
          const moved = places.moved(9, at);
          expect(moved!.height).toBeCloseTo(ridge, 4);
          if (at) expect(moved!.at![0]).toBeCloseTo(at[0], 3);
        }
        expect(places.moved(7, [50, 26])!.height).toBeCloseTo(ridge - 2, 4);
      }),
      { numRuns: 25 },
    );
  });

  it('what is gone is not found, nor what lies at no level place', () => {
    const bare = meshOf(soupOf(blockOf(solids, [-5, -5, -20], [105, 45, 0])));
    const places = of(plate(-6, -7, 9), bare);
    expect(places.moved(-6, [15, 20])).toBeUndefined();
    expect(places.moved(9)).toBeUndefined();
    expect(of(bare, bare).moved(-4)).toBeUndefined();
    // another floor of its height stays: that is not the one that was meant
    const { Manifold } = solids;
    const filled = (depth: number): TriangleMesh =>
      meshOf(
        soupOf(
          blockOf(solids, [-5, -5, -20], [105, 45, 0]).subtract(
            Manifold.union([
              blockOf(solids, [60, 0, -6], [100, 40, 1]),
              ...(depth < 0 ? [blockOf(solids, [0, 0, depth], [30, 40, 1])] : []),
            ]),
          ),
        ),
      );
    const left = of(filled(-6), filled(0));
    expect(left.moved(-6, [15, 20])).toBeUndefined();
    expect(left.moved(-6)).toBeUndefined();
    expect(left.moved(-6, [80, 20])!.height).toBeCloseTo(-6, 6);
  });
});
