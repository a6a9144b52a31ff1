import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, pathOf, squarePocket } from '../../test/shapes';
import { EsquisseError } from '../base/errors';
import { contactMesh } from '../geometry/contactMesh';
import { Motion } from '../path/toolpath';
import { roundProfile } from '../tool/profile';
import { clearShare, joinedLengths, reachAlong } from './reachAlong';

/** 20 wide and 20 deep; a holder of Ø 30 always stands over the block around it. */
const part = contactMesh(meshOf(squarePocket(40, 10, 20, -30)));
const holder = [roundProfile(30, 0)];

describe('stick-out wanted along a path', () => {
  it('is the depth of the tip under what the holder stands over: evenly spread along one straight way down', () => {
    const path = pathOf([
      [-5, 0, 0],
      [5, 0, -20],
    ]);
    const lengths = reachAlong({ part, path, holder, span: [0, 2] });
    expect(lengths.reduce((sum, l) => sum + l, 0)).toBeCloseTo(Math.hypot(10, 20), 9);
    for (const stickOut of [5, 10, 15]) expect(clearShare(lengths, stickOut)).toBeCloseTo(stickOut / 20, 1);
    expect(clearShare(lengths, 20)).toBe(1);
  });

  it('rapids do not count, and spans of short motions come to the same as the whole', () => {
    const points = Array.from({ length: 201 }, (_, k): [number, number, number] => [k / 20 - 5, 0, -k / 10]);
    const path = pathOf([...points, [5, 0, 5, Motion.rapid]]);
    const whole = reachAlong({ part, path, holder, span: [0, 202] });
    const halves = joinedLengths(
      [[0, 101] as const, [101, 202] as const].map((span) => reachAlong({ part, path, holder, span })),
    );
    expect(halves.reduce((sum, l) => sum + l, 0)).toBeCloseTo(Math.hypot(10, 20), 9);
    for (const stickOut of [5, 10, 15])
      expect(clearShare(halves, stickOut)).toBeCloseTo(clearShare(whole, stickOut), 1);
  });

  it('is what a holder that goes into the pocket needs at each place: that of a path looked at everywhere, to a look', () => {
    const place = fc.tuple(numberIn(-25, 25), numberIn(-25, 25), numberIn(-20, 0));
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 6 }), (places) => {
        const path = pathOf(places);
        const narrow = [roundProfile(6, 0)];
        const lengths = reachAlong({ part, path, holder: narrow, span: [0, places.length] });
        let whole = 0;
        const needs: [need: number, length: number][] = [];
        for (let k = 1; k < places.length; k++) {
          const [a, b] = [places[k - 1]!, places[k]!];
          const length = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
          whole += length;
          const n = Math.ceil(length / 0.02);
          for (let s = 0; s < n; s++) {
            const t = (s + 0.5) / n;
            const [x, y, z] = [0, 1, 2].map((c) => a[c]! + t * (b[c]! - a[c]!)) as [number, number, number];
            // over the wall, or over its edge
            const isOver = Math.max(Math.abs(x), Math.abs(y)) > 10 - 3;
            needs.push([Math.max(0, (isOver ? 0 : -20) - z), length / n]);
          }
        }
        expect(lengths.reduce((sum, l) => sum + l, 0)).toBeCloseTo(whole, 9);
        // a look stands for a millimetre; a straight way crosses the edge of the pocket twice and a height once at most
        fc.pre(whole > 25 * (places.length - 1));
        const off = (3 * (places.length - 1)) / whole;
        for (const stickOut of [2, 5, 11, 17]) {
          const clear = needs.reduce((sum, [need, length]) => (need <= stickOut ? sum + length : sum), 0) / whole;
          expect(Math.abs(clearShare(lengths, stickOut) - clear)).toBeLessThan(off);
        }
        // so many looks that a bin is no longer than its share of the way
        if (whole > 3) expect(lengths.length).toBeLessThanOrEqual(21);
      }),
      { numRuns: 60 },
    );
  });

  it('of a way without feed nothing is told, and all of it clears; a short one is looked at where it ends', () => {
    const rapids = pathOf([
      [0, 0, 5],
      [3, 0, 5, Motion.rapid],
      [3, 4, 5, Motion.rapid],
    ]);
    expect(reachAlong({ part, path: rapids, holder, span: [0, 3] })).toEqual([]);
    expect(clearShare([], 10)).toBe(1);
    const short = pathOf([
      [0, 0, -7],
      [0, 0, -7.5],
      [0, 0, 5, Motion.rapid],
    ]);
    const lengths = reachAlong({ part, path: short, holder, span: [0, 3] });
    expect(lengths).toEqual([0, 0, 0, 0, 0, 0, 0, 0.5]);
    // over the block no stick-out is needed at all
    const above = pathOf([
      [0, 0, 1],
      [4, 3, 1],
    ]);
    expect(reachAlong({ part, path: above, holder, span: [0, 2] })).toEqual([5]);
  });

  it('is called off on a long path', () => {
    const path = pathOf(Array.from({ length: 400 }, (_, k) => [k / 100, 0, -1]));
    const check = (): never => {
      throw new EsquisseError('cancelled', 'Called off.');
    };
    expect(() => reachAlong({ part, path, holder, span: [0, 400] }, { check })).toThrow('Called off.');
    expect(reachAlong({ part, path, holder, span: [0, 400] })).toHaveLength(1);
  });
});
