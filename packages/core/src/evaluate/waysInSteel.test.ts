import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Motion, PathBuilder } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { withCutsForWays } from './waysInSteel';

const none: Engagement = {
  motion: new Uint32Array(),
  share: new Float32Array(),
  length: new Float32Array(),
  area: new Float32Array(),
  surface: new Float32Array(),
  angle: new Float32Array(),
  width: new Float32Array(),
  depth: new Float32Array(),
  chip: new Float32Array(),
};

function ways() {
  const path = new PathBuilder();
  path.to(0, 0, 0, Motion.rapid);
  path.to(10, 0, 0, Motion.cut);
  path.to(20, 0, 0, Motion.link);
  path.to(30, 0, 0, Motion.link);
  path.to(30, 0, 5, Motion.link);
  return path.build();
}

describe('ways through air that take steel all the same', () => {
  it('are cuts, whole or in part; others stay what they are', () => {
    const built = ways();
    // the first way takes 0.1 mm² over its length, the second 0.001
    const told = withCutsForWays(built, Float32Array.of(0, 40, 1, 0.01, 0), none);
    expect(Array.from(told.kind)).toEqual([Motion.rapid, Motion.cut, Motion.cut, Motion.link, Motion.link]);
    expect(Array.from(built.kind)[2]).toBe(Motion.link);
    expect(told.x).toBe(built.x);
  });

  it('are cuts over the whole stretch of which it is told, not beyond it', () => {
    // it ends with the third way and begins 3 mm before that
    const some = { ...none, motion: Uint32Array.of(4), length: Float32Array.of(8), area: Float32Array.of(0.1) };
    const told = withCutsForWays(ways(), new Float32Array(5), some);
    expect(Array.from(told.kind)).toEqual([Motion.rapid, Motion.cut, Motion.link, Motion.cut, Motion.cut]);
  });

  it('of any path: just those that take more than 0.02 mm² over their length, or lie in a stretch of the load that does', () => {
    const place = fc.tuple(
      ...[0, 0, 0].map(() => fc.integer({ min: -9, max: 9 })),
      fc.constantFrom(...Object.values(Motion)),
    );
    const stretch = fc.record({
      at: fc.integer({ min: 1, max: 11 }),
      length: fc.integer({ min: 1, max: 40 }),
      area: fc.constantFrom(0, 0.019, 0.021, 3),
    });
    fc.assert(
      fc.property(
        fc.array(place, { minLength: 12, maxLength: 12 }),
        fc.array(fc.constantFrom(0, 0.019, 0.021), { minLength: 12, maxLength: 12 }),
        fc.array(stretch, { maxLength: 3 }),
        (places, areas, stretches) => {
          const [x, y, z] = [0, 1, 2].map((c) => Float64Array.from(places, (p) => p[c] as number)) as [
            Float64Array,
            Float64Array,
            Float64Array,
          ];
          const kind = Uint8Array.from(places, (p) => p[3] as number);
          const lengths = places.map((_, k) =>
            k === 0 ? 0 : Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!),
          );
          const removed = Float32Array.from(areas, (area, k) => area * lengths[k]!);
          const some = {
            ...none,
            motion: Uint32Array.from(stretches, (s) => s.at),
            length: Float32Array.from(stretches, (s) => s.length),
            area: Float32Array.from(stretches, (s) => s.area),
          };
          const told = withCutsForWays({ x, y, z, kind } as never, removed, some);
          places.forEach((_, k) => {
            const isOwn = areas[k] === 0.021 && lengths[k]! > 0;
            // the ways that follow one another up to the end of a stretch, as far as it reaches back
            const isOfStretch = stretches.some(({ at, length, area }) => {
              if (area < 0.02 || k > at || kind.slice(k, at + 1).some((is) => is !== Motion.link)) return false;
              return lengths.slice(k + 1, at + 1).reduce((sum, l) => sum + l, 0) < length - 1e-9;
            });
            const isCut = k > 0 && kind[k] === Motion.link && (isOwn || isOfStretch);
            expect(told.kind[k]).toBe(isCut ? Motion.cut : kind[k]);
          });
        },
      ),
      { numRuns: 400 },
    );
  });
});
