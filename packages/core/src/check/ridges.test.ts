import { describe, expect, it } from 'vitest';
import { meshOf, pathOf, sheet } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { scallopOf, sideStepFor } from '../passes/scallop';
import type { Motion } from '../path/toolpath';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { ridgePlaces, ridgesOf } from './ridges';

const piece = roundProfile(6, 3) as RoundPiece;
const SAMPLES = 20_000;

/** Straight passes of a ball along X over a plane that leans by `deg` about X, `step` apart along it; the ends lie outside. */
function passesOver(deg: number, step: number, deeper = 0) {
  const rad = (deg * Math.PI) / 180;
  const part = contactMesh(meshOf(sheet([-12, -6, 12, 6], 3, -40, (_, y) => y * Math.tan(rad))));
  const points: [number, number, number, Motion?][] = [];
  const far = 7 / Math.cos(rad) + 5;
  for (let s = -far, k = 0; s <= far; s += step, k++) {
    // the middle of the ball stands its radius off the plane
    const y = s * Math.cos(rad) - 3 * Math.sin(rad);
    const z = s * Math.sin(rad) + 3 * Math.cos(rad) - 3 - deeper / Math.cos(rad);
    const ends = k % 2 === 0 ? [-20, 20] : [20, -20];
    points.push([ends[0]!, y, z], [ends[1]!, y, z]);
  }
  return { part, path: pathOf(points) };
}

const measured = (of: ReturnType<typeof passesOver>, change: Partial<Parameters<typeof ridgePlaces>[0]> = {}) =>
  ridgesOf(
    [
      ridgePlaces(
        {
          ...of,
          piece,
          samples: SAMPLES,
          slopes: [0, 89],
          lowest: -Infinity,
          highest: Infinity,
          closed: [],
          allowance: 0,
          ...change,
        },
        [0, SAMPLES],
      ),
    ],
    0.01,
  )!;

describe('ridges measured along the normal', () => {
  it.each([0, 30, 60, 80])(
    'on a plane that leans by %i° they are those of Pythagoras: highest, median and 99 in 100',
    (deg) => {
      for (const h of [0.005, 0.02]) {
        const step = sideStepFor(3, h);
        const { all, bands } = measured(passesOver(deg, step));
        expect(all.highest).toBeLessThanOrEqual(h + 1e-6);
        expect(all.highest).toBeGreaterThan(0.98 * h);
        // sampled evenly between the foot and the top of a ridge: half a step's half away, and 0.99 of it
        expect(all.p50).toBeCloseTo(scallopOf(3, step / 2), 3);
        expect(all.p99 / scallopOf(3, 0.99 * step)).toBeCloseTo(1, 1);
        expect(bands).toHaveLength(1);
        expect(deg).toBeGreaterThanOrEqual(bands[0]!.from);
        expect(deg).toBeLessThanOrEqual(bands[0]!.to);
      }
    },
  );

  it('a path too deep reads below nothing by as much, and an allowance is taken off', () => {
    expect(measured(passesOver(45, 0.3, 0.05)).all.p50).toBeCloseTo(scallopOf(3, 0.15) - 0.05, 3);
    expect(measured(passesOver(45, 0.3), { allowance: 0.02 }).all.p50).toBeCloseTo(scallopOf(3, 0.15) - 0.02, 3);
  });

  it('what no pass came to is not cut, and what the ball does not fit into is out of reach', () => {
    const half = passesOver(0, 0.4);
    const some = measured({
      ...half,
      path: { ...half.path, kind: half.path.kind.map((_, k) => (half.path.y[k]! > 0 ? 0 : 1)) },
    });
    expect(some.notCut).toBeGreaterThan(0.25);
    expect(some.notCut).toBeLessThan(0.5);
    // in a groove with sides of 45° a ball of 3 touches each side from 3 mm above its bottom on, along the side
    const groove = contactMesh(meshOf(sheet([-12, -6, 12, 6], 0.5, -40, (x) => Math.abs(x) - 5)));
    const { outOfReach } = measured({ part: groove, path: half.path }, { slopes: [40, 50] });
    expect(outOfReach).toBeCloseTo(3 / (12 * Math.SQRT2), 2);
  });

  it('only slopes and heights that are asked for are looked at', () => {
    const of = passesOver(30, 0.4);
    expect(
      ridgesOf(
        [
          ridgePlaces(
            { ...of, piece, samples: 500, slopes: [0, 20], lowest: -9, highest: 9, closed: [], allowance: 0 },
            [0, 500],
          ),
        ],
        1,
      ),
    ).toBeUndefined();
    const count = (lowest: number, highest: number): number => measured(of, { lowest, highest }).all.count;
    // the tip stands R (1 - cos 30°) below the place that it touches
    const middle = 3 * (Math.cos(Math.PI / 6) - 1);
    expect(count(middle, Infinity) / count(-Infinity, Infinity)).toBeCloseTo(0.5, 2);
    expect(count(-Infinity, middle) / count(-Infinity, Infinity)).toBeCloseTo(0.5, 2);
  });
});
