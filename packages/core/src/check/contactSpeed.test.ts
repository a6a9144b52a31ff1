import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { EsquisseError } from '../base/errors';
import { contactMesh } from '../geometry/contactMesh';
import { Motion } from '../path/toolpath';
import { contactSpeedOf, contactSpeeds, emptySpeeds } from './contactSpeed';

describe('speed of a ball where it touches', () => {
  it('on a plane it is the sine of its slope of that at DC, whatever way the ball goes; off it there is none', () => {
    fc.assert(
      fc.property(
        numberIn(0, 1.4),
        numberIn(0, Math.PI),
        fc.double({ min: 0.5, max: 5, noNaN: true }),
        (slope, way, radius) => {
          const tan = Math.tan(slope);
          const part = contactMesh(meshOf(sheet([-40, -40, 40, 40], 20, -300, (x) => tan * x)));
          // the middle lies over the place that it touches along the normal
          const at = (s: number, off: number): [number, number, number] => {
            const [x, y] = [s * Math.cos(way), s * Math.sin(way)];
            const r = radius + off;
            return [x - r * Math.sin(slope), y, tan * x + r * Math.cos(slope) - radius];
          };
          const path = pathOf([at(-2, 0), at(2, 0), at(3, 0.5), at(4, 0.5)]);
          const percent = emptySpeeds(4);
          contactSpeeds({ part, path, radius, leaves: 0, percent, span: [0, 4] });
          expect(Math.abs(percent[1]! - 100 * Math.sin(slope))).toBeLessThan(0.6);
          expect(percent[3]).toBe(255);
          const found = contactSpeedOf(path, percent)!;
          expect(found.median).toBe(percent[1]);
          expect(found.slow).toBe(percent[1]! < 20 ? 1 : 0);
        },
      ),
      { numRuns: 30 },
    );
  });

  it('on a plane that leans any way, beside the origin, and off it by what is left and no farther; rapids touch nothing', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 1.2, noNaN: true }),
        numberIn(-Math.PI, Math.PI),
        numberIn(0, 2),
        (slope, turn, leaves) => {
          const radius = 3;
          const tan = Math.tan(slope);
          const [ux, uy] = [Math.cos(turn), Math.sin(turn)];
          const part = contactMesh(meshOf(sheet([-10, -30, 50, 30], 20, -300, (x, y) => tan * (x * ux + y * uy))));
          const at = (x: number, y: number, off: number, kind?: Motion): [number, number, number, Motion?] => {
            const r = radius + off;
            return [
              x - r * Math.sin(slope) * ux,
              y - r * Math.sin(slope) * uy,
              tan * (x * ux + y * uy) + r * Math.cos(slope) - radius,
              kind,
            ];
          };
          const far = leaves + 0.15;
          const path = pathOf([
            at(19, 9, leaves),
            at(21, 11, leaves),
            at(22, 12, far, Motion.rapid),
            at(22, 12, far),
            at(23, 12, far),
            at(24, 12, leaves + 0.05),
            at(25, 12, leaves + 0.05),
          ]);
          const percent = emptySpeeds(7);
          contactSpeeds({ part, path, radius, leaves, percent, span: [0, 7] });
          expect(Math.abs(percent[1]! - 100 * Math.sin(slope))).toBeLessThan(0.6);
          expect([...percent.subarray(2, 5)]).toEqual([255, 255, 255]);
          expect(percent[0]).toBe(255);
          expect(percent[6]).toBe(percent[1]);
          // spans are filled in by themselves
          const parts = emptySpeeds(7);
          for (const span of [[3, 7] as const, [0, 3] as const])
            contactSpeeds({ part, path, radius, leaves, percent: parts, span });
          expect(parts).toEqual(percent);
        },
      ),
      { numRuns: 30 },
    );
  });

  it('what motions come to is their length: the share slower than a fifth, and the speed that half of it is faster than', () => {
    const motion = fc.record({
      x: numberIn(-9, 9),
      y: numberIn(-9, 9),
      z: numberIn(-9, 9),
      percent: fc.oneof(fc.integer({ min: 0, max: 100 }), fc.constant(255)),
    });
    fc.assert(
      fc.property(fc.array(motion, { minLength: 2, maxLength: 12 }), (motions) => {
        const path = pathOf(motions.map(({ x, y, z }) => [x, y, z]));
        const percent = Uint8Array.from(motions, (m) => m.percent);
        const found = contactSpeedOf(path, percent);
        const rows = motions
          .map((m, k) => ({
            ...m,
            length: k > 0 ? Math.hypot(m.x - motions[k - 1]!.x, m.y - motions[k - 1]!.y, m.z - motions[k - 1]!.z) : 0,
          }))
          .slice(1)
          .filter((m) => m.percent <= 100);
        const whole = rows.reduce((sum, m) => sum + m.length, 0);
        if (whole === 0) {
          expect(found).toBeUndefined();
          return;
        }
        const below = (limit: number): number =>
          rows.filter((m) => m.percent < limit).reduce((sum, m) => sum + m.length, 0);
        expect(found!.slow).toBeCloseTo(below(20) / whole, 9);
        expect(below(found!.median)).toBeLessThanOrEqual(whole / 2 + 1e-9);
        expect(below(found!.median + 1)).toBeGreaterThanOrEqual(whole / 2 - 1e-9);
      }),
    );
    expect(
      contactSpeedOf(
        pathOf([
          [0, 0, 0],
          [0, 0, 0],
        ]),
        Uint8Array.of(255, 50),
      ),
    ).toBeUndefined();
  });

  it('is called off on a long path', () => {
    const part = contactMesh(meshOf(sheet([-40, -40, 40, 40], 20, -30, () => 0)));
    const path = pathOf(Array.from({ length: 400 }, (_, k) => [k / 20, 0, 0]));
    const check = (): never => {
      throw new EsquisseError('cancelled', 'Called off.');
    };
    const ask = { part, path, radius: 3, leaves: 0, percent: emptySpeeds(400), span: [0, 400] as const };
    expect(() => contactSpeeds(ask, { check })).toThrow('Called off.');
    // and needs nobody who could
    contactSpeeds(ask);
    expect(ask.percent[399]).toBe(0);
  });
});
