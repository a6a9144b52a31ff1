import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import {
  areaOf,
  covered,
  nearestOn,
  offsetPolygons,
  type Polygon,
  type Region,
  regionContains,
  reversed,
  subtract,
} from '../geometry/polygon';
import { FreeArea, touchesBorder } from './freeArea';

const within = Float64Array.of(-60, -50, 60, -50, 60, 50, -60, 50);

/** A wavy ring around a place, counter-clockwise. */
function wavy(x: number, y: number, r: number, waves: number, depth: number): Polygon {
  return Float64Array.from(
    Array.from({ length: 240 }, (_, k) => {
      const a = (2 * Math.PI * k) / 240;
      const at = r * (1 + depth * Math.sin(waves * a));
      return [x + at * Math.cos(a), y + at * Math.sin(a)];
    }).flat(),
  );
}

/**
 * A plate with a closed wavy pocket in which an island stands; around the plate the plan is free, all round or where the plate
 * does not come to its border.
 */
const walls = fc
  .record({
    aside: fc.constantFrom(0, 24),
    r: fc.double({ min: 14, max: 24, noNaN: true }),
    waves: fc.integer({ min: 2, max: 6 }),
    depth: numberIn(0, 0.25),
    island: fc.double({ min: 0.5, max: 4, noNaN: true }),
  })
  .map(({ aside, r, waves, depth, island }) => [
    wavy(aside, 0, 42, 4, 0.02),
    reversed(wavy(2 + aside, -3, r, waves, depth)),
    wavy(3 + aside, 2, island, 3, 0.1),
  ]);
/** A straight wall across the plan, from border to border. */
const band = fc
  .record({
    angle: numberIn(0, Math.PI),
    half: fc.double({ min: 1, max: 15, noNaN: true }),
  })
  .map(({ angle, half }) => {
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const corner = (along: number, across: number): number[] => [along * c - across * s, along * s + across * c];
    return [Float64Array.from([corner(-99, -half), corner(99, -half), corner(99, half), corner(-99, half)].flat())];
  });
const sum = (regions: readonly Region[]): number =>
  regions.reduce((all, r) => all + [r.outer, ...r.holes].reduce((a, ring) => a + areaOf(ring), 0), 0);

describe('where the axis may be', () => {
  it('shrinks as the polygon library (clipper2-ts) grows all walls, whichever of its areas are looked at alone', () => {
    fc.assert(
      fc.property(
        fc.oneof(walls, band),
        fc.double({ min: 0.3, max: 6, noNaN: true }),
        numberIn(0, 2),
        (rings, by, radius) => {
          const all = FreeArea.outside(rings, within);
          const isOpen = (r: Region): boolean => touchesBorder(r.outer, within);
          expect(all.regions.length).toBe(2);
          const grown = offsetPolygons(offsetPolygons(rings, by + radius), -radius);
          const wanted = subtract([within], grown);
          for (const which of [() => true, isOpen, (r: Region) => !isOpen(r)]) {
            const { regions } = all.limitedTo(all.regions.filter(which)).smaller(by, radius);
            expect(regions.every(which)).toBe(true);
            // 0.05 mm along borders of 600 mm at most, each way
            expect(Math.abs(sum(regions) - sum(wanted.filter(which)))).toBeLessThan(30);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('every border of what is farther than a distance from the walls is that far from them, the plan’s own stays', () => {
    fc.assert(
      fc.property(fc.oneof(walls, band), fc.double({ min: 0.5, max: 5, noNaN: true }), (rings, by) => {
        const all = FreeArea.outside(rings, within);
        for (const area of [all, all.limitedTo(all.regions), all.limitedTo(all.regions.slice(0, 1))])
          for (const region of area.smaller(by).regions)
            for (const ring of [region.outer, ...region.holes])
              for (let k = 0; k < ring.length; k += 2) {
                if (nearestOn(within, ring[k]!, ring[k + 1]!, true).distance < 1e-3) continue;
                const far = Math.min(...rings.map((w) => nearestOn(w, ring[k]!, ring[k + 1]!, true).distance));
                expect(Math.abs(far - by)).toBeLessThan(0.2);
              }
        // the plan's own corner is free unless a wall is that near
        if (Math.min(...rings.map((w) => nearestOn(w, -59.9, -49.9, true).distance)) < by + 0.2) return;
        if (covered(rings, -59.9, -49.9)) return;
        expect(all.smaller(by).regions.some((region) => regionContains(region, -59.9, -49.9))).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
});
