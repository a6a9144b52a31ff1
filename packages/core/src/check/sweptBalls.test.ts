import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { pathOf } from '../../test/shapes';
import type { Touched } from '../field/touched';
import { Motion } from '../path/toolpath';
import { BELOW_MM, SweptBalls } from './sweptBalls';

type Vec = readonly [number, number, number];
const plus = (a: Vec, b: Vec, by = 1): Vec => [a[0] + by * b[0], a[1] + by * b[1], a[2] + by * b[2]];
const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a: Vec): Vec => plus([0, 0, 0], a, 1 / Math.sqrt(dot(a, a)));
const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** Distance of a place from a stretch. */
function distance(p: Vec, a: Vec, b: Vec): number {
  const ab = plus(b, a, -1);
  const size = dot(ab, ab);
  const t = size > 0 ? Math.min(1, Math.max(0, dot(plus(p, a, -1), ab) / size)) : 0;
  const off = plus(p, plus(a, ab, t), -1);
  return Math.sqrt(dot(off, off));
}

/** Where a ray from `BELOW_MM` under a place first meets the ball swept from middle `a` to middle `b`: by small steps, then halved. */
function entry(p: Vec, n: Vec, a: Vec, b: Vec, r: number): number {
  const isIn = (t: number): boolean => distance(plus(p, n, t), a, b) <= r;
  if (isIn(-BELOW_MM)) return -BELOW_MM;
  for (let t = -BELOW_MM; t < 1; t += 0.002) {
    if (!isIn(t + 0.002)) continue;
    let [low, high] = [t, t + 0.002];
    for (let k = 0; k < 40; k++) {
      const middle = (low + high) / 2;
      if (isIn(middle)) high = middle;
      else low = middle;
    }
    return high;
  }
  return Infinity;
}

const share = numberIn(-1, 1);
const direction = fc
  .tuple(share, share, share)
  .filter((v) => dot(v, v) > 0.05)
  .map(unit);
const placed = (p: Vec, n: Vec): Touched => ({ x: p[0], y: p[1], z: p[2], nx: n[0], ny: n[1], nz: n[2] }) as Touched;
/** A path whose ball has its middle at these places. */
const through = (middles: readonly Vec[], r: number, kind = Motion.cut) =>
  pathOf(middles.map(([x, y, z]) => [x, y, z - r, kind]));

describe('how far over a place the swept ball begins', () => {
  it('is where the ray along the normal meets it, for any way, however long, that passes near; deep in it as far as is looked', () => {
    fc.assert(
      fc.property(
        numberIn(0.5, 8),
        fc.tuple(share, share, share).map((v): Vec => plus([0, 0, 0], v, 30)),
        direction,
        direction,
        // how high the way passes over where the ball would touch, or under it, as a share of what is looked for
        share,
        // how far it goes to either side, and how far it passes beside
        numberIn(0, 25),
        numberIn(0, 25),
        numberIn(-0.2, 0.2),
        (r, p, n, other, high, before, after, beside) => {
          const along = cross(n, other);
          fc.pre(dot(along, along) > 0.01);
          const way = unit(along);
          // middles are looked for two cubes around the place
          const reach = Math.min(0.9, 2 * Math.max(0.2, r / 4));
          const at = plus(plus(p, n, r + high * reach), cross(way, n), beside * reach);
          const [a, b] = [plus(at, way, -before), plus(at, way, after)];
          const found = new SweptBalls(through([a, b], r), r).above(placed(p, n));
          const wanted = entry(p, n, a, b, r);
          if (wanted < 0.95) expect(found).toBeCloseTo(wanted, 6);
          else expect(found).toBeGreaterThan(0.94);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('of many ways the lowest counts, wherever the others are, and rapid ways never do', () => {
    const r = 3;
    const p = placed([0.4, -0.3, 2], [0, 0, 1]);
    const over = (h: number): Vec[] => [
      [-20, -0.3, 2 + r + h],
      [20, -0.3, 2 + r + h],
    ];
    const far: Vec[] = Array.from({ length: 3000 }, (_, k) => [40 + (k % 7), k / 50, 60 + (k % 11)]);
    const heights = fc.array(numberIn(-0.25, 0.9), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(heights, (hs) => {
        const middles = [...far, ...hs.flatMap(over), ...far];
        expect(new SweptBalls(through(middles, r), r).above(p)).toBeCloseTo(Math.min(...hs), 6);
      }),
      { numRuns: 20 },
    );
    expect(new SweptBalls(through(over(0.1), r, Motion.rapid), r).above(p)).toBe(Infinity);
    expect(new SweptBalls(through(far, r), r).above(p)).toBe(Infinity);
    expect(new SweptBalls(through([], r), r).above(p)).toBe(Infinity);
  });
});
