import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { insideCorners } from './planCorners';

/** A rectangle with one corner of a radius in n chords, and points between on its sides; counter-clockwise. */
function rectangle(w: number, h: number, r: number, n: number, between: number): [number, number][] {
  const out: [number, number][] = [];
  const side = (ax: number, ay: number, bx: number, by: number): void => {
    for (let k = 0; k < between; k++) out.push([ax + ((bx - ax) * k) / between, ay + ((by - ay) * k) / between]);
  };
  side(r, 0, w, 0);
  side(w, 0, w, h);
  side(w, h, 0, h);
  side(0, h, 0, r);
  // the last one is where the first side begins
  for (let k = 0; k < n; k++) {
    const a = Math.PI + ((Math.PI / 2) * k) / n;
    out.push([r + r * Math.cos(a), r + r * Math.sin(a)]);
  }
  return out;
}

const flat = (points: readonly [number, number][]): Float64Array => Float64Array.from(points.flat());
const numbers = {
  w: fc.double({ min: 20, max: 60, noNaN: true }),
  h: fc.double({ min: 20, max: 60, noNaN: true }),
  r: fc.double({ min: 0.5, max: 9, noNaN: true }),
  n: fc.integer({ min: 4, max: 40 }),
  between: fc.integer({ min: 1, max: 5 }),
};

describe('inside corners of upright walls', () => {
  it('of a pocket: one with its radius, the others sharp, however many points lie between', () => {
    fc.assert(
      fc.property(fc.record(numbers), ({ w, h, r, n, between }) => {
        // the solid lies around a pocket: on the left of a clockwise ring
        const { round, sharp } = insideCorners(flat(rectangle(w, h, r, n, between).reverse()));
        expect(sharp).toHaveLength(3);
        expect(round).toHaveLength(1);
        expect(round[0]!.radius).toBeCloseTo(r, 6);
      }),
    );
  });

  it('of a solid there are none, and a circle is round all over', () => {
    fc.assert(
      fc.property(fc.record(numbers), ({ w, h, r, n, between }) => {
        expect(insideCorners(flat(rectangle(w, h, r, n, between)))).toEqual({ round: [], sharp: [] });
        const count = 4 * n + 4;
        const circle = Array.from({ length: count }, (_, k): [number, number] => [
          w + r * Math.cos((-2 * Math.PI * k) / count),
          h + r * Math.sin((-2 * Math.PI * k) / count),
        ]);
        const { round, sharp } = insideCorners(flat(circle));
        expect(sharp).toEqual([]);
        expect(round).toHaveLength(1);
        expect(round[0]!.radius).toBeCloseTo(r, 6);
      }),
    );
  });
});
