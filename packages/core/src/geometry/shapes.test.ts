import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { outlineArea } from './outline';
import { outlineOfShape, type Shape, shapeProblem, shapeSchema } from './shapes';

const shape = fc.record({
  kind: fc.constantFrom('rectangle' as const, 'circle' as const, 'slot' as const, 'polygon' as const),
  x: numberIn(-50, 50),
  y: numberIn(-50, 50),
  turn: numberIn(-180, 180),
  length: fc.double({ min: 1, max: 80, noNaN: true }),
  width: fc.double({ min: 1, max: 80, noNaN: true }),
  corner: fc.oneof(fc.constant(0), fc.double({ min: 0.1, max: 20, noNaN: true })),
  sides: fc.integer({ min: 3, max: 12 }),
});

/** Area by the shape's own formula, mm². */
function areaOf({ kind, length: a, width: b, corner: r, sides: n }: Shape): number {
  if (kind === 'circle') return (Math.PI / 4) * a * a;
  if (kind === 'slot') return (a - b) * b + (Math.PI / 4) * b * b;
  if (kind === 'polygon') return (n / 8) * a * a * Math.sin((2 * Math.PI) / n);
  return a * b - (4 - Math.PI) * r * r;
}

describe('drawn shapes', () => {
  it('have the area of their kind, wherever they lie, counter-clockwise, with arcs off by 0.002 mm at most', () => {
    fc.assert(
      fc.property(shape, (s) => {
        fc.pre(shapeProblem(s) === undefined);
        expect(shapeSchema.safeParse(s).success).toBe(true);
        const points = outlineOfShape(s);
        const area = outlineArea(points);
        // a chord's segment is less than two thirds of its height times its length
        const round = s.kind === 'polygon' ? 0 : Math.PI * Math.max(s.length, s.width);
        expect(area).toBeLessThanOrEqual(areaOf(s) + 1e-6);
        expect(area).toBeGreaterThan(areaOf(s) - 0.002 * round - 1e-6);
        const middle = points.reduce(([a, b], [px, py]) => [a + px / points.length, b + py / points.length], [0, 0]);
        if (s.kind === 'polygon') expect(Math.hypot(middle[0]! - s.x, middle[1]! - s.y)).toBeLessThan(1e-6);
      }),
    );
  });

  it('that cannot be are refused at the size that is wrong', () => {
    const base = { x: 0, y: 0, turn: 0, length: 10, width: 6, corner: 0, sides: 6 };
    expect(shapeProblem({ ...base, kind: 'rectangle', corner: 3.1 })?.key).toBe('corner');
    expect(shapeProblem({ ...base, kind: 'rectangle', corner: 3 })).toBeUndefined();
    expect(shapeProblem({ ...base, kind: 'slot', length: 5 })?.key).toBe('length');
  });
});
