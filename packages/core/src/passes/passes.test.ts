import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { oneClimb } from './climb';
import { leftBySteel } from './leftBySteel';
import { linesOver, MOST_HALVINGS } from './parallel';
import type { ScanRun } from './scan';

const runOf = (heights: readonly number[]): ScanRun => ({
  line: 3,
  points: Float64Array.from(heights.flatMap((z, k) => [k, 0, z])),
  stoppedBySteel: [true, true],
});

describe('passes one way of climbing', () => {
  const heights = fc.array(numberIn(-5, 5), { minLength: 2, maxLength: 40 });

  it('are the same way cut in pieces: none is lost, none is cut twice, and none leads the wrong way by more than allowed', () => {
    fc.assert(
      fc.property(
        heights,
        fc.constantFrom('up' as const, 'down' as const),
        fc.double({ min: 0.01, max: 2, noNaN: true }),
        (z, way, least) => {
          const sign = way === 'up' ? 1 : -1;
          const pieces = oneClimb([runOf(z)], way, least);
          const steps = new Set<number>();
          for (const { points, oneWay } of pieces) {
            expect(oneWay).toBe(true);
            let most = -Infinity;
            for (let k = 0; k < points.length; k += 3) {
              most = Math.max(most, sign * points[k + 2]!);
              expect(most - sign * points[k + 2]!).toBeLessThanOrEqual(least + 1e-12);
              if (k === 0) continue;
              const step = Math.min(points[k]!, points[k - 3]!);
              expect(Math.abs(points[k]! - points[k - 3]!)).toBe(1);
              expect(steps.has(step)).toBe(false);
              steps.add(step);
            }
          }
          expect(steps.size).toBe(z.length - 1);
          // steel ended it at its own two ends only
          expect(pieces.flatMap((p) => p.stoppedBySteel).filter(Boolean)).toHaveLength(2);
        },
      ),
    );
  });
});

describe('lines of parallel passes', () => {
  const size = fc.double({ min: 2, max: 60, noNaN: true });
  const box = fc
    .record({ w: size, d: size })
    .map(({ w, d }) => ({ minX: -w, minY: 1, minZ: 0, maxX: w, maxY: 1 + d, maxZ: 9 }));

  it('lie no farther apart than asked, one on each border, and cover all that the axis may stand over', () => {
    fc.assert(
      fc.property(box, fc.double({ min: 0.2, max: 3, noNaN: true }), numberIn(-3, 3), (b, step, angle) => {
        const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
        const lines = linesOver(b, 3, { angle, step, extra: 'none' });
        const across = lines.map((l) => l.y * ux - l.x * uy).sort((p, q) => p - q);
        across.slice(1).forEach((v, k) => expect(v - across[k]!).toBeLessThanOrEqual(step + 2e-3));
        const corners = [b.minX, b.maxX].flatMap((x) => [b.minY, b.maxY].map((y) => y * ux - x * uy));
        const [low, high] = [Math.min(...corners), Math.max(...corners)];
        for (const border of [low, high])
          expect(Math.min(...across.map((v) => Math.abs(v - border)))).toBeLessThanOrEqual(1.1e-3);
        expect(across[0]!).toBeLessThanOrEqual(low - 3 + 1e-9);
        expect(across.at(-1)!).toBeGreaterThanOrEqual(high + 3 - 1e-9);
      }),
    );
  });

  it('between them lie others at halves and quarters, which look at their neighbours as far as those lie', () => {
    const b = { minX: 0, minY: 0, minZ: 0, maxX: 20, maxY: 10, maxZ: 1 };
    const lines = linesOver(b, 2, { angle: 0, step: 0.8, extra: 'between' });
    const always = lines.filter((l) => !l.onlyBetween);
    expect(lines).toHaveLength((always.length - 1) * 2 ** MOST_HALVINGS + 1);
    const spacing = 10 / Math.ceil(10 / 0.8);
    for (const line of lines.filter((l) => l.onlyBetween)) {
      const { apart } = line.onlyBetween![0]!;
      // at that distance to both sides lie lines that are cut oftener
      const beside = lines.filter((l) => Math.abs(Math.abs(l.y - line.y) - apart) < 3e-3);
      expect(beside).toHaveLength(2);
      for (const l of beside) expect(l.onlyBetween?.[0]!.apart ?? spacing).toBeGreaterThan(apart);
    }
  });

  it('the other way round they are the same lines, with their numbers turned', () => {
    const b = { minX: 0, minY: 0, minZ: 0, maxX: 20, maxY: 10, maxZ: 1 };
    const layout = { angle: 0.3, step: 1, extra: 'across' as const };
    const [there, back] = [linesOver(b, 2, layout), linesOver(b, 2, { ...layout, isReversed: true })];
    expect(back.map((l) => l.number)).toEqual(there.map((l) => l.number));
    expect(back.map(({ x, y }) => [x, y])).toEqual(there.map(({ x, y }) => [x, y]).reverse());
  });
});

describe('places left by steel', () => {
  it('are told once for each that is not near another', () => {
    const place = fc.tuple(...[40, 40, 5].map((far) => numberIn(-far, far)));
    fc.assert(
      fc.property(fc.array(place as fc.Arbitrary<[number, number, number]>, { maxLength: 30 }), (ends) => {
        const told = leftBySteel(ends);
        for (const [x, y] of ends) expect(told.some((p) => Math.hypot(p.x - x, p.y - y) <= 12)).toBe(true);
        told.forEach((p, k) => {
          for (const q of told.slice(0, k)) expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeGreaterThanOrEqual(12);
        });
      }),
    );
  });
});
