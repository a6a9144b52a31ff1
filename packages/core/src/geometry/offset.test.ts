import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { offsetRings } from './offset';
import { areaOf, nearestOn, offsetPolygons, type Polygon, reversed, subtract } from './polygon';

const ARC = 0.01;

/** A star-shaped ring: it has corners of all angles, and edges from long to hair-short. */
function star(radii: readonly number[], turn: number): Polygon {
  return Float64Array.from(
    radii.flatMap((r, k) => {
      const a = turn + (2 * Math.PI * k) / radii.length;
      return [r * Math.cos(a), r * Math.sin(a)];
    }),
  );
}

/**
 * What of either lies outside the other, without slivers as wide as joins may be off, mm². Where an area just vanishes a tip of
 * a thousandth is left; a corner or a notch that is lost has far more than a hundredth.
 */
function differenceOf(one: Polygon[], other: Polygon[]): number {
  const far = [...subtract(one, offsetPolygons(other, 2.5 * ARC)), ...subtract(other, offsetPolygons(one, 2.5 * ARC))];
  return far.reduce(
    (sum, { outer, holes }) => sum + Math.abs(areaOf(outer)) - holes.reduce((s, h) => s + Math.abs(areaOf(h)), 0),
    0,
  );
}

describe('offsets of rings', () => {
  const radii = (min: number, max: number) =>
    fc.array(fc.double({ min, max, noNaN: true }), { minLength: 3, maxLength: 70 });
  const by = numberIn(-6, 6).filter((d) => Math.abs(d) > 0.02);

  it('are those of the polygon library (clipper2-ts), of areas with a hole, grown and shrunk', () => {
    fc.assert(
      fc.property(radii(12, 30), radii(2, 8), numberIn(0, 6), by, (outer, hole, turn, d) => {
        const rings = [star(outer, turn), reversed(star(hole, 1 - turn))];
        expect(differenceOf(offsetRings(rings, d, ARC), offsetPolygons(rings, d, ARC))).toBeLessThan(0.01);
      }),
      { numRuns: 300 },
    );
  });

  it('of rings of very many short edges too, and of one that was traced in steps', () => {
    fc.assert(
      fc.property(radii(12, 30), fc.integer({ min: 100, max: 900 }), by, (few, many, d) => {
        // smooth: a closed curve through few radii
        const smooth = Array.from({ length: many }, (_, k) => {
          const a = (2 * Math.PI * k) / many;
          return 20 + few.slice(0, 6).reduce((sum, r, n) => sum + ((r - 21) / (n + 2)) * Math.cos(n * a + r), 0);
        });
        const ring = star(smooth, 0);
        const stepped = ring.map((v) => Math.round(v / 0.5) * 0.5);
        for (const p of [ring, stepped])
          expect(differenceOf(offsetRings([p], d, ARC), offsetPolygons([p], d, ARC))).toBeLessThan(0.01);
      }),
      { numRuns: 40 },
    );
  });

  it('a slit without width is no hole, and a hair that stands out is grown all round', () => {
    const round = (d: number): number => 400 + 80 * d + Math.PI * d * d;
    const square = (tip: number): Polygon => Float64Array.of(0, 0, 20, 0, 20, 20, 10, 20, 10, tip, 10, 20, 0, 20);
    const area = (p: Polygon, d: number): number => offsetRings([p], d, 1e-4).reduce((sum, r) => sum + areaOf(r), 0);
    for (const d of [0.5, 2, 6]) {
      for (const tip of [19.5, 15, 3]) expect(area(square(tip), d)).toBeCloseTo(round(d), 2);
      expect(area(square(29), d)).toBeCloseTo(round(d) + 2 * d * (9 - d) + (Math.PI * d * d) / 2, 2);
      // a slit keeps all that is near it out of the shrunk area, a hair nothing
      if (d > 5) continue;
      const shrunk = (20 - 2 * d) ** 2 - 2 * d * (5 - d) - (Math.PI * d * d) / 2;
      expect(area(square(29), -d)).toBeCloseTo((20 - 2 * d) ** 2, 2);
      expect(area(square(15), -d)).toBeCloseTo(shrunk, 2);
      // the same ring as a hole: what grows is the steel round it
      const steel = [Float64Array.of(-50, -50, 70, -50, 70, 70, -50, 70), reversed(square(15))];
      const grown = offsetRings(steel, d, 1e-4).reduce((sum, r) => sum + areaOf(r), 0);
      expect(grown).toBeCloseTo(120 * 120 + 480 * d + Math.PI * d * d - shrunk, 1);
    }
  });

  it('lie as far from the ring as was asked, nowhere nearer', () => {
    fc.assert(
      fc.property(radii(8, 30), by, (outer, d) => {
        const ring = star(outer, 0.3);
        for (const moved of offsetRings([ring], d, ARC))
          for (let k = 0; k < moved.length; k += 2) {
            const away = nearestOn(ring, moved[k]!, moved[k + 1]!, true).distance;
            expect(Math.abs(away - Math.abs(d))).toBeLessThan(ARC + 1e-4);
          }
      }),
      { numRuns: 200 },
    );
  });
});
