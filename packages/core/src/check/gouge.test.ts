import fc from 'fast-check';
import { describe, expect, it, vi } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { CutterDrop } from '../tool/drop';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { contactMesh } from '../geometry/contactMesh';
import { gougesAlong } from './gouge';

type Round = RoundPiece;
const CUTTERS: [string, Round][] = [
  ['flat', roundProfile(6, 0) as Round],
  ['bull-nose', roundProfile(8, 1.5) as Round],
  ['ball', roundProfile(5, 2.5) as Round],
];
const TOLERANCE = 0.01;

/** A plane that rises along X by `slope`. */
const inclined = (slope: number) => contactMesh(meshOf(sheet([-30, -20, 30, 20], 2, -60, (x) => slope * x)));

describe('gouges along a path', () => {
  it('a ball that is led e below a plane of slope θ gouges by e - tolerance / cos θ along Z, one that is led on it never', () => {
    fc.assert(
      fc.property(
        numberIn(0, 70),
        fc.double({ min: 0.05, max: 0.6, noNaN: true }),
        numberIn(-10, 10),
        numberIn(-10, 10),
        (deg, e, x, y) => {
          const cos = Math.cos((deg * Math.PI) / 180);
          const slope = Math.tan((deg * Math.PI) / 180);
          const [, ball] = CUTTERS[2]!;
          // centre R / cos above the plane below it
          const tip = (at: number): number => slope * at + ball.radius / cos - ball.radius;
          const line = (by: number) =>
            pathOf([
              [-12, -10, tip(-12) - by],
              [x, y, tip(x) - by],
            ]);
          const part = inclined(slope);
          expect(gougesAlong(part, ball, line(0), [0, 2], TOLERANCE)).toEqual([]);
          const wanted = e - TOLERANCE / cos;
          const found = gougesAlong(part, ball, line(e), [0, 2], TOLERANCE);
          if (wanted > 1e-6) expect(found[0]!.depth).toBeCloseTo(wanted, 6);
          else expect(found).toEqual([]);
        },
      ),
      { numRuns: 60 },
    );
  });

  it.each(CUTTERS)('%s: finds on crooked paths close to a surface what a look every 0.1 mm finds', (_, piece) => {
    const part = contactMesh(
      meshOf(
        sheet([-20, -20, 20, 20], 0.8, -20, (x, y) => {
          const wall = Math.abs(x) < 6 && Math.abs(y) < 9 ? -7 : 0;
          return wall + 1.5 * Math.sin(x / 3) * Math.cos(y / 4);
        }),
      ),
    );
    const corner = Math.max(0, piece.corner - TOLERANCE);
    const flat = piece.radius - TOLERANCE - corner;
    const slim = new CutterDrop(part, { kind: 'round', z: 0, flat, corner, radius: flat + corner });
    const lift = piece.corner > 0 ? piece.corner - corner : TOLERANCE;
    const exact = new CutterDrop(part, piece);
    const place = numberIn(-18, 18);
    // mostly above the surface, here and there a little inside it
    const above = numberIn(-0.05, 0.6);
    let gouged = 0;
    let clear = 0;
    fc.assert(
      fc.property(fc.array(fc.tuple(place, place, above), { minLength: 2, maxLength: 12 }), (points) => {
        const path = pathOf(points.map(([x, y, up]) => [x, y, exact.at(x, y) + up]));
        const found = new Map(gougesAlong(part, piece, path, [0, points.length], TOLERANCE).map((g) => [g.motion, g]));
        for (let i = 1; i < points.length; i++) {
          const [dx, dy, dz] = [path.x, path.y, path.z].map((c) => c[i]! - c[i - 1]!) as [number, number, number];
          const steps = Math.max(1, Math.ceil(Math.hypot(dx, dy, dz) / 0.1));
          let depth = 0;
          for (let k = 1; k <= steps; k++) {
            const t = k / steps;
            const tip = path.z[i - 1]! + t * dz + lift;
            depth = Math.max(depth, slim.at(path.x[i - 1]! + t * dx, path.y[i - 1]! + t * dy) - tip);
          }
          if (depth > 0) gouged++;
          else clear++;
          expect(found.get(i)?.depth ?? 0).toBeCloseTo(depth, 9);
        }
      }),
      { numRuns: 150 },
    );
    expect(gouged).toBeGreaterThan(50);
    expect(clear).toBeGreaterThan(50);
  });

  it('a short way into a level plane is found at its end, wherever the way begins and however steep it is', () => {
    const level = inclined(0);
    const below = numberIn(-0.02, 0.05);
    const height = fc.double({ min: 0.1, max: 12, noNaN: true });
    const length = numberIn(0, 18);
    fc.assert(
      fc.property(fc.constantFrom(...CUTTERS), below, height, length, fc.boolean(), ([, piece], e, up, far, rises) => {
        const low = [-9, 0, -e] as const;
        const high = [-9 + far, 0, up] as const;
        const found = gougesAlong(level, piece, pathOf(rises ? [low, high] : [high, low]), [0, 2], TOLERANCE);
        // the first look is a stretch behind the beginning, which the motion before has looked at
        const looks = Math.ceil(Math.hypot(far, up + e) / 0.1);
        const depth = e - TOLERANCE - (rises ? (up + e) / looks : 0);
        if (depth > 1e-9) expect(found[0]?.depth).toBeCloseTo(depth, 9);
        else if (depth < -1e-9) expect(found).toEqual([]);
      }),
      { numRuns: 300, seed: 8 },
    );
  });

  it('a cone, as shanks and holders have them, is looked at where it is: above the tip, as wide as it is there', () => {
    // a block whose upright side lies at X = 0, its top at 0
    const block = contactMesh(meshOf(sheet([0, -20, 30, 20], 2, -60, () => 0)));
    const cone = { kind: 'cone', z: 10, flat: 2, radius: 6, slope: 1.5 } as const;
    fc.assert(
      fc.property(fc.double({ min: 0.05, max: 8, noNaN: true }), numberIn(-30, 2), (aside, tip) => {
        const path = pathOf([
          [-aside, -8, tip],
          [-aside, 8, tip],
        ]);
        const found = gougesAlong(block, cone, path, [0, 2], TOLERANCE);
        // the slimmer cone at the block's edge, and by how much it would have to be raised
        const flat = 2 - TOLERANCE;
        const under = aside > 6 - TOLERANCE ? Infinity : tip + TOLERANCE + 10 + 1.5 * Math.max(0, aside - flat);
        if (under < -1e-6) expect(found[0]?.depth).toBeCloseTo(-under, 6);
        else if (under > 1e-6) expect(found).toEqual([]);
      }),
      { numRuns: 200, seed: 9 },
    );
  });

  it('a thin wall across a long way is found wherever it stands, and with its whole depth', () => {
    const pin = roundProfile(0.6, 0) as Round;
    fc.assert(
      fc.property(numberIn(-18, 18), fc.double({ min: 2, max: 19, noNaN: true }), (at, end) => {
        const wall = contactMesh(meshOf(sheet([at - 0.1, -5, at + 0.1, 5], 0.2, -9, () => 0)));
        const points = [
          [-19, 0, -0.3],
          [end, 0, -0.3],
        ] as const;
        for (const way of [points, [...points].reverse()]) {
          const found = gougesAlong(wall, pin, pathOf(way), [0, 2], TOLERANCE);
          if (at < end) expect(found[0]?.depth).toBeCloseTo(0.3 - TOLERANCE, 9);
          else if (at > end + 0.5) expect(found).toEqual([]);
        }
      }),
      { numRuns: 150, seed: 12 },
    );
  });

  it('a corner smaller than the tolerance is given the whole tolerance from below, too', () => {
    const corner = roundProfile(6, TOLERANCE / 3) as Round;
    for (const e of [0.5 * TOLERANCE, 2 * TOLERANCE, 0.4]) {
      const path = pathOf([
        [-9, 0, -e],
        [9, 0, -e],
      ]);
      const found = gougesAlong(inclined(0), corner, path, [0, 2], TOLERANCE);
      if (e < TOLERANCE) expect(found).toEqual([]);
      else expect(found[0]!.depth).toBeCloseTo(e - TOLERANCE, 9);
    }
  });

  describe('how often is looked', () => {
    const pin = roundProfile(2, 0) as Round;
    // a block with an upright side at X = 0, looked at along it
    const side = contactMesh(meshOf(sheet([0, -90, 30, 90], 5, -60, () => 0)));
    const looks = (points: readonly (readonly [number, number, number])[]): { close: number; whole: number } => {
      const close = vi.spyOn(CutterDrop.prototype, 'at');
      const whole = vi.spyOn(CutterDrop.prototype, 'exceeds');
      try {
        gougesAlong(side, pin, pathOf(points), [0, points.length], TOLERANCE);
        return { close: close.mock.calls.length, whole: whole.mock.calls.length };
      } finally {
        close.mockRestore();
        whole.mockRestore();
      }
    };
    const beside = (x: number, length: number, z = -5) =>
      looks([
        [x, -length / 2, z],
        [x, length / 2, z],
      ] as const);

    it('over the part never, clear beside it by half of the longest stretch at stretches alone', () => {
      expect(beside(5, 160, 0)).toEqual({ close: 0, whole: 0 });
      // one stretch of each length, then the longest: 0.4 + 0.8 + 1.6 + n · 3.2 mm
      for (const length of [32, 160]) {
        const { close, whole } = beside(-1 - 1.6 - 0.1, length);
        expect(close).toBe(0);
        expect(whole).toBe(3 + Math.ceil((length - 2.8) / 3.2));
      }
    });

    it('nearer to it at the stretches that are clear there, and a longer one is tried again now and then', () => {
      const { close, whole } = beside(-1 - 0.4 - 0.05, 160);
      expect(close).toBe(0);
      // stretches of 0.8 mm, and after six of them one of 1.6 mm that is not clear
      expect(whole).toBeGreaterThan(160 / 0.8);
      expect(whole).toBeLessThan((160 / 0.8) * (7 / 6) + 5);
    });

    it('along steel that is touched all the way every 0.1 mm, and one stretch is tried for sixteen looks', () => {
      const { close, whole } = beside(0, 160);
      expect(close).toBe(1600);
      expect(whole).toBe(100);
    });

    it('a short motion is looked at once, and goes on where the one before it was', () => {
      expect(beside(-5, 0.05)).toEqual({ close: 1, whole: 0 });
      const steps = Array.from({ length: 33 }, (_, k) => [-9, 0.05 * k, -5] as const);
      expect(looks(steps)).toEqual({ close: 32, whole: 0 });
    });

    it('work that is called off ends', () => {
      const points = Array.from({ length: 300 }, (_, k) => [-9, k / 10, -5] as const);
      let asked = 0;
      const cancel = {
        check: () => {
          if (++asked === 3) throw new Error('called off');
        },
      };
      expect(() => gougesAlong(side, pin, pathOf(points), [0, 300], TOLERANCE, cancel as never)).toThrow('called off');
      expect(asked).toBe(3);
      asked = -9;
      gougesAlong(side, pin, pathOf(points), [0, 300], TOLERANCE, cancel as never);
      // every 64th motion
      expect(asked).toBe(-9 + Math.floor(299 / 64));
    });
  });

  it('only the motions asked for are looked at', () => {
    const points = [
      [0, 0, -1],
      [5, 0, -1],
      [5, 0, 9],
      [9, 0, 9],
      [9, 0, -1],
    ] as const;
    const motions = (span: [number, number]) =>
      gougesAlong(inclined(0), CUTTERS[0]![1], pathOf(points), span, TOLERANCE).map((g) => g.motion);
    expect(motions([0, 5])).toEqual([1, 2, 4]);
    expect(motions([2, 4])).toEqual([2]);
    expect(motions([3, 4])).toEqual([]);
  });
});
