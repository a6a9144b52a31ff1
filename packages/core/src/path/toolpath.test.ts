import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { pathOf } from '../../test/shapes';
import { motionNear } from './near';
import { timesOf } from './times';
import { lengthsOf, Motion, motionLength, PathBuilder, restToRest } from './toolpath';

const number = numberIn(-40, 40);
const point = fc.tuple(number, number, number);
const kind = fc.constantFrom(Motion.rapid, Motion.cut, Motion.entry, Motion.exit, Motion.link);

describe('a path', () => {
  it('holds the points that it was grown by, without motions that go nowhere', () => {
    const builder = new PathBuilder();
    expect(builder.last).toBeUndefined();
    builder.to(1, 2, 3, Motion.rapid);
    builder.to(1, 2, 3, Motion.cut);
    builder.to(1, 2, 4, Motion.entry);
    builder.to(1, 5, 4, Motion.cut);
    builder.to(6, 5, 4, Motion.link);
    expect(builder.last).toEqual([6, 5, 4]);
    expect(builder.length).toBe(4);
    const path = builder.build();
    expect([...path.x]).toEqual([1, 1, 1, 6]);
    expect([...path.y]).toEqual([2, 2, 5, 5]);
    expect([...path.z]).toEqual([3, 4, 4, 4]);
    expect([...path.kind]).toEqual([Motion.rapid, Motion.entry, Motion.cut, Motion.link]);
  });

  it('is as long as its motions, each counted where its kind is; its first point is none', () => {
    const path = pathOf([
      [0, 0, 0, Motion.cut],
      [3, 4, 0, Motion.rapid],
      [3, 4, 12, Motion.cut],
      [3, 4, 10, Motion.entry],
      [0, 0, 10, Motion.exit],
      [0, 1, 10, Motion.link],
      [2, 1, 10, Motion.cut],
    ]);
    expect(lengthsOf(path)).toEqual({ rapid: 5, cut: 14, entry: 2, exit: 5, link: 1 });
    expect(motionLength(path, 0)).toBe(0);
    expect(motionLength(path, 2)).toBe(12);
  });

  it('passes nearest to a place with the motion at feed that has the nearest point of all', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(point, kind), { minLength: 2, maxLength: 12 }), point, (list, [x, y, z]) => {
        const path = pathOf(list.map(([[px, py, pz], k]) => [px, py, pz, k] as const));
        const distances = list.map((_, i) => {
          if (i === 0 || list[i]![1] === Motion.rapid) return Infinity;
          const [a, b] = [list[i - 1]![0], list[i]![0]];
          let least = Infinity;
          for (let t = 0; t <= 1.0001; t += 1 / 512)
            least = Math.min(
              least,
              Math.hypot(a[0] + t * (b[0] - a[0]) - x, a[1] + t * (b[1] - a[1]) - y, a[2] + t * (b[2] - a[2]) - z),
            );
          return least;
        });
        const least = Math.min(...distances);
        const found = motionNear(path, { x, y, z });
        if (least === Infinity) expect(found).toBe(0);
        else expect(distances[found]!).toBeLessThan(least + 0.15);
      }),
      { numRuns: 300 },
    );
    // beyond the end of a motion its end counts, and of equally near ones the first
    const corner = pathOf([
      [0, 0, 0],
      [10, 0, 0],
      [10, 0, 0],
      [10, 0, 10],
      [10, 10, 10],
    ]);
    expect(motionNear(corner, { x: 14, y: 0, z: 1 })).toBe(3);
    expect(motionNear(corner, { x: 14, y: 0, z: -1 })).toBe(1);
    expect(motionNear(corner, { x: -3, y: 0, z: 0 })).toBe(1);
    expect(motionNear(corner, { x: 10, y: 6, z: 13 })).toBe(4);
  });
});

