import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { arcPoints, type ArcPlane, RADIUS_SLACK_MM } from './arc';

/** Rules of arcs after RS274/NGC 3.5.3 (NISTIR 6556, from memory) and ISO 6983-1. */

/** The two axes of a plane and its normal, by their places in a point: G18 is the ZX plane. */
const AXES: Record<ArcPlane, [number, number, number]> = { 17: [0, 1, 2], 18: [2, 0, 1], 19: [1, 2, 0] };
const LETTERS = ['I', 'J', 'K'];

const arcs = fc.record({
  plane: fc.constantFrom<ArcPlane>(17, 18, 19),
  centre: fc.tuple(numberIn(-50, 50), numberIn(-50, 50)),
  radius: fc.double({ min: 0.5, max: 40, noNaN: true }),
  start: numberIn(-3.1, 3.1),
  // no full circle, and none so near to it that its ends fall together
  sweep: fc.double({ min: 0.05, max: 6.2, noNaN: true }),
  clockwise: fc.boolean(),
  from: numberIn(-9, 9),
  rise: numberIn(-9, 9),
});
type Arc = typeof arcs extends fc.Arbitrary<infer T> ? T : never;

function endsOf({ plane, centre, radius, start, sweep, clockwise, from, rise }: Arc) {
  const [a, b, c] = AXES[plane];
  const at = (angle: number, along: number): [number, number, number] => {
    const p: [number, number, number] = [0, 0, 0];
    p[a] = centre[0] + radius * Math.cos(angle);
    p[b] = centre[1] + radius * Math.sin(angle);
    p[c] = along;
    return p;
  };
  const first = at(start, from);
  const last = at(start + (clockwise ? -sweep : sweep), from + rise);
  const words = { [LETTERS[a]!]: centre[0] - first[a]!, [LETTERS[b]!]: centre[1] - first[b]! };
  return { first, last, words };
}

/** That points run along the arc, in its direction, and rise evenly. */
function expectAlong(arc: Arc, points: readonly (readonly [number, number, number])[]): void {
  const { plane, centre, radius, start, sweep, clockwise, from, rise } = arc;
  const [a, b, c] = AXES[plane];
  let before = 0;
  points.forEach((p, k) => {
    const turned = (Math.atan2(p[b]! - centre[1], p[a]! - centre[0]) - start) * (clockwise ? -1 : 1);
    const angle = ((turned % (2 * Math.PI)) + 4 * Math.PI) % (2 * Math.PI);
    expect(Math.hypot(p[a]! - centre[0], p[b]! - centre[1])).toBeCloseTo(radius, 6);
    expect(angle).toBeGreaterThan(before - 1e-9);
    expect(angle).toBeCloseTo((sweep * (k + 1)) / points.length, 6);
    expect(p[c]).toBeCloseTo(from + (rise * (k + 1)) / points.length, 6);
    // a chord leaves the arc by its sagitta
    expect(radius * (1 - Math.cos((angle - before) / 2))).toBeLessThan(0.00101);
    before = angle;
  });
}

describe('arcs', () => {
  it('run from start to end around the centre that I, J, K tell, the way that G2 or G3 says, in every plane', () => {
    fc.assert(
      fc.property(arcs, (arc) => {
        const { first, last, words } = endsOf(arc);
        const points = arcPoints(first, last, arc.clockwise, arc.plane, words);
        expectAlong(arc, points);
        expect(points.at(-1)).toEqual(last);
      }),
      { numRuns: 60 },
    );
  });

  it('by their radius are the shorter arc with R above 0, the longer one with R below', () => {
    fc.assert(
      fc.property(arcs, (arc) => {
        fc.pre(Math.abs(arc.sweep - Math.PI) > 0.05 && arc.sweep > 0.1 && arc.sweep < 6.1);
        const { first, last } = endsOf(arc);
        const R = arc.sweep < Math.PI ? arc.radius : -arc.radius;
        expectAlong(arc, arcPoints(first, last, arc.clockwise, arc.plane, { R }));
      }),
      { numRuns: 60 },
    );
  });

  it('whose end is the start are full circles, once round in their direction', () => {
    for (const clockwise of [true, false]) {
      const points = arcPoints([13, 4, 0], [13, 4, 6], clockwise, 17, { I: -3 });
      const quarter = points[Math.round(points.length / 4) - 1]!;
      expect(quarter[0]).toBeCloseTo(10, 0);
      expect(quarter[1]).toBeCloseTo(clockwise ? 1 : 7, 1);
      expect(quarter[2]).toBeCloseTo(1.5, 1);
      expect(Math.max(...points.map((p) => p[0]))).toBeCloseTo(13, 3);
      expect(Math.min(...points.map((p) => p[0]))).toBeCloseTo(7, 2);
    }
  });

  it('whose radii differ by rounding go evenly from one to the other; by more they are refused', () => {
    const slack = RADIUS_SLACK_MM * 0.9;
    const points = arcPoints([10, 0, 0], [0, 10 + slack, 0], false, 17, { I: -10 });
    points.forEach((p, k) => expect(Math.hypot(p[0], p[1])).toBeCloseTo(10 + (slack * (k + 1)) / points.length, 6));
    for (const off of [1.1, -1.1])
      expect(() => arcPoints([10, 0, 0], [0, 10 + off * RADIUS_SLACK_MM, 0], false, 17, { I: -10 })).toThrow(
        /radius is 10.0000 mm at its start/,
      );
    expect(() => arcPoints([10, 0, 0], [0, 10, 0], false, 17, { I: 0, J: 0 })).toThrow(/radius 0/);
  });

  it('need a centre or a radius that reaches', () => {
    expect(() => arcPoints([0, 0, 0], [2, 0, 0], true, 17, { K: 1 })).toThrow(/needs a centre/);
    // one of two words is enough: the other is 0
    expect(arcPoints([0, 0, 0], [2, 0, 0], true, 17, { I: 1 }).at(-1)).toEqual([2, 0, 0]);
    expect(arcPoints([0, 0, 0], [1, 1, 0], true, 17, { J: 1 }).at(-1)).toEqual([1, 1, 0]);
    expect(() => arcPoints([0, 0, 0], [0, 0, 3], true, 17, { R: 5 })).toThrow(/full circle/);
    expect(() => arcPoints([0, 0, 0], [10, 0, 0], true, 17, { R: 4.99 })).toThrow(/more than twice/);
    // half a circle whose ends were rounded apart
    expect(arcPoints([0, 0, 0], [10.002, 0, 0], true, 17, { R: 5 }).at(-1)).toEqual([10.002, 0, 0]);
  });
});
