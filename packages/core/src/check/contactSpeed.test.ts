import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { contactSpeedOf, contactSpeeds, emptySpeeds } from './contactSpeed';

describe('speed of a ball where it touches', () => {
  it('on a plane it is the sine of its slope of that at DC, whatever way the ball goes; off it there is none', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1.4, noNaN: true }),
        fc.double({ min: 0, max: Math.PI, noNaN: true }),
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
});
