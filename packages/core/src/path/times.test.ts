import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { placesLeftOut, removalRates } from '../evaluate/findings';
import { postedPath } from '../evaluate/result';
import { changeTime, learntFrom, machineSchema } from '../load/machine';
import { timesOf } from './times';
import { Motion, PathBuilder, restToRest, type Toolpath } from './toolpath';

const feeds = { vf: 3000, entry: 1000, plunge: 600, link: 3000, back: 3000 };
const machine = { rapid: 20_000, acceleration: 1000, rounding: 0.01, timeFactor: 1 };

function pathOf(points: readonly (readonly [number, number, number])[], kind = Motion.cut, vf = feeds.vf): Toolpath {
  const builder = new PathBuilder();
  points.forEach(([x, y, z]) => builder.to(x, y, z, kind));
  return postedPath(builder.build(), { ...feeds, vf }, NaN, NaN);
}
const whole = (path: Toolpath, acceleration = machine.acceleration): number =>
  timesOf(path, { ...machine, acceleration }).at(-1)!;

describe('places left out', () => {
  it('of one opening over many levels are one place, and no volume is lost', () => {
    const entries = Array.from({ length: 60 }, (_, k) => ({
      why: 'narrow',
      x: k % 2 === 0 ? 0.3 * (k % 5) : 40,
      y: 5,
      z: -k / 2,
      volume: 1 + k,
    }));
    const places = placesLeftOut([...entries, { why: 'buried', x: 0, y: 5, z: -3 }], 8);
    expect(places).toHaveLength(3);
    expect(places.reduce((sum, p) => sum + p.count, 0)).toBe(61);
    expect(places.reduce((sum, p) => sum + (p.volume ?? 0), 0)).toBeCloseTo(
      entries.reduce((sum, e) => sum + e.volume, 0),
      9,
    );
    expect(places.find((p) => p.x === 0 && p.why === 'narrow')).toMatchObject({ z: -0, lowest: -29 });
  });
});

describe('removal rate over time', () => {
  it('holds all that was taken off, each motion where its time is', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(numberIn(0, 5), fc.float({ min: 0, max: 900, noNaN: true })), {
          minLength: 2,
          maxLength: 40,
        }),
        fc.integer({ min: 1, max: 30 }),
        (motions, spans) => {
          let t = 0;
          const times = Float64Array.from(motions, ([d], k) => (t += k === 0 ? 0 : d + 1e-3));
          const removed = Float32Array.from(motions, ([, v], k) => (k === 0 ? 0 : v));
          const rates = removalRates(times, removed, spans);
          const back = rates.reduce((sum, r) => sum + (r * 1000 * t) / 60 / spans, 0);
          expect(back).toBeCloseTo(
            removed.reduce((a, b) => a + b, 0),
            3,
          );
        },
      ),
    );
    // nothing, then 6 cm³ in a minute
    const rates = removalRates(Float64Array.from([0, 60, 120]), Float32Array.from([0, 0, 6000]), 4);
    expect(rates[0]).toBe(0);
    expect(rates[3]).toBeCloseTo(6, 9);
  });
});

describe('times that come true', () => {
  const zigzag = pathOf(Array.from({ length: 40 }, (_, k) => [3 * k, k % 2 ? 4 : 0, 0] as const));

  it('the factor learnt from a real time makes the calculated one that; one that is far off is refused', () => {
    const full = machineSchema.parse({
      ...machine,
      name: 'M',
      maxSpindle: 9000,
      maxFeed: 9000,
      toolChange: 8,
      runUp: 2,
    });
    const planned = timesOf(zigzag, full).at(-1)!;
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 4, noNaN: true }),
        fc.double({ min: 0.5, max: 1.2, noNaN: true }),
        (share, again) => {
          const learnt = learntFrom(full, planned, share * planned)!;
          expect(timesOf(zigzag, learnt).at(-1)! / planned).toBeCloseTo(share, 3);
          expect(changeTime(learnt)).toBeCloseTo(10 * share, 2);
          // learning goes on from what was learnt
          const now = timesOf(zigzag, learnt).at(-1)!;
          const twice = learntFrom(learnt, now, again * now);
          if (twice) expect(timesOf(zigzag, twice).at(-1)! / planned).toBeCloseTo(share * again, 3);
        },
      ),
    );
    expect(learntFrom(full, planned, 9 * planned)).toBeUndefined();
    expect(learntFrom(full, 0, 60)).toBeUndefined();
  });

  it('a control that may round corners off more is never slower', () => {
    const times = [0.001, 0.01, 0.05, 0.5].map((rounding) => timesOf(zigzag, { ...machine, rounding }).at(-1)!);
    for (let k = 1; k < times.length; k++) expect(times[k]).toBeLessThan(times[k - 1]!);
  });
});

describe('time at the machine (kinematics)', () => {
  it('a line takes d/v + v/a, in one motion or in many', () => {
    const line = (n: number): Toolpath =>
      pathOf(Array.from({ length: n + 1 }, (_, k) => [(100 * k) / n, 0, 0] as const));
    const alone = restToRest(100, feeds.vf, machine.acceleration);
    for (const n of [1, 2, 7, 300]) expect(whole(line(n))).toBeCloseTo(alone, 6);
  });

  it('rapids stop at each end', () => {
    const two = pathOf(
      [
        [0, 0, 0],
        [50, 0, 0],
        [100, 0, 0],
      ],
      Motion.rapid,
    );
    expect(whole(two)).toBeCloseTo(2 * restToRest(50, machine.rapid, machine.acceleration), 9);
  });

  it('round a circle of fine chords it runs at sqrt(a r), whatever feed is asked for', () => {
    const r = 5;
    const turns = 10;
    const n = 2000 * turns;
    const points = Array.from({ length: n + 1 }, (_, k) => {
      const at = (2 * Math.PI * turns * k) / n;
      return [r * Math.cos(at), r * Math.sin(at), 0] as const;
    });
    const v = Math.sqrt(machine.acceleration * r);
    const t = whole(pathOf(points, Motion.cut, 60_000));
    expect(t / ((2 * Math.PI * r * turns) / v + v / machine.acceleration)).toBeCloseTo(1, 2);
  });

  it('no path is faster than its feed, a turn back stops, and more acceleration is never slower', () => {
    const number = numberIn(-50, 50);
    fc.assert(
      fc.property(fc.array(fc.tuple(number, number, number), { minLength: 2, maxLength: 30 }), (points) => {
        const path = pathOf(points);
        let length = 0;
        for (let k = 1; k < path.x.length; k++)
          length += Math.hypot(path.x[k]! - path.x[k - 1]!, path.y[k]! - path.y[k - 1]!, path.z[k]! - path.z[k - 1]!);
        const slow = whole(path, 500);
        const fast = whole(path, 5000);
        expect(slow).toBeGreaterThanOrEqual(fast - 1e-9);
        expect(fast).toBeGreaterThanOrEqual((length / feeds.vf) * 60 - 1e-9);
        const times = timesOf(path, machine);
        for (let k = 1; k < times.length; k++) expect(times[k]!).toBeGreaterThanOrEqual(times[k - 1]!);
      }),
    );
    const back = pathOf([
      [0, 0, 0],
      [40, 0, 0],
      [0, 0, 0],
    ]);
    expect(whole(back)).toBeCloseTo(2 * restToRest(40, feeds.vf, machine.acceleration), 6);
  });
});
