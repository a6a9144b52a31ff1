import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { roundProfile } from '../tool/profile';
import { Motion, PathBuilder } from '../path/toolpath';
import { blockMap } from '../steel/heightMap';
import { machineBand } from '../simulate/machining';
import { joinBands } from '../simulate/runOver';
import { largestEngagement } from './findings';

const DC = 10;

/** A flat end run level along the side of a block, `ae` wide and `ap` deep. */
function sideCut(ae: number, ap: number) {
  const block = blockMap({ minX: 0, minY: 0, minZ: -20, maxX: 60, maxY: 30, maxZ: 0 }, 0.1);
  const path = new PathBuilder();
  path.to(-10, -DC / 2 + ae, 5, Motion.rapid);
  path.to(-10, -DC / 2 + ae, -ap, Motion.rapid);
  for (let x = -9.5; x < 70; x += 0.5) path.to(x, -DC / 2 + ae, -ap, Motion.cut);
  const built = path.build();
  const piece = roundProfile(DC, 0) as ReturnType<typeof roundProfile> & { kind: 'round' };
  const body = { piece, shank: [], holder: [], stickOut: 50, fluteLength: 50 };
  const half = Math.floor(block.ny / 2);
  const bands = [
    [0, half],
    [half, block.ny],
  ].map((rows) => machineBand(block, rows as [number, number], body, built, [0, built.x.length]));
  const { removed, depth } = joinBands(bands);
  return largestEngagement(built, removed, depth, DC);
}

describe('largest engagement', () => {
  it('is arccos(1 - 2 ae/DC) beside a wall, whatever the depth (ISO 3002-3)', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 9, noNaN: true }),
        fc.double({ min: 0.5, max: 8, noNaN: true }),
        (ae, ap) => {
          const angle = sideCut(ae, ap)!.angle;
          const high = (Math.acos(1 - (2 * Math.min(DC, ae + 0.15)) / DC) * 180) / Math.PI;
          const low = (Math.acos(1 - (2 * (ae - 0.15)) / DC) * 180) / Math.PI;
          expect(angle).toBeGreaterThan(low);
          // entering the block's side the front half circle meets it within one window
          expect(angle).toBeLessThan(high + 12);
        },
      ),
      { numRuns: 12 },
    );
  });

  it('is told over a quarter of DC: what is wider over less of the way counts by its share of it', () => {
    const STEP = 0.5;
    const AP = 3;
    const told = (widths: readonly number[]) => {
      const path = new PathBuilder();
      path.to(0, 0, 5, Motion.rapid);
      widths.forEach((_, k) => path.to((k + 1) * STEP, 0, 5, Motion.cut));
      const removed = Float32Array.of(0, ...widths.map((ae) => ae * AP * STEP));
      const depth = new Float32Array(widths.length + 1).fill(AP);
      return largestEngagement(path.build(), removed, depth, DC);
    };
    const angle = (ae: number): number => (Math.acos(1 - (2 * ae) / DC) * 180) / Math.PI;
    const even = Array.from({ length: 20 }, () => 2);
    expect(told(even)!.angle).toBeCloseTo(angle(2), 4);
    // one motion of five within a quarter of DC
    const burst = even.map((ae, k) => (k === 10 ? 8 : ae));
    expect(told(burst)!.angle).toBeCloseTo(angle((4 * 2 + 8) / 5), 4);
    expect(told(burst)!.motion).toBe(11);
    // ways shorter than that tell nothing
    expect(told(even.slice(0, 4))).toBeUndefined();
    expect(told(even.slice(0, 5))!.angle).toBeCloseTo(angle(2), 4);
  });

  it('is half a turn in a slot, and nothing where no level cut is', () => {
    expect(sideCut(DC, 2)!.angle).toBeGreaterThan(160);
    const path = new PathBuilder();
    path.to(0, 0, 5, Motion.rapid);
    path.to(20, 0, 2, Motion.cut);
    expect(largestEngagement(path.build(), new Float32Array(2), new Float32Array(2), DC)).toBeUndefined();
  });

  it('is not told where the path curls back in place, as what lay before the front comes out there at once', () => {
    const path = new PathBuilder();
    path.to(0, 0, 5, Motion.rapid);
    const removed = [0];
    const AP = 4;
    const put = (x: number, y: number, width: number): void => {
      const [bx, by] = path.last!;
      path.to(x, y, -AP, Motion.cut);
      removed.push(width * AP * Math.hypot(x - bx, y - by));
    };
    put(1, 0, 0);
    for (let x = 1.25; x < 20; x += 0.25) put(x, 0, 2);
    // round a circle of 0.5 mm
    for (let a = 0.4; a < 5.6; a += 0.4) put(20 + 0.5 * Math.sin(a), -0.5 + 0.5 * Math.cos(a), a > 3 ? 9 : 2);
    const built = path.build();
    const depth = new Float32Array(removed.length).fill(AP);
    const told = largestEngagement(built, Float32Array.from(removed), depth, DC);
    expect(told!.angle).toBeCloseTo((Math.acos(1 - (2 * 2) / DC) * 180) / Math.PI, 0);
  });
});
