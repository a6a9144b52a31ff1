import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { scallopOf, sideStepFor } from '../passes/scallop';
import { type HeightMap, gridOver } from '../steel/heightMap';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { NOT_CUT, OUT_OF_REACH, ridgeRows } from './ridgeField';

const R = 3;
const piece = roundProfile(2 * R, R) as RoundPiece;

/** A field over a part, with level passes of a ball along X that many mm apart from `fromY` on. */
function field(
  soup: number[],
  step: number,
  fromY: number,
  change: { slopes?: [number, number]; stride?: number; allowance?: number; rows?: [number, number] } = {},
) {
  const part = contactMesh(meshOf(soup));
  const points: [number, number, number][] = [];
  for (let y = fromY, k = 0; y <= 16; y += step, k++) {
    const ends = k % 2 === 0 ? [-30, 30] : [30, -30];
    points.push([ends[0]!, y, change.allowance ?? 0], [ends[1]!, y, change.allowance ?? 0]);
  }
  const frame = gridOver({ ...part.box, minZ: -20, maxZ: 0 }, 0.2);
  const map: HeightMap = { ...frame, floor: -20, heights: new Float32Array(frame.nx * frame.ny) };
  const out = new Float32Array(frame.nx * frame.ny).fill(7);
  const { slopes = [0, 90], stride = 1, allowance = 0, rows = [0, map.ny] } = change;
  const ask = { part, path: pathOf(points), piece, slopes, lowest: -Infinity, highest: Infinity, closed: [] };
  ridgeRows({ ...ask, allowance, map, stride, out }, rows);
  const at = (x: number, y: number): number =>
    out[Math.floor((y - map.y0) / map.cell) * map.nx + Math.floor((x - map.x0) / map.cell)]!;
  return { map, out, at };
}

describe('ridges over the cells of a map', () => {
  it('on level ground are the circle’s own height over each place: nothing at a pass, the scallop between two', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.002, max: 0.05, noNaN: true }), fc.constantFrom(1, 2, 3), (h, stride) => {
        const step = sideStepFor(R, h);
        const { map, out } = field(
          sheet([-10, -10, 10, 10], 5, -20, () => 0),
          step,
          -16,
          { stride },
        );
        for (let j = 0; j < map.ny; j++) {
          // every row has the value of the first of its block
          const y = map.y0 + (stride * Math.floor(j / stride) + 0.5) * map.cell;
          const off = (((y + 16) % step) + step) % step;
          const beside = Math.min(off, step - off);
          expect(out[j * map.nx + 50]).toBeCloseTo(R - Math.sqrt(R * R - beside * beside), 5);
        }
        expect(Math.max(...out)).toBeLessThanOrEqual(scallopOf(R, step) + 1e-6);
      }),
      { numRuns: 20 },
    );
  });

  it('tells what no pass came to from what the ball does not fit into, and leaves out what is not asked for', () => {
    // a groove 1 mm wide with upright sides is too narrow for a ball of 6
    const grooved = sheet([-10, -10, 10, 10], 0.1, -20, (_, y) => (Math.abs(y - 5) < 0.5 ? -3 : 0));
    const { at } = field(grooved, 0.3, 0);
    expect(at(0, 5)).toBe(OUT_OF_REACH);
    expect(at(0, -6)).toBe(NOT_CUT);
    expect(at(0, 8)).toBeGreaterThanOrEqual(0);
    expect(at(0, 8)).toBeLessThan(0.02);
    const steepOnly = field(grooved, 0.3, 0, { slopes: [30, 90] });
    expect(steepOnly.at(0, 8)).toBeNaN();
  });

  it('are told over what is left on purpose, also where that is less than nothing, and where the part is', () => {
    const step = sideStepFor(R, 0.01);
    for (const allowance of [0.3, -0.4]) {
      const { map, out } = field(
        sheet([-10, -10, 10, 10], 5, -20, () => 0),
        step,
        -16,
        { allowance },
      );
      let highest = 0;
      for (const h of out) highest = Math.max(highest, h);
      // with R that is larger or smaller by what is left the same passes leave other ridges
      expect(highest).toBeGreaterThan(0.008);
      expect(highest).toBeLessThan(0.0115);
      expect(out.some((h) => h < 0)).toBe(false);
      expect(out.every((h) => !Number.isNaN(h))).toBe(true);
      expect(out).toHaveLength(map.nx * map.ny);
    }
    // a part that is not as wide as its map: a hole goes through it
    const ring = field(
      [...sheet([-10, -10, 10, -2], 4, -20, () => 0), ...sheet([-10, 2, 10, 10], 4, -20, () => 0)],
      step,
      -16,
    );
    expect(ring.at(0, 0)).toBeNaN();
    expect(ring.at(0, 5)).toBeGreaterThanOrEqual(0);
  });

  it('fills in its own rows alone, with blocks of cells that end with them and with the map', () => {
    const soup = sheet([-10, -10, 10, 10], 5, -20, () => 0);
    const step = sideStepFor(R, 0.03);
    const whole = field(soup, step, -16, { stride: 3 });
    const some = field(soup, step, -16, { stride: 3, rows: [30, 50] });
    const { nx, ny } = whole.map;
    expect(some.out.subarray(0, 30 * nx).every((h) => h === 7)).toBe(true);
    expect(some.out.subarray(50 * nx).every((h) => h === 7)).toBe(true);
    expect(some.out.subarray(30 * nx, 50 * nx)).toEqual(whole.out.subarray(30 * nx, 50 * nx));
    expect(whole.out.subarray(0, nx * ny).some((h) => h === 7)).toBe(false);
    // cells of a row have the value of the first of their block: passes along X leave it the same all along
    for (let j = 0; j < ny; j++) {
      const row = whole.out.subarray(j * nx, (j + 1) * nx);
      expect(Math.max(...row) - Math.min(...row)).toBeLessThan(1e-5);
    }
  });
});
