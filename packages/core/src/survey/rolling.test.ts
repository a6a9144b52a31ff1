import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { contactMesh } from '../geometry/contactMesh';
import type { Vec3 } from '../geometry/vector';
import { meshOf, sheet } from '../../test/shapes';
import { Rolling, ROOMY_MM } from './rolling';
import { surfaceOf } from './surface';
import { surveyOf } from './survey';

/** A trough along Y whose section is an arc of radius `r` between flanks at 60 degrees, in facets `step` mm wide. */
function trough(r: number, step: number) {
  const half = r * Math.sin(Math.PI / 3);
  const depth = (x: number): number => {
    const a = Math.abs(x);
    return a < half ? -Math.sqrt(r * r - a * a) : -r / 2 + (a - half) * Math.sqrt(3);
  };
  return meshOf(sheet([-3 * r, -10, 3 * r, 10], step, -r - 5, depth));
}

describe('balls rolled over a part', () => {
  it('in a trough they are as large as its radius, though its facets stand inside the arc', () => {
    fc.assert(
      fc.property(fc.double({ min: 2, max: 12, noNaN: true }), fc.integer({ min: 14, max: 30 }), (r, facets) => {
        const step = r / facets;
        const roll = new Rolling(contactMesh(trough(r, step)));
        // at a corner of the facets, with the arc's own normal
        const x = step * Math.round(0.4 / (step / r));
        const z = -Math.sqrt(r * r - x * x);
        const at: Vec3 = [x, 0.3, z];
        const turn = step / Math.sqrt(r * r - x * x);
        const found = roll.at(at, [-x / r, 0, -z / r], ROOMY_MM, turn);
        // facets stand inside the arc, and a ball may sink into them: that is told to 5 %
        expect(found / r).toBeGreaterThan(0.95);
        expect(found / r).toBeLessThan(1.05);
      }),
      { numRuns: 40 },
    );
  });

  it('a hair of noise on a plane does not shrink them: the radius told never jumps', () => {
    fc.assert(
      fc.property(numberIn(0, 0.019), fc.double({ min: 0.3, max: 3, noNaN: true }), (noise, at) => {
        const bumps = sheet([-20, -20, 20, 20], 0.5, -5, (x, y) =>
          Math.abs(x - 2) < 0.1 && Math.abs(y) < 0.1 ? noise : 0,
        );
        const roll = new Rolling(contactMesh(meshOf(bumps)));
        expect(roll.at([2 - at, 0, 0], [0, 0, 1], ROOMY_MM)).toBe(ROOMY_MM);
      }),
      { numRuns: 40 },
    );
  });

  it('over a wavy surface neighbouring corners are told nearly the same room', () => {
    // hollows of radius 1 / (A k²) = 12 mm at their bottoms
    const [amplitude, k] = [1.2, Math.sqrt(1 / (12 * 1.2))];
    const mesh = meshOf(
      sheet([-30, -20, 30, 20], 0.7, -9, (x, y) => amplitude * Math.sin(k * x) * Math.cos(0.2 * k * y)),
    );
    const survey = surveyOf(surfaceOf(mesh), contactMesh(mesh));
    const { radius } = survey.tightness;
    let most = 0;
    let hollow = Infinity;
    for (let t = 0; t < survey.triangles; t++) {
      if (survey.slopeOf[t]! > 45) continue;
      const [a, b, c] = [radius[3 * t]!, radius[3 * t + 1]!, radius[3 * t + 2]!];
      most = Math.max(most, Math.max(a, b, c) - Math.min(a, b, c));
      hollow = Math.min(hollow, a, b, c);
    }
    expect(most).toBeLessThan(2);
    expect(hollow).toBeGreaterThan(10.5);
    expect(hollow).toBeLessThan(13.5);
  });
});
