import fc from 'fast-check';
import { describe, expect, it, vi } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { FIXTURE_CLEARANCE_MM } from '../field/bounds';
import { CancelFlag } from '../base/cancel';
import { contactMesh } from '../geometry/contactMesh';
import type { Body } from '../simulate/body';
import { ProfileDrop } from '../tool/drop';
import { roundProfile } from '../tool/profile';
import { fixtureContacts } from './fixtures';

const TOP = 5;
/** A clamp of 10 by 8 mm, its top at 5. */
const clamp = contactMesh(meshOf(sheet([0, 0, 10, 8], 2, -20, () => TOP)));
/** A flat end mill of 6 mm on a shank of 6 below a holder of 20 mm, whose lower end is 30 above the tip. */
const STICK_OUT = 30;
const body: Body = {
  piece: roundProfile(6, 0),
  shank: [{ kind: 'cone', z: 12, flat: 3, radius: 3, slope: 0 }],
  holder: [{ kind: 'cone', z: 0, flat: 10, radius: 10, slope: 0 }],
  stickOut: STICK_OUT,
  fluteLength: 12,
};
const near = numberIn(-3, 3);
const amounts = (points: Parameters<typeof pathOf>[0], span?: [number, number]) =>
  fixtureContacts(clamp, body, pathOf(points), span ?? [0, points.length]).map((m) => [m.motion, m.amount] as const);

describe('fixtures along a path', () => {
  it('over a clamp nothing comes nearer than the clearance; what does is told by how far it must be raised', () => {
    fc.assert(
      fc.property(near, near, near, (from, to, across) => {
        // the lowest place of the way is over the clamp's middle part, where its height is known
        const z = (by: number): number => TOP + FIXTURE_CLEARANCE_MM + by;
        const found = amounts([
          [2, 4 + across, z(from)],
          [8, 4 - across, z(to)],
        ]);
        const wanted = -Math.min(from, to);
        if (wanted > 1e-6) {
          expect(found).toHaveLength(1);
          expect(found[0]![0]).toBe(1);
          expect(found[0]![1]).toBeCloseTo(wanted, 9);
        } else expect(found).toEqual([]);
      }),
      { numRuns: 100, seed: 2 },
    );
  });

  it('beside a clamp the cutter keeps its radius and the clearance, on all four sides', () => {
    const reach = 3 + FIXTURE_CLEARANCE_MM;
    fc.assert(
      fc.property(
        fc.constantFrom(0, 1, 2, 3),
        fc.double({ min: 0.01, max: 2, noNaN: true }),
        fc.boolean(),
        (side, gap, isNear) => {
          const d = isNear ? reach - Math.min(gap, 1) : reach + gap;
          // past the whole length of one side, from corner to corner and beyond
          const ways = [
            [
              [-d, -30],
              [-d, 30],
            ],
            [
              [10 + d, -30],
              [10 + d, 30],
            ],
            [
              [-30, -d],
              [30, -d],
            ],
            [
              [-30, 8 + d],
              [30, 8 + d],
            ],
          ] as const;
          const [[x, y], [u, v]] = ways[side]!;
          const found = amounts([
            [x, y, -10],
            [u, v, -10],
          ]);
          expect(found.map(([motion]) => motion)).toEqual(isNear ? [1] : []);
          if (isNear) expect(found[0]![1]).toBeCloseTo(TOP + FIXTURE_CLEARANCE_MM + 10, 9);
        },
      ),
      { numRuns: 100, seed: 3 },
    );
  });

  it('the holder counts where it really is', () => {
    // 8 mm beside the clamp the cutter is clear, the holder is not as soon as its lower end is too low
    const at = (z: number) =>
      amounts([
        [-8, 2, 20],
        [-8, 4, 20],
        [-8, 4, z],
        [-8, 4, 20],
      ]);
    const lowest = TOP + FIXTURE_CLEARANCE_MM - STICK_OUT;
    expect(at(lowest + 0.01)).toEqual([]);
    const found = at(lowest - 2);
    expect(found.map(([motion]) => motion)).toEqual([2, 3]);
    expect(found[0]![1]).toBeCloseTo(2, 9);
  });

  it('a motion that comes from the clamp or goes to it counts, wherever the tool is before and after', () => {
    for (const [x, y] of [
      [-30, 4],
      [40, 4],
      [5, -30],
      [5, 40],
    ] as const) {
      const [inside, outside] = [
        [5, 4, 2],
        [x, y, 2],
      ] as const;
      expect(amounts([outside, outside, inside, outside, outside]).map(([motion]) => motion)).toEqual([2, 3]);
    }
  });

  it('only the motions asked for are looked at, and the place where a path begins', () => {
    const points = [
      [5, 4, 2],
      [5, 4, 20],
      [40, 4, 20],
      [40, 4, 2],
      [5, 4, 2],
    ] as const;
    expect(amounts(points).map(([motion]) => motion)).toEqual([1, 4]);
    expect(amounts(points, [2, 4])).toEqual([]);
    expect(amounts(points, [2, 5]).map(([motion]) => motion)).toEqual([4]);
  });

  it('what passes above all fixtures or beside them by the widest part of the tool is not looked at', () => {
    const looks = vi.spyOn(ProfileDrop.prototype, 'at');
    const widest = 10 + FIXTURE_CLEARANCE_MM;
    const looked = (from: readonly [number, number, number], to: readonly [number, number, number]): boolean => {
      looks.mockClear();
      amounts([from, to]);
      return looks.mock.calls.length > 0;
    };
    for (const [by, isLooked] of [
      [0.01, false],
      [-0.01, true],
    ] as const) {
      const d = widest + by;
      expect(looked([5, 4, TOP + FIXTURE_CLEARANCE_MM + by], [5, 5, 20])).toBe(isLooked);
      expect(looked([-d, 4, 0], [-d - 1, 4, 0])).toBe(isLooked);
      expect(looked([10 + d, 4, 0], [11 + d, 4, 0])).toBe(isLooked);
      expect(looked([5, -d, 0], [5, -d - 1, 0])).toBe(isLooked);
      expect(looked([5, 8 + d, 0], [5, 9 + d, 0])).toBe(isLooked);
    }
    // a motion begins where the one before ended, which was looked at with it
    looks.mockClear();
    amounts([
      [5, 4, 2],
      [5, 4.2, 2],
      [5, 4.4, 2],
    ]);
    expect(looks).toHaveBeenCalledTimes(3);
    looks.mockRestore();
  });

  it('is called off within 64 motions', () => {
    const cancel = new CancelFlag();
    const asked = vi.spyOn(cancel, 'check');
    const points = Array.from({ length: 200 }, (_, i) => [100 + i, 4, 2] as const);
    fixtureContacts(clamp, body, pathOf(points), [0, points.length], cancel);
    expect(asked).toHaveBeenCalledTimes(3);
    cancel.cancel();
    expect(() => fixtureContacts(clamp, body, pathOf(points), [0, points.length], cancel)).toThrow();
  });
});
