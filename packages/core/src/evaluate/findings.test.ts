import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { pathOf } from '../../test/shapes';
import { findingsOf } from './findings';

const place = fc.tuple(numberIn(-40, 40), numberIn(-40, 40), numberIn(-20, 0));

describe('what is wrong on many motions', () => {
  it('is told by places: each motion lies near the worst one of its place, and no two places lie near each other', () => {
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 2, maxLength: 50 }),
        fc.array(fc.tuple(fc.nat(), fc.double({ min: 0.01, max: 9, noNaN: true })), { minLength: 1, maxLength: 80 }),
        fc.double({ min: 1, max: 30, noNaN: true }),
        (points, hits, near) => {
          const path = pathOf(points);
          const mishaps = hits.map(([k, amount]) => ({ kind: 'holder' as const, motion: k % points.length, amount }));
          const [finding, ...others] = findingsOf(path, near, mishaps, []);
          expect(others).toEqual([]);
          const most = new Map<number, number>();
          for (const { motion, amount } of mishaps) most.set(motion, Math.max(amount, most.get(motion) ?? 0));
          const { places, count, motion, amount } = finding!;
          expect(count).toBe(most.size);
          expect(most.get(motion)).toBe(amount);
          expect(amount).toBe(Math.max(...most.values()));
          expect(places.reduce((sum, p) => sum + p.count, 0)).toBe(count);
          const away = (a: number, b: number): number =>
            Math.hypot(path.x[a]! - path.x[b]!, path.y[a]! - path.y[b]!, path.z[a]! - path.z[b]!);
          for (const own of most.keys()) {
            const nearest = places.reduce((best, p) => (away(p.motion, own) < away(best.motion, own) ? p : best));
            expect(away(nearest.motion, own)).toBeLessThanOrEqual(near);
          }
          places.forEach((a, i) =>
            places.slice(i + 1).forEach((b) => expect(away(a.motion, b.motion)).toBeGreaterThan(near)),
          );
          expect(places.map((p) => p.motion)).toContain(motion);
          expect(places.map((p) => p.motion)).toEqual([...places].map((p) => p.motion).sort((a, b) => a - b));
        },
      ),
    );
  });

  it('a gouge and a contact of the shank at one motion are two findings', () => {
    const path = pathOf([
      [0, 0, 0],
      [10, 0, 0],
    ]);
    const found = findingsOf(
      path,
      5,
      [{ kind: 'shank', motion: 1, amount: 0.2 }],
      [{ motion: 1, depth: 0.1 } as never],
    );
    expect(found.map((f) => [f.kind, f.places.length])).toEqual([
      ['shank', 1],
      ['gouge', 1],
    ]);
  });
});
