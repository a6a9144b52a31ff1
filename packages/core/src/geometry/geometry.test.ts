import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { type EsquisseError } from '../base/errors';
import { SegmentIndex } from './segmentIndex';
import { countOpenEdges, volumeOf, weld } from './mesh';
import { meshOfBodies } from '../part/bodies';
import { areaOf, contains, nearestOn, offsetPolygons, subtract, thinnedRing } from './polygon';
import { RaisedCells } from './raisedCells';
import { squarePocket } from '../../test/shapes';

describe('meshes', () => {
  it('a pocketed block is closed and has the volume of the block less the pocket', () => {
    const { mesh, report } = weld(squarePocket(30, 20, 10, -25));
    expect(report).toEqual({ degenerate: 0, duplicate: 0, openEdges: 0, turned: 0 });
    expect(countOpenEdges(mesh)).toBe(0);
    expect(volumeOf(mesh)).toBeCloseTo(60 * 60 * 25 - 40 * 40 * 10, 6);
  });

  it('corners that differ by rounding become one vertex, needles and repeats are left out and told', () => {
    const e = 3e-6;
    const { mesh, report } = weld([0, 0, 0, 1, 0, 0, 0, 1, 0, e, e, 0, 1, e, 0, e, 1, 0, 0, 0, 0, 1, 0, 0, 0.5, 0, 0]);
    expect(mesh.indices).toHaveLength(3);
    expect(report.duplicate).toBe(1);
    expect(report.degenerate).toBe(1);
  });

  it('two bodies that touch keep the facet that they share, one each; the same body twice is one body', () => {
    const cube = (x: number): number[] => {
      const { mesh } = weld(squarePocket(5, 3, 2, -6));
      return Array.from(mesh.indices, (v) => [
        mesh.positions[3 * v]! + x,
        ...mesh.positions.slice(3 * v + 1, 3 * v + 3),
      ]).flat();
    };
    const facets = cube(0).length / 9;
    const both = [...cube(0), ...cube(10)];
    const faceOf = Array.from({ length: 2 * facets }, (_, t) => (t < facets ? 0 : 1));
    const { mesh, report } = weld(both, faceOf);
    expect(report.duplicate).toBe(0);
    for (const body of [0, 1]) {
      const own = meshOfBodies(mesh, [{ name: '', firstFace: body, endFace: body + 1 }])!;
      expect(countOpenEdges(own)).toBe(0);
      expect(volumeOf(own)).toBeCloseTo(10 * 10 * 6 - 6 * 6 * 2, 6);
    }
    expect(weld([...cube(0), ...cube(0)], faceOf).report.duplicate).toBe(facets);
  });

  it('a body with a hollow inside looks out all over, though the file has some of its triangles the other way, or all', () => {
    const shell = (by: number): number[][][] => {
      const soup = squarePocket(by, by / 2, by / 3, -by).map((v, k) => (k % 3 === 2 ? v + by / 2 : v));
      return Array.from({ length: soup.length / 9 }, (_, t) =>
        [0, 1, 2].map((c) => soup.slice(9 * t + 3 * c, 9 * t + 3 * c + 3)),
      );
    };
    const volume = (by: number): number => 4 * by ** 3 - by ** 3 / 3;
    const shells = [shell(30), shell(6).map(([a, b, c]) => [a!, c!, b!])];
    const count = shells[0]!.length;
    // fewer than a quarter of a shell's triangles are never most of its area here
    const few = fc.uniqueArray(fc.nat(count - 1), { maxLength: 5 });
    fc.assert(
      fc.property(fc.tuple(few, few), fc.boolean(), (odd, whole) => {
        const soup = shells.flatMap((triangles, k) =>
          triangles.flatMap(([a, b, c], t) =>
            odd[k]!.includes(t) === whole ? [...a!, ...b!, ...c!] : [...a!, ...c!, ...b!],
          ),
        );
        // with `whole` all but the odd ones are the wrong way
        const { mesh, report } = weld(soup);
        expect(report.openEdges).toBe(0);
        const wrong = odd[0].length + odd[1].length;
        expect(report.turned).toBe(whole ? 2 * count - wrong : wrong);
        expect(volumeOf(mesh)).toBeCloseTo(volume(30) - volume(6), 6);
      }),
    );
  });

  it('bodies inside one another, as a part in its block, each keep their side; an open surface keeps the side of most of it', () => {
    const { mesh } = weld(squarePocket(5, 3, 2, -6));
    const cube = Array.from(mesh.indices, (v) => [...mesh.positions.slice(3 * v, 3 * v + 3)]).flat();
    const inner = cube.map((v, k) => 0.5 * v - (k % 3 === 2 ? 1.5 : 0));
    expect(volumeOf(weld([...cube, ...inner]).mesh)).toBeCloseTo(1.125 * (10 * 10 * 6 - 6 * 6 * 2), 6);
    const square = [0, 0, 0, 9, 0, 0, 9, 9, 0, 0, 0, 0, 0, 9, 0, 9, 9, 0, 9, 0, 0, 18, 0, 0, 9, 9, 0];
    expect(weld(square).report).toMatchObject({ turned: 1, openEdges: 5 });
  });

  it('a vertex that is no number, infinite or kilometres away is refused with its place', () => {
    for (const bad of [NaN, Infinity, 1e9])
      expect(() => weld([0, 0, 0, 1, 0, 0, 0, bad, 0])).toThrowError(
        expect.objectContaining({ code: 'mesh-invalid', place: 'triangle 1' }) as EsquisseError,
      );
  });
});

