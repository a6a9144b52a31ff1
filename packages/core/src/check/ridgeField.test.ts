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
  change: { slopes?: [number, number]; stride?: number } = {},
) {
  const part = contactMesh(meshOf(soup));
  const points: [number, number, number][] = [];
  for (let y = fromY, k = 0; y <= 16; y += step, k++) {
    const ends = k % 2 === 0 ? [-30, 30] : [30, -30];
    points.push([ends[0]!, y, 0], [ends[1]!, y, 0]);
  }
  const frame = gridOver({ ...part.box, minZ: -20, maxZ: 0 }, 0.2);
  const map: HeightMap = { ...frame, floor: -20, heights: new Float32Array(frame.nx * frame.ny) };
  const out = new Float32Array(frame.nx * frame.ny);
  const { slopes = [0, 90], stride = 1 } = change;
  const ask = { part, path: pathOf(points), piece, slopes, lowest: -Infinity, highest: Infinity, closed: [] };
  ridgeRows({ ...ask, allowance: 0, map, stride, out }, [0, map.ny]);
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
});
