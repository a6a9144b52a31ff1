import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { roughed } from '../../test/roughing';
import { cribOf, sheet, squarePocket } from '../../test/shapes';
import { nearestOn, offsetPolygons, type Polygon } from '../geometry/polygon';
import { Motion } from '../path/toolpath';
import type { Loop } from './loop';
import { spiralOf } from './spiral';

const AE = 2;
/** Loops of an area from its wall inward. */
function loopsOf(wall: number[]): Loop[] {
  const loops: Loop[] = [];
  for (let rings: Polygon[] = [Float64Array.from(wall)]; rings.length === 1; rings = offsetPolygons(rings, -AE))
    loops.push({ points: rings[0]!, closed: true });
  return loops;
}
const ellipse = (a: number, b: number): number[] =>
  Array.from({ length: 90 }, (_, k) => (k * Math.PI) / 45).flatMap((t) => [a * Math.cos(t), b * Math.sin(t)]);

describe('spirals', () => {
  it('go from the innermost loop to just before the wall, neighbouring turns never farther apart than loops', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 12, max: 40, noNaN: true }),
        fc.double({ min: 0.6, max: 1, noNaN: true }),
        fc.boolean(),
        (a, share, isRound) => {
          const b = a * share;
          const loops = loopsOf(isRound ? ellipse(a, b) : [-a, -b, a, -b, a, b, -a, b]);
          const way = spiralOf(loops, { isFree: () => true, tolerance: 0.01 })!;
          const [wall, inner] = [loops[0]!.points, loops.at(-1)!.points];
          expect([way[0], way[1]]).toEqual([inner[0], inner[1]]);
          const end = nearestOn(wall, way.at(-2)!, way.at(-1)!, true).distance;
          expect(end).toBeLessThan(0.1 * AE);
          // every place between the innermost loop and the wall is no farther from the way than a loop from the next
          for (const loop of loops.slice(1))
            for (let k = 0; k < loop.points.length; k += 2)
              expect(nearestOn(way, loop.points[k]!, loop.points[k + 1]!, false).distance).toBeLessThan(AE * 1.01);
          // and it never leaves the area
          for (let k = 0; k < way.length; k += 2) {
            const [x, y] = [way[k]!, way[k + 1]!];
            expect(isRound ? (x / a) ** 2 + (y / b) ** 2 : Math.max(Math.abs(x) / a, Math.abs(y) / b)).toBeLessThan(
              1.01,
            );
          }
        },
      ),
      { numRuns: 40 },
    );
    expect(spiralOf(loopsOf(ellipse(20, 15)), { isFree: (x) => x < 5, tolerance: 0.01 })).toBeUndefined();
  });

  const crib = cribOf({ b: ['bull', 8, 1, 20, 7.6, 40] });
  const values = { ap: 2.5, ae: 2.4, sideAllowance: 0.2, floorAllowance: 0.1, cornerLoadDeg: null };

  it('a pocket is cleared by one entry at each level, without a lift, to the same steel as by loops', async () => {
    const bowl = sheet([-26, -20, 26, 20], 0.5, -14, (x, y) => ((x / 22) ** 2 + (y / 15) ** 2 < 1 ? -5 : 0));
    for (const part of [squarePocket(24, 16, 5, -14), bowl]) {
      const loops = await roughed(part, 'b', values, { crib });
      const spiral = await roughed(part, 'b', { ...values, pattern: 'spiral' }, { crib });
      expect(spiral.figures.findings).toEqual([]);
      expect(spiral.leftOut).toEqual([]);
      const { kind } = spiral.path;
      const entries = [...kind.keys()].filter((k) => kind[k] === Motion.entry && kind[k - 1] !== Motion.entry).length;
      expect(entries).toBe(2);
      expect([...kind].filter((k, i) => k === Motion.rapid && i > 2).length).toBeLessThanOrEqual(4);
      // what is left differs by no more than what rounding of loops leaves
      const [a, b] = [loops.next.after.heights, spiral.next.after.heights];
      let volume = 0;
      for (let o = 0; o < a.length; o++) volume += Math.abs(a[o]! - b[o]!) * 0.04;
      expect(volume).toBeLessThan(3);
      // fewer ways beside the cuts
      const linked = ({ path: { x, y, kind: k } }: typeof spiral): number =>
        [...k.keys()].reduce(
          (sum, i) => (k[i] === Motion.link ? sum + Math.hypot(x[i]! - x[i - 1]!, y[i]! - y[i - 1]!) : sum),
          0,
        );
      expect(linked(spiral)).toBeLessThan(0.6 * linked(loops));
    }
  });

  it('an area with an island is gone over in loops, and its parts beyond it in spirals', async () => {
    const island = sheet([-26, -20, 26, 20], 0.5, -14, (x, y) =>
      Math.max(Math.abs(x) / 22, Math.abs(y) / 16) < 1 && Math.hypot(x - 4, y) > 4 ? -5 : 0,
    );
    const loops = await roughed(island, 'b', values, { crib });
    const spiral = await roughed(island, 'b', { ...values, pattern: 'spiral' }, { crib });
    expect(spiral.figures.findings).toEqual([]);
    expect(Math.abs(spiral.figures.removed - loops.figures.removed)).toBeLessThan(0.01 * loops.figures.removed);
  });
});
