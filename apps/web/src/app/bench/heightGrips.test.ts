import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { draggedTo, frameCorners, gripAt, type HeightGrip, levelPlaces } from './heightGrips';

const BOX = { minX: -40, maxX: 60, minY: -30, maxY: 30 };
const CORNERS = frameCorners(BOX, 3);
/** Seen from the front, slightly from above: a millimetre of height is `s` pixels upward. */
const seenAt =
  (s: number) =>
  (x: number, y: number, z: number): [number, number] => [400 + s * x, 300 - s * z - 0.1 * s * y];
const height = (key: string, z: number, isOpen = false): HeightGrip => ({ key, label: key, z, isOpen });
const scale = fc.double({ min: 0.5, max: 20, noNaN: true });

describe('heights dragged on the bench', () => {
  it('the one is taken whose frame is seen under the pointer, and none beside all of them', () => {
    const grips = [height('top', 10), height('bottom', -20)];
    fc.assert(
      fc.property(scale, fc.double({ min: -43, max: 63, noNaN: true }), fc.constantFrom(...grips), (s, x, grip) => {
        const seen = seenAt(s);
        const at = seen(x, CORNERS[0]![1], grip.z);
        expect(gripAt(grips, CORNERS, seen, [at[0], at[1] + 3])).toBe(grip);
        expect(gripAt(grips, CORNERS, seen, [at[0], at[1] + 3 + 60 * s])).toBeUndefined();
      }),
    );
  });

  it('of two at one place the one with a value is taken, and none when looked at from above', () => {
    const grips = [height('top', 5, true), height('bottom', 5)];
    const seen = seenAt(4);
    expect(gripAt(grips, CORNERS, seen, seen(0, CORNERS[0]![1], 5))?.key).toBe('bottom');
    const above = (x: number, y: number): [number, number] => [x, -y];
    expect(gripAt(grips, CORNERS, above, above(0, CORNERS[0]![1]))).toBeUndefined();
  });

  it('it goes with the pointer, in steps that are seen as two pixels at most, whatever the unit', () => {
    fc.assert(
      fc.property(scale, fc.integer({ min: -300, max: 300 }), fc.constantFrom(1, 25.4), (s, down, unit) => {
        const z = draggedTo(2, seenAt(s), [17, down], [], unit);
        expect(Math.abs(z - (2 - down / s)) * s).toBeLessThanOrEqual(1.001);
        const steps = z / unit / 0.001;
        expect(Math.abs(steps - Math.round(steps))).toBeLessThan(0.01);
      }),
    );
  });

  it('a level place of the part holds it while it is near, the nearest of several', () => {
    const levels = [-7.317, -7.1, 12];
    const seen = seenAt(10);
    expect(draggedTo(0, seen, [0, 72], levels)).toBe(-7.1);
    expect(draggedTo(0, seen, [0, 73], levels)).toBe(-7.317);
    expect(draggedTo(0, seen, [0, 60], levels)).toBeCloseTo(-6, 6);
  });

  it('level places are the heights of level edges along the spindle, told from the zero', () => {
    // prettier-ignore
    const folds = new Float32Array([0, 5, 0, 10, 5, 3, 0, 5, 0, 0, 8, 0, 2, -4, 1, 9, -4, 7]);
    expect([...levelPlaces(folds, [0, 1, 0], 1)]).toEqual([4, -5]);
    expect([...levelPlaces(folds, [0, 0, 1], 0)]).toEqual([0]);
  });
});
