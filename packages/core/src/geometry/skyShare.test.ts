import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { skyPlaces, SKY_DIRECTIONS, SkyShares } from './skyShare';

const CELL = 0.5;
const N = 90;
const grid = { x0: 0, y0: 0, cell: CELL, nx: N, ny: N };

/** The share of one cell, told by the definition. */
function shareOf(heights: Float32Array, i: number, j: number): number {
  const tangents = new Float64Array(SKY_DIRECTIONS);
  skyPlaces(CELL).forEach(({ dx, dy, distance }, k, all) => {
    const [a, b] = [i + dx, j + dy];
    if (a < 0 || b < 0 || a >= N || b >= N) return;
    const d = Math.floor(k / (all.length / SKY_DIRECTIONS));
    tangents[d] = Math.max(tangents[d]!, (heights[b * N + a]! - heights[j * N + i]!) / distance);
  });
  return tangents.reduce((sum, t) => sum + 1 / (1 + t * t), 0) / SKY_DIRECTIONS;
}

function sharesOf(heights: Float32Array, of = new SkyShares(grid)): Uint8Array {
  const shares = new Uint8Array(N * N);
  of.update(heights, shares);
  return shares;
}

describe('the share of the sky', () => {
  it('is all of it on level ground, also at its edge and on top of a post', () => {
    const heights = new Float32Array(N * N).fill(3);
    heights[40 * N + 40] = 9;
    const shares = sharesOf(heights);
    expect(shares[0]).toBe(255);
    expect(shares[40 * N + 40]).toBe(255);
    expect(shares[60 * N + 5]).toBe(255);
  });

  it('in the middle of a round pit is cos² of its rim’s height', () => {
    const [depth, radius] = [6, 8];
    const heights = new Float32Array(N * N);
    for (let j = 0; j < N; j++)
      for (let i = 0; i < N; i++) heights[j * N + i] = Math.hypot(i - 45, j - 45) * CELL <= radius ? -depth : 0;
    const exact = 255 / (1 + (depth / radius) ** 2);
    const share = sharesOf(heights)[45 * N + 45]!;
    // the horizon is looked for at distances that grow by a third: the rim is found up to a third too far away
    expect(share).toBeGreaterThanOrEqual(Math.floor(exact));
    expect(share).toBeLessThan(255 / (1 + (depth / (1.36 * radius)) ** 2));
  });

  it('at the foot of a long upright wall is half of it when the wall is very high', () => {
    const heights = new Float32Array(N * N);
    for (let j = 0; j < N; j++) for (let i = 0; i < 30; i++) heights[j * N + i] = 1e6;
    // seven of sixteen directions run into the wall, two run along it, seven run away from it
    expect(sharesOf(heights)[45 * N + 30]! / 255).toBeCloseTo(9 / 16, 2);
  });

  it('is what its definition says for any heights, and after any change what it is from scratch', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.array(fc.tuple(fc.nat(N - 9), fc.nat(N - 9), numberIn(-20, 20)), {
          minLength: 1,
          maxLength: 4,
        }),
        (seed, changes) => {
          let s = seed;
          const random = (): number => (s = (s * 16807) % 2147483647) / 2147483647;
          const heights = Float32Array.from({ length: N * N }, () => 8 * random());
          const kept = new SkyShares(grid);
          const first = sharesOf(heights, kept);
          for (const k of [0, 17, N * 30 + 44, N * N - 1])
            expect(first[k]! / 255).toBeCloseTo(shareOf(heights, k % N, Math.floor(k / N)), 2);
          for (const [i, j, z] of changes)
            for (let b = 0; b < 9; b++) for (let a = 0; a < 9; a++) heights[(j + b) * N + i + a] = z;
          expect(sharesOf(heights, kept)).toEqual(sharesOf(heights));
        },
      ),
      { numRuns: 20 },
    );
  });

  it('works out only what lies within reach of a change', () => {
    const wide = { ...grid, nx: 1000, ny: 40 };
    const shares = new Uint8Array(40_000);
    const heights = new Float32Array(40_000);
    const of = new SkyShares(wide);
    of.update(heights, shares);
    expect(of.worked).toBe(40_000);
    heights[20] = 5;
    of.update(heights, shares);
    expect(of.worked).toBeGreaterThan(0);
    expect(of.worked).toBeLessThan(8_000);
    of.update(heights, shares);
    expect(of.worked).toBe(0);
  });
});
