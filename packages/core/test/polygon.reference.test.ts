import fc from 'fast-check';
import GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
import GeoJSONReader from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
import BufferOp from 'jsts/org/locationtech/jts/operation/buffer/BufferOp.js';
import { describe, expect, it } from 'vitest';
import { areaOf, offsetPolygons, type Polygon } from '../src/geometry/polygon';

/** Facets of a quarter circle in the reference: its arcs are short by r (1 - cos(π/4n)) at most. */
const QUARTER = 64;

/** Reference (check 22): buffers of the package jsts. */
describe('polygons grown and shrunk against jsts', () => {
  const reader = new GeoJSONReader(new GeometryFactory());
  const ringOf = (polygon: Polygon): number[][] => {
    const ring: number[][] = [];
    for (let k = 0; k < polygon.length; k += 2) ring.push([polygon[k]!, polygon[k + 1]!]);
    return [...ring, ring[0]!];
  };
  /** A star-shaped border of unequal radii, counter-clockwise. */
  const star = (radii: readonly number[], scale: number, turn = 0): Polygon =>
    Float64Array.from(
      radii.flatMap((r, k) => {
        const a = turn + (2 * Math.PI * k) / radii.length;
        return [scale * r * Math.cos(a), scale * r * Math.sin(a)];
      }),
    );
  const radii = fc.array(fc.double({ min: 0.55, max: 1, noNaN: true }), { minLength: 5, maxLength: 24 });

  const distance = fc
    .integer({ min: -900, max: 900 })
    .filter((d) => Math.abs(d) > 5)
    .map((d) => d / 100);

  it('a border with a hole, moved by any distance either way, encloses the same area within the arcs’ tolerance', () => {
    fc.assert(
      fc.property(radii, radii, distance, (outside, inside, by) => {
        const outer = star(outside, 40);
        const hole = star(inside, 18, 0.3);
        const hole2 = Float64Array.from([...hole]);
        for (let k = 0; k < hole.length; k += 2) {
          hole2[k] = hole[hole.length - 2 - k]!;
          hole2[k + 1] = hole[hole.length - 1 - k]!;
        }
        const mine = offsetPolygons([outer, hole2], by).reduce((sum, ring) => sum + areaOf(ring), 0);
        const shape = reader.read({ type: 'Polygon', coordinates: [ringOf(outer), ringOf(hole2)] });
        const wanted = BufferOp.bufferOp(shape, by, QUARTER).getArea();
        // both draw arcs as chords: off by no more than the tolerance along the whole border
        expect(Math.abs(mine - wanted)).toBeLessThan(0.011 * 2 * Math.PI * 60);
      }),
      { numRuns: 80, seed: 2 },
    );
  });
});
