import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, revolved, squarePocket } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import type { Vec3 } from '../geometry/vector';
import { type PassPlanes, sketchOf } from './sketch';

const cone = contactMesh(
  meshOf(
    revolved([
      [0, 0],
      [20, -20],
      [20, -30],
      [0, -30],
    ]),
  ),
);
const pocket = contactMesh(meshOf(squarePocket(40, 12, 8, -8)));
const everywhere = (): boolean => true;
/** Ends of the lines as places. */
function ends(lines: Float32Array): Vec3[] {
  return Array.from({ length: lines.length / 3 }, (_, k) => [...lines.slice(3 * k, 3 * k + 3)] as Vec3);
}
function lengthOf(lines: Float32Array): number {
  let sum = 0;
  for (let k = 0; k < lines.length; k += 6)
    sum += Math.hypot(lines[k + 3]! - lines[k]!, lines[k + 4]! - lines[k + 1]!, lines[k + 5]! - lines[k + 2]!);
  return sum;
}

describe('the pattern of passes on a part', () => {
  it('lies in its planes, on the part, a step apart, and nowhere on the underside', () => {
    fc.assert(
      fc.property(numberIn(0, Math.PI), numberIn(0.4, 3), (angle, apart) => {
        const normal: Vec3 = [Math.sin(angle), -Math.cos(angle), 0];
        const { lines, every } = sketchOf(cone, [{ normal, at: { apart } }], everywhere);
        expect(every).toBe(1);
        // facets lie within the cone by less than R (1 - cos(180°/120))
        const off = ends(lines).map(([x, y, z]) => {
          const step = (normal[0] * x + normal[1] * y) / apart - 0.5;
          const r = Math.hypot(x, y);
          const outside = z < -20.001 ? Math.max(r - 20, -30 - z) : r + z;
          return Math.max(Math.abs(step - Math.round(step)) * apart, outside);
        });
        expect(Math.max(...off)).toBeLessThan(1e-3);
      }),
      { numRuns: 30 },
    );
  });

  it('at constant height it is circles on a cone: 2πr long at each height, only of the slopes and heights that are wanted', () => {
    fc.assert(
      fc.property(fc.integer({ min: -19, max: -1 }), (h) => {
        const level = (more: Partial<PassPlanes>): Float32Array =>
          sketchOf(cone, [{ normal: [0, 0, 1], at: [h - 0.25, -25], slopesDeg: [30, 60], ...more }], everywhere).lines;
        const r = 0.25 - h;
        const long = lengthOf(level({}));
        expect(long).toBeLessThan(2 * Math.PI * r + 1e-3);
        expect(long).toBeGreaterThan(2 * Math.PI * r * 0.999);
        expect(level({ bottom: h })).toHaveLength(0);
        expect(level({ top: h - 1 })).toHaveLength(0);
        expect(lengthOf(level({ slopesDeg: [80, 90] }))).toBeGreaterThan(2 * Math.PI * 20 * 0.999);
      }),
    );
  });

  it('ends at the heights and outlines that hold the step', () => {
    const family = { normal: [0, 1, 0] as Vec3, at: { apart: 1 } };
    const low = ends(sketchOf(pocket, [{ ...family, slopesDeg: [45, 90], bottom: -5, top: -2 }], everywhere).lines);
    expect(Math.min(...low.map(([, , z]) => z))).toBeCloseTo(-5, 5);
    expect(Math.max(...low.map(([, , z]) => z))).toBeCloseTo(-2, 5);
    const half = ends(sketchOf(pocket, [family], (x) => x > 0).lines);
    const whole = ends(sketchOf(pocket, [family], everywhere).lines);
    expect(half.length).toBeLessThan(whole.length);
    expect(half.length).toBeGreaterThan(0);
  });

  it('of very many passes only so many are drawn as can be told apart', () => {
    const { lines, every } = sketchOf(cone, [{ normal: [1, 0, 0], at: { apart: 0.001 } }], everywhere);
    expect(every).toBeGreaterThan(10);
    expect(lines.length / 6).toBeLessThan(40_000);
  });
});
