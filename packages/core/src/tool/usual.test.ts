import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { measuredSizes, shankProfile, shapeOf } from './shape';
import {
  type Assembly,
  assemblySchema,
  type Cutter,
  CUTTER_KINDS,
  cribSchema,
  cutterSchema,
  neckEnd,
  shankStack,
} from './library';
import { heightAt } from './profile';
import { usualCutter } from './usual';

const holder = {
  id: 'h',
  name: 'H',
  kind: 'other' as const,
  DCONWS: null,
  clampFrom: null,
  spindle: '',
  stack: [{ bottomDiameter: 40, topDiameter: 40, length: 50 }],
};
const NOMINAL: Assembly = assemblySchema.parse({
  id: 't',
  number: 1,
  cutterId: 'c',
  holderId: 'h',
  stickOut: 40,
  n: 1000,
  fz: 0.1,
});
const shapeAt = (cutter: Cutter, stickOut: number) =>
  shapeOf({ cutter, holder, extensions: [], assembly: { ...NOMINAL, stickOut } });
/** A ball of 2 mm with a neck of 1.9 x 20 on a shank of 6: the everyday cutter of a mould. */
const slender = cutterSchema.parse({
  id: 'c',
  name: 'Ball 2',
  kind: 'ball',
  DC: 2,
  RE: 1,
  APMX: 2.5,
  DMM: 6,
  DN: 1.9,
  LN: 20,
  neckCone: 20,
  OAL: 60,
  ZEFP: 2,
  DCONMS: 6,
});

describe('cutters above their flutes', () => {
  it('a neck, its cone and the shank stand one on the other, without a gap, up to what clamps them', () => {
    const cone = (6 - 1.9) / 2 / Math.tan((20 * Math.PI) / 180);
    const stack = shankStack(slender);
    expect(stack.map((f) => f.length)).toEqual([17.5, expect.closeTo(cone, 9), expect.closeTo(40 - cone, 9)]);
    expect(neckEnd(slender)).toBeCloseTo(20 + cone, 9);
    fc.assert(
      fc.property(fc.double({ min: 2.5, max: 60, noNaN: true }), (stickOut) => {
        const { shank } = shapeAt(slender, stickOut);
        expect(shank.reduce((sum, f) => sum + f.length, 0)).toBeCloseTo(stickOut - 2.5, 6);
        for (let k = 1; k < shank.length; k++)
          expect(shank[k]!.bottomDiameter).toBeCloseTo(shank[k - 1]!.topDiameter, 9);
        for (const f of shank) expect(Math.max(f.bottomDiameter, f.topDiameter)).toBeLessThanOrEqual(6);
      }),
    );
  });

  it('its underside is the neck’s up to the cone, then rises with it to the shank’s radius', () => {
    const lowest = (d: number): number => Math.min(...shankProfile(shapeAt(slender, 50)).map((p) => heightAt(p, d)));
    expect(lowest(0.9)).toBe(2.5);
    const slope = 1 / Math.tan((20 * Math.PI) / 180);
    for (const d of [1, 1.5, 2, 2.9]) expect(lowest(d)).toBeCloseTo(20 + slope * (d - 0.95), 9);
    expect(lowest(3.01)).toBe(Infinity);
  });

  it('a neck that widens never grows beyond the shank, and one without a length or a place is refused', () => {
    const wide = cutterSchema.parse({ ...slender, neckTaper: 30 });
    for (const f of shankStack(wide)) expect(f.topDiameter).toBeLessThanOrEqual(6);
    for (const bad of [{ LN: null }, { DN: 7 }, { LN: 2 }, { LN: 70 }, { DN: null }])
      expect(cutterSchema.safeParse({ ...slender, ...bad }).success).toBe(false);
  });

  it('taken as measured its path is for what was measured: a ball stays a ball, a longer one stands out farther', () => {
    const tool = {
      cutter: slender,
      holder,
      extensions: [],
      assembly: { ...NOMINAL, stickOut: 50, measuredDiameter: 1.98, measuredLength: 101.2, asMeasured: true },
    };
    expect(shapeOf(tool)).toMatchObject({ DC: 1.98, RE: 0.99, stickOut: expect.closeTo(51.2, 9) });
    const nominal = { ...tool, assembly: { ...tool.assembly, asMeasured: false } };
    expect(shapeOf(nominal)).toMatchObject({ DC: 2, RE: 1, stickOut: 50 });
    expect(measuredSizes(nominal)).toEqual({ DC: 1.98, RE: 0.99, stickOut: expect.closeTo(51.2, 9) });
    // a length that was measured from elsewhere is refused once it is to count
    const cribOfOne = (assembly: Assembly) =>
      cribSchema.safeParse({ cutters: [slender], holders: [holder], assemblies: [assembly] });
    const wrong = { ...tool.assembly, measuredLength: 15.4 };
    expect(cribOfOne({ ...wrong, asMeasured: false }).success).toBe(true);
    expect(cribOfOne(wrong).error!.issues[0]!.message).toMatch(/would stick out -34.60 mm by its measured length/);
    expect(cribOfOne(tool.assembly).success).toBe(true);
    // no corner is larger than half the diameter
    const bull = { ...slender, kind: 'bull' as const, RE: 0.5 };
    const odd = { ...tool, cutter: bull, assembly: { ...tool.assembly, measuredDiameter: 0.8, measuredRadius: 0.6 } };
    expect(shapeOf(odd)).toMatchObject({ DC: 0.8, RE: 0.4 });
  });

  it('whatever kind and diameter is asked for, the usual cutter holds, stands on a shank as they are sold, and can be clamped', () => {
    fc.assert(
      fc.property(fc.constantFrom(...CUTTER_KINDS), fc.integer({ min: 5, max: 630 }), (kind, tenths) => {
        const made = cutterSchema.safeParse({ id: 'c', ...usualCutter(kind, tenths / 10) });
        expect(made.error?.issues).toBeUndefined();
        const { DC, DMM, OAL } = made.data!;
        if (kind !== 'face') expect(DMM).toBeGreaterThanOrEqual(Math.min(DC, 32));
        expect(neckEnd(made.data!)).toBeLessThan(OAL - 2 * DMM + 1e-9);
      }),
    );
  });
});
