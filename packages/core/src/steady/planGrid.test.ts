import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { distanceTo, joined, lineAt, openDistance, type PlanGrid, valueAt } from './planGrid';
import { opened, roomOf } from './rooms';

const grid: PlanGrid = { x0: -12, y0: -9, step: 0.5, nx: 49, ny: 37 };
const each = (see: (x: number, y: number, o: number) => void): void => {
  for (let o = 0; o < grid.nx * grid.ny; o++)
    see(grid.x0 + (o % grid.nx) * grid.step, grid.y0 + Math.floor(o / grid.nx) * grid.step, o);
};
const toPiece = (x: number, y: number, [ax, ay, bx, by]: readonly number[]): number => {
  const [dx, dy] = [bx! - ax!, by! - ay!];
  const length = dx * dx + dy * dy;
  const t = length > 0 ? Math.max(0, Math.min(1, ((x - ax!) * dx + (y - ay!) * dy) / length)) : 0;
  return Math.hypot(x - ax! - t * dx, y - ay! - t * dy);
};
const [across, up] = [numberIn(-12, 12), numberIn(-9, 9)];
const circle = (x: number, y: number, r: number, way: 1 | -1): Float64Array =>
  Float64Array.from({ length: 400 }, (_, k) =>
    k % 2 === 0 ? x + r * Math.cos((way * Math.PI * k) / 200) : y + r * Math.sin((way * Math.PI * (k - 1)) / 200),
  );

describe('fields over the plan', () => {
  it('hold the distance from the nearest of any pieces, as far as it is asked for', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(across, up, across, up), { minLength: 1, maxLength: 8 }), (pieces) => {
        const field = distanceTo(grid, Float64Array.from(pieces.flat()), 6);
        let [below, beside, farther] = [0, 0, 0];
        each((x, y, o) => {
          const exact = Math.min(6, ...pieces.map((piece) => toPiece(x, y, piece)));
          const by = field[o]! - exact;
          below = Math.max(below, -by);
          if (exact < 2 * grid.step) beside = Math.max(beside, by);
          else farther = Math.max(farther, by);
        });
        // never less than the nearest piece, exact beside it; farther off hardly more, where a sweep passed its corner
        expect(below).toBeLessThan(1e-4);
        expect(beside).toBeLessThan(1e-4);
        expect(farther).toBeLessThan(0.05);
      }),
      { numRuns: 60 },
    );
  });

  it('tell what is open: outside what lies on the left of its border, and in its openings', () => {
    // a disc that is closed, with an opening in it
    const field = openDistance(grid, [circle(0, 0, 7, 1), circle(1, 0, 3, -1)], 20);
    each((x, y, o) => {
      const exact = Math.max(Math.hypot(x, y) - 7, 3 - Math.hypot(x - 1, y));
      expect(Math.abs(field[o]! - exact)).toBeLessThan(0.05);
    });
  });

  it('have lines of one value that close, and lie where the value is', () => {
    const field = new Float32Array(grid.nx * grid.ny);
    each((x, y, o) => (field[o] = Math.hypot(x, y)));
    for (const value of [2, 5.3, 7.9]) {
      const lines = joined(lineAt(grid, field, value));
      expect(lines).toHaveLength(1);
      const [line] = lines;
      expect(line!.slice(-2)).toEqual(line!.slice(0, 2));
      for (let k = 0; k < line!.length; k += 2) {
        expect(Math.abs(valueAt(grid, field, line![k]!, line![k + 1]!, 0) - value)).toBeLessThan(1e-4);
        expect(Math.abs(Math.hypot(line![k]!, line![k + 1]!) - value)).toBeLessThan(0.04);
      }
    }
  });

  it('opened by a circle lose what it cannot enter: a square corner by r (√2 - 1) along its diagonal', () => {
    const open = new Float32Array(grid.nx * grid.ny);
    each((x, y, o) => (open[o] = Math.min(x + 8, y + 6)));
    const radius = 3;
    const room = opened(grid, open, radius);
    // the circle in the corner has its middle at (-5, -3)
    for (const [x, y] of [
      [-7.5, -5.5],
      [-7, -5],
      [-6, -5],
    ] as const)
      expect(valueAt(grid, room, x, y, NaN)).toBeCloseTo(radius - Math.hypot(x + 5, y + 3), 1);
    expect(valueAt(grid, room, 4, -5, NaN)).toBeCloseTo(1, 2);
  });

  it('reach as far as the cutter goes beyond where its axis may be', () => {
    const axis = new Float32Array(grid.nx * grid.ny);
    each((x, y, o) => (axis[o] = 4 - Math.hypot(x, y)));
    const { reached } = roomOf(grid, axis, 2.5);
    each((x, y, o) => {
      const exact = 6.5 - Math.hypot(x, y);
      if (Math.abs(exact) < 1.5) expect(Math.abs(reached[o]! - exact)).toBeLessThan(0.05);
    });
  });
});