describe('raised cells', () => {
  it('are counted, and stand at their exact distances from any cell of a grid and around it', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 70 }),
        fc.integer({ min: 1, max: 50 }),
        fc.array(fc.tuple(fc.nat(4000), fc.integer({ min: 1, max: 9 })), { maxLength: 40 }),
        fc.integer({ min: 0, max: 20 }),
        fc.integer({ min: 1, max: 40 }),
        (nx, ny, places, beside, farthest) => {
          const heights = new Float32Array(nx * ny);
          for (const [place, height] of places) heights[place % (nx * ny)] = height;
          const cells = new RaisedCells(heights, nx, ny, beside);
          const other = new RaisedCells(heights.slice(0, nx), nx, 1, 3);
          const across = nx + 2 * beside;
          for (const z of [0, 4.5]) {
            const marks = [...heights.keys()].filter((o) => heights[o]! > z);
            expect(cells.countAbove(z)).toBe(marks.length);
            expect(cells.highest).toBe(Math.max(...heights));
            const got = cells.squaredDistances(z);
            // cells of another grid that were asked for in between change nothing
            other.squaredDistances(z);
            const short = cells.squaredDistances(z, farthest);
            expect(got.length).toBe(across * (ny + 2 * beside));
            for (let o = 0; o < got.length; o++) {
              const i = (o % across) - beside;
              const j = Math.floor(o / across) - beside;
              let wanted = Infinity;
              for (const k of marks) wanted = Math.min(wanted, ((k % nx) - i) ** 2 + (Math.floor(k / nx) - j) ** 2);
              const isRight =
                (wanted === Infinity ? got[o]! > 1e15 : got[o] === wanted) &&
                (wanted <= farthest * farthest ? short[o] === wanted : short[o]! > farthest * farthest);
              if (!isRight) expect({ o, got: got[o], short: short[o] }).toEqual({ o, wanted });
            }
          }
          // steel that was cut since, in the same array
          heights.fill(-1);
          expect(new RaisedCells(heights, nx, ny, beside).countAbove(0)).toBe(0);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('thinned rings', () => {
  const coordinate = numberIn(-20, 20);
  const ring = fc.array(fc.tuple(coordinate, coordinate), { minLength: 4, maxLength: 60 });

  it('keep the points that are to be kept, in their order, and run as near to the others as was asked', () => {
    fc.assert(
      fc.property(ring, coordinate, fc.double({ min: 0.01, max: 8, noNaN: true }), (corners, border, within) => {
        const points = Float64Array.from(corners.flat());
        const thin = thinnedRing(points, within, (x) => x > border);
        let at = -1;
        const places = Array.from({ length: thin.length / 2 }, (_, k) => `${thin[2 * k]} ${thin[2 * k + 1]}`);
        const kept = corners.filter(([x]) => x > border).map(([x, y]) => `${x} ${y}`);
        // it may begin at another of its points than the ring
        const turned = kept.length > 0 ? places.indexOf(kept[0]!) : 0;
        const inOrder = [...places.slice(turned), ...places.slice(0, turned)];
        for (const place of kept) {
          at = inOrder.indexOf(place, at + 1);
          expect(at).toBeGreaterThanOrEqual(0);
        }
        for (const [x, y] of corners) expect(nearestOn(thin, x, y, true).distance).toBeLessThanOrEqual(within + 1e-9);
      }),
      { numRuns: 200 },
    );
  });
});

describe('pieces of closed lines in buckets', () => {
  it('say the same of any place as its distance to the nearest piece', () => {
    const coordinate = numberIn(-20, 20);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate), { minLength: 3, maxLength: 12 }),
        fc.array(fc.tuple(coordinate, coordinate), { minLength: 1, maxLength: 30 }),
        fc.double({ min: 0.01, max: 9, noNaN: true }),
        (corners, places, near) => {
          const ring = Float64Array.from(corners.flat());
          const index = new SegmentIndex([ring], near);
          for (const [x, y] of places) {
            const away = nearestOn(ring, x, y, true).distance;
            if (Math.abs(away - near) > 1e-9) expect(index.isNear(x, y)).toBe(away < near);
          }
        },
      ),
      { numRuns: 200, seed: 12 },
    );
  });

  it('say no everywhere when there is none', () => {
    expect(new SegmentIndex([], 1).isNear(0, 0)).toBe(false);
  });
});

describe('polygons', () => {
  const square = Float64Array.from([0, 0, 10, 0, 10, 10, 0, 10]);

  it('a square grown by d has the area of the square, four strips and a circle', () => {
    const [grown] = offsetPolygons([square], 3);
    expect(Math.abs(areaOf(grown!) - (100 + 4 * 30 + Math.PI * 9))).toBeLessThan(0.2);
  });

  it('what is left of a plan around a hole is one region with that hole, and nothing inside the hole', () => {
    const plan = Float64Array.from([-5, -5, 20, -5, 20, 20, -5, 20]);
    const [region, ...others] = subtract([plan], [square]);
    expect(others).toHaveLength(0);
    expect(region!.holes).toHaveLength(1);
    expect(areaOf(region!.outer) + areaOf(region!.holes[0]!)).toBeCloseTo(625 - 100, 6);
    expect(contains(region!.holes[0]!, 5, 5)).toBe(true);
  });
});
