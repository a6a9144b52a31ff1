import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pathOf, testCrib, testJob } from '../../test/shapes';
import { Motion, motionLength, type Toolpath } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { toolsOf } from '../tool/library';
import { evenFeed } from './evenFeed';
import { LoadAlong, type LoadConditions, loadLimits, type LoadQuantity } from './loadAlong';
import { EVEN_BY, type EvenFeed } from './stepCutting';

const { material, setup } = testJob([]);
const tool = toolsOf(testCrib())[1]!;
const conditions: LoadConditions = { n: 8000, tool, material, machine: setup.machine };
const VF = 1000;
const MAX = 12_000;

/** A straight row of cuts of some length each, after a way in, and stretches of steel in some of them. */
const cuts = fc.array(
  fc.record({
    length: fc.double({ min: 0.2, max: 6, noNaN: true }),
    ae: fc.oneof(fc.constant(0), fc.double({ min: 0.1, max: 12, noNaN: true })),
    ap: fc.double({ min: 0.5, max: 10, noNaN: true }),
  }),
  { minLength: 2, maxLength: 30 },
);
const wish = fc.record({
  by: fc.constantFrom(...EVEN_BY),
  most: fc.constant(null),
  least: fc.double({ min: 0.2, max: 1, noNaN: true }),
  fastest: fc.double({ min: 1, max: 3, noNaN: true }),
  perMm: fc.double({ min: 0.05, max: 2, noNaN: true }),
}) satisfies fc.Arbitrary<EvenFeed>;

function scene(row: readonly { length: number; ae: number; ap: number }[]): { path: Toolpath; engagement: Engagement } {
  let x = 3;
  const bare = pathOf([
    [0, 0, 5, Motion.rapid],
    [3, 0, 0, Motion.entry],
    ...row.map(({ length }) => [(x += length), 0, 0, Motion.cut] as const),
    [x, 0, 5, Motion.exit],
  ]);
  const path = { ...bare, feed: Float32Array.from(bare.kind, (kind) => (kind === Motion.rapid ? 0 : VF)) };
  const steel = row.flatMap((cut, k) => (cut.ae > 0 ? [{ ...cut, motion: k + 2 }] : []));
  const R = tool.cutter.DC / 2;
  const phi = steel.map(({ ae }) => Math.acos(1 - ae / R));
  const of = (values: number[]): Float32Array => Float32Array.from(values);
  return {
    path,
    engagement: {
      motion: Uint32Array.from(steel, (s) => s.motion),
      share: of(steel.map(() => 1)),
      length: of(steel.map((s) => s.length)),
      area: of(steel.map((s) => s.ae * s.ap)),
      surface: of(steel.map((s, k) => R * phi[k]! * s.ap)),
      angle: of(phi),
      width: of(steel.map((s) => s.ae)),
      depth: of(steel.map((s) => s.ap)),
      chip: of(phi.map((a) => (a < Math.PI / 2 ? Math.sin(a) : 1))),
    },
  };
}

describe('a feed that follows the load', () => {
  it('keeps it below what is allowed, or is the least; never leaves its bounds nor changes faster than it may', () => {
    fc.assert(
      fc.property(cuts, wish, fc.double({ min: 0.2, max: 2, noNaN: true }), (row, even, part) => {
        const { path, engagement } = scene(row);
        const along = new LoadAlong(engagement, conditions);
        const plain = along.all(path.feed)[even.by];
        const most = part * Math.max(1e-3, ...plain);
        const feed = evenFeed(path, engagement, conditions, even, most, MAX);
        const now = along.all(feed);
        // whatever it follows, the limits of machine and assembly hold
        const bounds = Object.entries({ ...loadLimits(conditions), [even.by]: most }) as [LoadQuantity, number][];
        engagement.motion.forEach((i, k) => {
          if (feed[i]! <= even.least * VF * (1 + 1e-5)) return;
          for (const [id, limit] of bounds) expect(now[id][k]).toBeLessThan(limit * (1 + 1e-4));
        });
        for (let i = 2; i < row.length + 2; i++) {
          expect(feed[i]).toBeGreaterThan(even.least * VF * (1 - 1e-5));
          expect(feed[i]).toBeLessThan(even.fastest * VF * (1 + 1e-5));
          // of two motions the faster one says over what length the feed changes
          const k = feed[i]! > feed[i - 1]! ? i : i - 1;
          if (i > 2)
            expect(Math.abs(feed[i]! - feed[i - 1]!)).toBeLessThan(even.perMm * VF * motionLength(path, k) + 1e-2);
        }
        expect(feed[row.length + 2]).toBe(VF);
        expect(feed[1]).toBeLessThanOrEqual(VF);
      }),
      { numRuns: 200 },
    );
  });

  it('goes as fast as is allowed, to a step of the feed, and through air at the fastest', () => {
    const even: EvenFeed = { by: 'chip', most: null, least: 0.3, fastest: 2, perMm: 10 };
    const { path, engagement } = scene([
      { length: 30, ae: 0, ap: 1 },
      { length: 30, ae: 1, ap: 4 },
      { length: 30, ae: 12, ap: 4 },
      { length: 30, ae: 0, ap: 1 },
    ]);
    // the chip of half the diameter and more
    const most = VF / (tool.cutter.ZEFP * conditions.n);
    const feed = evenFeed(path, engagement, conditions, even, most, MAX);
    expect(feed[2]).toBeCloseTo(2 * VF, 3);
    const thin = VF / Math.sin(Math.acos(1 - 1 / 6));
    expect(feed[3]!).toBeLessThanOrEqual(thin);
    expect(feed[3]!).toBeGreaterThan(thin - 0.021 * VF);
    expect(feed[4]).toBeCloseTo(VF, 3);
    expect(feed[5]).toBeCloseTo(2 * VF, 3);
    expect(evenFeed(path, engagement, conditions, even, most, 1500)[2]).toBe(1500);
  });
});
