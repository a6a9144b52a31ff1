import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calculated, squarePocket, testJob } from '../../test/shapes';
import { Motion } from '../path/toolpath';
import { cornerEngagement, reliefLines } from './relief';

const R = 2.5;
const HALF = 14;
const CELL = 0.05;

/**
 * Largest angle over which the cutter meets steel while it cuts near the corners of a square pocket, degrees: steel in plan
 * as cells, looked at on the front half of the rim every so often, by nothing of the core.
 */
async function metInCorners(ae: number, cornerLoadDeg: number | null): Promise<number> {
  const job = testJob([
    {
      kind: 'level-roughing',
      assemblyId: 't4',
      values: {
        ap: 2,
        ae,
        sideAllowance: 0,
        floorAllowance: 0,
        stairs: null,
        smallestOpening: 6,
        cornerRadius: 0,
        cornerLoadDeg,
      },
    },
  ]);
  const session = await calculated(job, squarePocket(HALF + 6, HALF, 2, -8));
  const { x, y, kind } = session.results.get('s1')!.path;
  const n = Math.ceil((2 * (HALF + 4)) / CELL);
  const steel = new Uint8Array(n * n).fill(1);
  const at = (v: number): number => Math.floor((v + HALF + 4) / CELL);
  let most = 0;
  for (let k = 1; k < x.length; k++) {
    const [dx, dy] = [x[k]! - x[k - 1]!, y[k]! - y[k - 1]!];
    const pieces = Math.max(1, Math.ceil(Math.hypot(dx, dy) / 0.15));
    for (let s = 1; s <= pieces; s++) {
      const [px, py] = [x[k - 1]! + (dx * s) / pieces, y[k - 1]! + (dy * s) / pieces];
      const inCorner = Math.min(Math.abs(px), Math.abs(py)) > HALF - R - 2 * ae;
      if (kind[k] === Motion.cut && inCorner) {
        const heading = Math.atan2(dy, dx);
        let met = 0;
        for (let a = -90; a <= 90; a++) {
          const rim = heading + (a * Math.PI) / 180;
          const [u, v] = [px + (R - 0.08) * Math.cos(rim), py + (R - 0.08) * Math.sin(rim)];
          met += steel[at(v) * n + at(u)]!;
        }
        most = Math.max(most, met);
      }
      for (let j = at(py - R); j <= at(py + R); j++)
        for (let i = at(px - R); i <= at(px + R); i++)
          if (Math.hypot((i + 0.5) * CELL - HALF - 4 - px, (j + 0.5) * CELL - HALF - 4 - py) < R) steel[j * n + i] = 0;
    }
  }
  return most;
}

describe('lines that ease inside corners', () => {
  it('a corner is entered over its own right angle and asin(s / (√2 R)), or over no more than is asked for', async () => {
    const [ae, most] = [2.2, 105];
    const asItIs = (cornerEngagement(Math.PI / 2, ae, R) * 180) / Math.PI;
    expect(asItIs).toBeCloseTo(90 + (Math.asin(ae / (Math.SQRT2 * R)) * 180) / Math.PI, 9);
    expect(Math.abs((await metInCorners(ae, null)) - asItIs)).toBeLessThan(9);
    expect(await metInCorners(ae, most)).toBeLessThan(most + 5);
  }, 120_000);

  it('lie in the free area, on the inner side of the corner, and nowhere along what bends gently', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 50, max: 125, noNaN: true }),
        fc.double({ min: 0.5, max: 8, noNaN: true }),
        (angleDeg, ae) => {
          const angle = (angleDeg * Math.PI) / 180;
          const wedge = Float64Array.of(0, 0, 60, 0, 60 * Math.cos(angle), 60 * Math.sin(angle));
          const inside = (x: number, y: number): boolean => {
            const a = Math.atan2(y, x);
            return y >= -1e-9 && a <= angle + 1e-9;
          };
          const lines = reliefLines(wedge, { ae, radius: ae, most: 0 }, inside).filter(
            (l) => Math.hypot(l[2]!, l[3]!) < 3 * ae,
          );
          expect(lines).toHaveLength(3);
          for (const [k, line] of lines.entries()) {
            // the corner of each lies between the legs, as far off both as it is to be
            const off = (ae * (3 - k)) / 4;
            expect(line[3]!).toBeCloseTo(off, 6);
            expect(line[2]! * Math.sin(angle) - line[3]! * Math.cos(angle)).toBeCloseTo(off, 6);
          }
        },
      ),
    );
    const circle = Float64Array.from({ length: 240 }, (_, k) => {
      const a = (2 * Math.PI * (k >> 1)) / 120;
      return 20 * (k % 2 ? Math.sin(a) : Math.cos(a));
    });
    expect(reliefLines(circle, { ae: 2, radius: 2, most: 0 }, () => true)).toEqual([]);
  });

  it('are left out where the axis may not run', () => {
    const square = Float64Array.of(-20, -20, 20, -20, 20, 20, -20, 20);
    const easing = { ae: 3, radius: 3.4, most: (110 * Math.PI) / 180 };
    expect(reliefLines(square, easing, () => true)).toHaveLength(4);
    expect(reliefLines(square, { ...easing, most: (130 * Math.PI) / 180 }, () => true)).toEqual([]);
    expect(reliefLines(square, easing, () => false)).toEqual([]);
  });
});
