import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { frontLoad, rimTouches } from './front';
import { LevelSteel } from './levelSteel';
import type { PlanGrid } from './planGrid';

const R = 8;
const grid: PlanGrid = { x0: -20, y0: -20, step: R / 18, nx: 91, ny: 91 };
const field = (of: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: grid.nx * grid.ny }, (_, o) =>
    of(grid.x0 + (o % grid.nx) * grid.step, grid.y0 + Math.floor(o / grid.nx) * grid.step),
  );

describe('the load on the front of a cutter', () => {
  it('is arccos(1 - ae/R) beside a wall, on either side and in any direction (ISO 3002-3)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        numberIn(-Math.PI, Math.PI),
        fc.constantFrom(1, -1),
        (share, heading, side) => {
          const [cos, sin] = [Math.cos(heading), Math.sin(heading)];
          // steel beyond a line beside the motion
          const steel = field((x, y) => side * (sin * x - cos * y) - R * (1 - share));
          const load = frontLoad(grid, steel, R, 0, 0, cos, sin);
          expect(Math.abs(load - Math.acos(1 - share))).toBeLessThan(0.01);
        },
      ),
    );
  });

  it('is a half turn in full steel, and none in air', () => {
    expect(
      frontLoad(
        grid,
        field(() => 5),
        R,
        1,
        2,
        0.6,
        0.8,
      ),
    ).toBeCloseTo(Math.PI, 2);
    expect(
      frontLoad(
        grid,
        field(() => -1),
        R,
        1,
        2,
        0.6,
        0.8,
      ),
    ).toBe(0);
  });

  it('counts a thin arc dead ahead by what it removes: as much as a straight cut of the same area a mm', () => {
    // an arc of ± a about the heading removes 2 R sin a a mm
    for (const a of [0.1, 0.2, 0.3]) {
      const wedge = field((x, y) => (Math.abs(Math.atan2(y, x)) < a && x > 0 ? 1 : -1));
      const straight = Math.acos(1 - 2 * Math.sin(a));
      expect(straight).toBeGreaterThan(2 * a);
      expect(Math.abs(frontLoad(grid, wedge, R, 0, 0, 1, 0) - straight)).toBeLessThan(0.12);
    }
  });
});

describe('steel at a level', () => {
  const block = (): LevelSteel =>
    new LevelSteel(
      grid,
      field((x, y) => Math.min(15 - Math.abs(x), 15 - Math.abs(y))),
      field(() => 99),
      R,
    );

  it('is lowered by the area that a motion sweeps, and is air behind it', () => {
    const steel = block();
    const taken = steel.cut(-4, 1, 5, 1);
    // a stadium
    const area = 9 * 2 * R + Math.PI * R * R;
    // less what reaches beyond the block: nothing here, as 5 + R < 15
    expect(Math.abs(taken - area)).toBeLessThan(0.01 * area);
    expect(Math.abs(steel.areaLeft - (900 - area))).toBeLessThan(0.02 * 900);
    for (const x of [-4, 0, 5]) expect(rimTouches(grid, steel.left, R, x, 1)).toBe(false);
    expect(rimTouches(grid, steel.left, R, 6, 1)).toBe(true);
  });

  it('by short steps is the same as by one motion', () => {
    const [whole, steps] = [block(), block()];
    whole.cut(-5, -2, 5, 3);
    const n = 60;
    for (let k = 0; k < n; k++) {
      const at = (m: number): [number, number] => [-5 + (10 * m) / n, -2 + (5 * m) / n];
      steps.cut(...at(k), ...at(k + 1), k > 0);
    }
    for (let o = 0; o < whole.left.length; o++) {
      // near the border to the field's own precision; deep inside it only matters that nothing is left
      if (Math.abs(whole.left[o]!) < grid.step) expect(Math.abs(steps.left[o]! - whole.left[o]!)).toBeLessThan(0.02);
      expect(steps.left[o]! > 0).toBe(whole.left[o]! > 0);
    }
    expect(steps.areaLeft).toBeCloseTo(whole.areaLeft, 6);
  });

  it('that is taken back stands as before, and counts as before', () => {
    const steel = block();
    steel.cut(-4, 1, 0, 1);
    const before = {
      left: steel.left.slice(),
      area: steel.areaLeft,
      air: Array.from({ length: 400 }, (_, o) => steel.isAir(o)),
    };
    steel.watch();
    steel.cut(0, 1, 9, 4);
    steel.cut(9, 4, 2, -6, true);
    steel.takeBack();
    expect(steel.left).toEqual(before.left);
    expect(steel.areaLeft).toBe(before.area);
    expect(Array.from({ length: 400 }, (_, o) => steel.isAir(o))).toEqual(before.air);
  });

  it('leaves air only where the whole cutter is clear', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -12, max: 12 }), fc.integer({ min: -12, max: 12 })), {
          minLength: 2,
          maxLength: 6,
        }),
        (points) => {
          const steel = block();
          for (let k = 1; k < points.length; k++) steel.cut(...points[k - 1]!, ...points[k]!);
          const { ways } = steel;
          for (let o = 0; o < ways.nx * ways.ny; o += 7)
            if (steel.isAir(o)) {
              const [x, y] = [ways.x0 + (o % ways.nx) * ways.step, ways.y0 + Math.floor(o / ways.nx) * ways.step];
              expect(rimTouches(grid, steel.left, R - grid.step / 2, x, y)).toBe(false);
            }
        },
      ),
      { numRuns: 25 },
    );
  });
});