describe('time of a path in closed form (kinematics)', () => {
  const A = 1000;
  const machine = { rapid: 12_000, acceleration: A, rounding: 0.01, timeFactor: 1 };
  const at = (feeds: readonly number[], points: readonly (readonly [number, number, number, Motion?])[]) => {
    const path = pathOf(points);
    return timesOf({ ...path, feed: Float32Array.from(feeds) }, machine);
  };
  /** Time to go d from one speed to another and no faster than v, mm and s. */
  const ramp = (d: number, from: number, to: number, v: number): number => {
    const peak = Math.min(v, Math.sqrt((from * from + to * to) / 2 + A * d));
    const even = Math.max(0, d - (2 * peak * peak - from * from - to * to) / (2 * A));
    return (2 * peak - from - to) / A + even / peak;
  };

  it('from rest to rest: with a stretch at speed, or up and down at once where it is too short', () => {
    // 3000 mm/min are 50 mm/s, reached and left within 1.25 mm each
    expect(restToRest(20, 3000, A)).toBeCloseTo(0.05 + 17.5 / 50 + 0.05, 12);
    expect(restToRest(2.5, 3000, A)).toBeCloseTo(0.1, 12);
    expect(restToRest(1, 3000, A)).toBeCloseTo(2 * Math.sqrt(1 / A), 12);
  });

  it('a line is as long whichever way it goes', () => {
    for (const [x, y, z] of [
      [30, 0, 0],
      [0, -30, 0],
      [0, 0, 30],
      [10, -20, 20],
      [-10, 20, 20],
    ] as const)
      for (const n of [1, 3]) {
        const points = Array.from(
          { length: n + 1 },
          (_, k) => [5 + (x * k) / n, 7 + (y * k) / n, 9 + (z * k) / n] as const,
        );
        expect(
          at(
            points.map(() => 3000),
            points,
          ).at(-1),
        ).toBeCloseTo(restToRest(30, 3000, A), 9);
      }
  });

  it('through a right-angled corner it goes at v² = a δ sin 45° / (1 - sin 45°), δ = 0.01 mm, in any plane', () => {
    const s = Math.SQRT1_2;
    const v = Math.sqrt((A * 0.01 * s) / (1 - s));
    for (const [b, c] of [
      [
        [20, 0, 0],
        [20, 20, 0],
      ],
      [
        [20, 0, 0],
        [20, 0, 20],
      ],
      [
        [0, 0, -20],
        [0, 20, -20],
      ],
    ] as const) {
      const times = at([0, 3000, 3000], [[0, 0, 0], b, c]);
      expect(times[1]).toBeCloseTo(ramp(20, 0, v, 50), 9);
      expect(times[2]! - times[1]!).toBeCloseTo(ramp(20, v, 0, 50), 9);
    }
  });

  it('straight on from one feed to another it passes at the lower one, either way round', () => {
    for (const [one, two] of [
      [3000, 1200],
      [1200, 3000],
    ] as const) {
      const times = at(
        [0, one, two],
        [
          [0, 0, 0],
          [20, 0, 0],
          [40, 0, 0],
        ],
      );
      expect(times[1]).toBeCloseTo(ramp(20, 0, 20, one / 60), 9);
      expect(times[2]! - times[1]!).toBeCloseTo(ramp(20, 20, 0, two / 60), 9);
    }
  });

  it('rapids begin and end at rest, whatever goes on straight before and after', () => {
    const times = at(
      [0, 3000, 0, 3000],
      [
        [0, 0, 0],
        [20, 0, 0],
        [40, 0, 0, Motion.rapid],
        [60, 0, 0],
      ],
    );
    const rapid = restToRest(20, 12_000, A);
    const feed = restToRest(20, 3000, A);
    expect(times[1]).toBeCloseTo(feed, 9);
    expect(times[2]! - times[1]!).toBeCloseTo(rapid, 9);
    expect(times[3]! - times[2]!).toBeCloseTo(feed, 9);
  });

  it('it slows down early enough for a corner that lies motions ahead, and speeds up as long as it must', () => {
    // ten motions of 0.1 mm: 1 mm in all are too short for the feed
    const points = Array.from({ length: 11 }, (_, k) => [k / 10, 0, 0] as const);
    expect(
      at(
        points.map(() => 6000),
        points,
      ).at(-1),
    ).toBeCloseTo(2 * Math.sqrt(1 / A), 9);
  });

  it('motions that go nowhere take no time and stop nothing', () => {
    const times = at(
      [0, 3000, 3000, 3000],
      [
        [0, 0, 0],
        [20, 0, 0],
        [20, 0, 0],
        [40, 0, 0],
      ],
    );
    expect(times[2]).toBe(times[1]);
    expect(times[3]).toBeCloseTo(restToRest(40, 3000, A), 9);
    expect([...at([], [])]).toEqual([]);
    expect([...at([0], [[1, 2, 3]])]).toEqual([0]);
  });
});
