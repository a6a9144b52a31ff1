import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nearestOn, regionContains, reversed, type Polygon, type Region } from '../geometry/polygon';
import { type Loop, partsOf } from './loop';
import { holds, insideOf } from './regions';

/** A star-shaped ring around (cx, cy) through given radii. */
function star(cx: number, cy: number, radii: readonly number[]): Polygon {
  return Float64Array.from(
    radii.flatMap((r, k) => {
      const a = (2 * Math.PI * k) / radii.length;
      return [cx + r * Math.cos(a), cy + r * Math.sin(a)];
    }),
  );
}

const radii = (min: number, max: number) =>
  fc.array(fc.double({ min, max, noNaN: true }), { minLength: 5, maxLength: 40 });

describe('areas of a level', () => {
  it('a place told to be inside an area is inside, off its borders and out of its islands', () => {
    fc.assert(
      fc.property(radii(8, 30), radii(1, 7), (outer, island) => {
        const region: Region = { outer: star(3, -2, outer), holes: [reversed(star(3, -2, island))] };
        const [x, y] = insideOf(region);
        expect(regionContains(region, x, y)).toBe(true);
        for (const ring of [region.outer, ...region.holes])
          expect(nearestOn(ring, x, y, true).distance).toBeGreaterThan(0);
      }),
    );
  });

  it('an area lies in one whose border it shares for a part of the way, and not in its neighbour across that border', () => {
    fc.assert(
      fc.property(radii(4, 9), fc.double({ min: 0.5, max: 0.99, noNaN: true }), (outer, share) => {
        // half of the points stay on the border, the others move inward
        const n = outer.length;
        const inner = outer.map((r, k) => (k < n / 2 ? r : r * share));
        const whole: Region = { outer: star(0, 0, outer), holes: [] };
        expect(holds(whole, { outer: star(0, 0, inner), holes: [] })).toBe(true);
        // the ring between an area and a wider one has the area as its island
        const around: Region = {
          outer: star(
            0,
            0,
            outer.map((r) => 2 * r),
          ),
          holes: [reversed(whole.outer)],
        };
        expect(holds(around, whole)).toBe(false);
        expect(holds(whole, around)).toBe(false);
      }),
    );
  });
});

describe('parts of a line', () => {
  const square: Loop = { points: Float64Array.of(0, 0, 20, 0, 20, 20, 0, 20), closed: true };
  const options = { radius: 5, gap: 30, isFree: () => true, tolerance: 0.01 };
  const xOf = (loops: Loop[]): number[] => loops.flatMap((l) => [...l.points].filter((_, k) => k % 2 === 0));

  it('a gap in air is kept where the axis may be, and left where it may not', () => {
    const wanted = (_x: number, y: number): boolean => y < 0.5;
    // the way back round the square is longer than any gap, the one across its lower side is not
    const onEnds = (x: number, y: number): boolean => wanted(x, y) && Math.abs(x - 10) > 6;
    const kept = partsOf(square, onEnds, { ...options, gap: 15 });
    expect(kept).toHaveLength(1);
    const isFree = (x: number, y: number): boolean => !(y < 0.5 && Math.abs(x - 10) < 1);
    const left = partsOf(square, onEnds, { ...options, gap: 15, isFree });
    expect(left).toHaveLength(2);
    expect(xOf(left).every((x) => Math.abs(x - 10) >= 1)).toBe(true);
  });

  it('a gap in air is left where a rib of a third of a millimetre stands in it, wherever it is', () => {
    const onEnds = (x: number, y: number): boolean => y < 0.5 && Math.abs(x - 10) > 6;
    fc.assert(
      fc.property(fc.double({ min: 5.5, max: 14, noNaN: true }), (rib) => {
        const isFree = (x: number, y: number): boolean => !(y < 0.5 && x > rib && x < rib + 0.34);
        const left = partsOf(square, onEnds, { ...options, gap: 15, isFree });
        expect(left).toHaveLength(2);
        for (const { points } of left)
          for (let k = 2; k < points.length; k += 2)
            if (points[k + 1]! < 0.5) expect(points[k - 2]! < rib === points[k]! < rib).toBe(true);
      }),
    );
  });

  it('lies off by the tolerance at most where it is kept without being wanted', () => {
    const wanted = (x: number, y: number): boolean => y < 0.5 && x < 5;
    // a wall along the lower side, a little inside the line
    for (const [deep, runsOn] of [
      [0.005, true],
      [0.05, false],
    ] as const) {
      const isFree = (x: number, y: number): boolean => x < 5 || y > 1 || y < -deep;
      const [part] = partsOf(square, wanted, { ...options, gap: 0, isFree });
      expect(Math.max(...xOf([part!])) > 5.5).toBe(runsOn);
    }
  });
});
