import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { areaOf, nearestOn, type Polygon, type Region, regionContains, reversed } from '../../geometry/polygon';
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

/** A plate with a closed wavy pocket in which an island stands; around the plate the plan is free. */
const walls = fc
  .record({
    r: fc.double({ min: 14, max: 24, noNaN: true }),
    waves: fc.integer({ min: 2, max: 6 }),
    depth: fc.double({ min: 0, max: 0.25, noNaN: true }),
    island: fc.double({ min: 0.5, max: 4, noNaN: true }),
  })
  .map(({ r, waves, depth, island }) => [
    wavy(0, 0, 42, 4, 0.02),
    reversed(wavy(2, -3, r, waves, depth)),
    wavy(3, 2, island, 3, 0.1),
  ]);
const sum = (regions: readonly Region[]): number =>
  regions.reduce((all, r) => all + [r.outer, ...r.holes].reduce((a, ring) => a + areaOf(ring), 0), 0);

describe('where the axis may be', () => {
  it('a closed area by itself shrinks as it does among all walls, to the borders’ simplification', () => {
    fc.assert(
      fc.property(
        walls,
        fc.double({ min: 0.3, max: 6, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (rings, by, radius) => {
          const all = FreeArea.outside(rings, within);
          const closed = all.regions.filter((r) => !touchesBorder(r.outer, within));
          expect(closed.length).toBe(1);
          expect(all.regions.length).toBe(2);
          const alone = all.limitedTo(closed).smaller(by, radius);
          const among = all.smaller(by, radius).regions.filter((r) => !touchesBorder(r.outer, within));
          // 0.05 mm along a border of 250 mm at most, each way
          expect(Math.abs(sum(alone.regions) - sum(among))).toBeLessThan(15);
          for (const region of alone.regions) expect(touchesBorder(region.outer, within)).toBe(false);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('every border of what is farther than a distance from the walls is that far from them, the plan’s own stays', () => {
    fc.assert(
      fc.property(walls, fc.double({ min: 0.5, max: 5, noNaN: true }), (rings, by) => {
        const all = FreeArea.outside(rings, within);
        for (const area of [all, all.limitedTo(all.regions), all.limitedTo(all.regions.slice(0, 1))])
          for (const region of area.smaller(by).regions)
            for (const ring of [region.outer, ...region.holes])
              for (let k = 0; k < ring.length; k += 2) {
                if (nearestOn(within, ring[k]!, ring[k + 1]!, true).distance < 1e-3) continue;
                const far = Math.min(...rings.map((w) => nearestOn(w, ring[k]!, ring[k + 1]!, true).distance));
                expect(Math.abs(far - by)).toBeLessThan(0.2);
              }
        const open = all.smaller(by).regions.find((r) => touchesBorder(r.outer, within))!;
        expect(regionContains(open, -59.9, -49.9)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
});
