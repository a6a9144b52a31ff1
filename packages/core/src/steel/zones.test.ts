import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blockMap, copyMap, type HeightMap } from './heightMap';
import { type Zone, zonesOf } from './zones';

const CELL = 0.5;
const UNDER = -20;

/** A part of 40 x 30 in a block of 44 x 34 that stands 1 mm above it; its heights by place, NaN for none. */
function piece(height: (x: number, y: number) => number): { steel: HeightMap; tops: HeightMap } {
  const steel = blockMap({ minX: -22, minY: -17, minZ: UNDER, maxX: 22, maxY: 17, maxZ: 1 }, CELL);
  const tops = copyMap(steel);
  for (let o = 0; o < tops.heights.length; o++) {
    const x = steel.x0 + ((o % steel.nx) + 0.5) * CELL;
    const y = steel.y0 + (Math.floor(o / steel.nx) + 0.5) * CELL;
    const h = Math.abs(x) < 20 && Math.abs(y) < 15 ? height(x, y) : NaN;
    tops.heights[o] = Number.isNaN(h) ? -Infinity : h;
  }
  return { steel, tops };
}
const isIn = (x: number, y: number, box: readonly [number, number, number, number]): boolean =>
  x > box[0] && y > box[1] && x < box[2] && y < box[3];
const brief = (zones: readonly Zone[]): unknown[] =>
  zones.map(({ kind, volume, top, bottom }) => [kind, Math.round(volume), top, bottom]);

describe('zones that are to be removed', () => {
  it('a plate with a pocket around an island, an open slot and a through hole: each volume by itself', () => {
    const { steel, tops } = piece((x, y) => {
      if (isIn(x, y, [-16, -10, -4, 10])) return isIn(x, y, [-12, -4, -8, 4]) ? 0 : -8;
      if (isIn(x, y, [4, -15, 12, 2])) return -5;
      if (isIn(x, y, [15, 8, 18, 11])) return NaN;
      return 0;
    });
    expect(brief(zonesOf(steel, tops, UNDER))).toEqual([
      ['around', (44 * 34 - 40 * 30) * 20, 0, UNDER],
      ['pocket', (12 * 20 - 4 * 8) * 8, 0, -8],
      ['above', 44 * 34, 1, 0],
      ['open', 8 * 17 * 5, 0, -5],
      ['pocket', 3 * 3 * 20, 0, UNDER],
    ]);
  });

  it('a pocket whose side is lower than its rim holds up to that side, the rest lies open; a hole in its floor is its own depth', () => {
    const { steel, tops } = piece((x, y) => {
      if (isIn(x, y, [-10, -10, 10, 10])) return isIn(x, y, [-2, -2, 2, 2]) ? NaN : -9;
      // a sill of 4 mm depth out of the block
      if (isIn(x, y, [10, -3, 20, 3])) return -4;
      return 0;
    });
    const [around, open, pocket, above] = ['around', 'open', 'pocket', 'above'].map((kind) =>
      zonesOf(steel, tops, UNDER).filter((zone) => zone.kind === kind),
    );
    expect([around, open, pocket, above].map((of) => of!.length)).toEqual([1, 1, 1, 1]);
    expect(pocket![0]!.volume).toBeCloseTo(20 * 20 * 5 + 4 * 4 * 11, 6);
    expect(open![0]!.volume).toBeCloseTo((20 * 20 + 10 * 6) * 4, 6);
    expect(Math.hypot(pocket![0]!.x, pocket![0]!.y)).toBeLessThan(3);
  });

  it('together they are all the steel over the part and beside it, whatever the part and the steel are', () => {
    const box = fc
      .tuple(
        fc.integer({ min: -20, max: 10 }),
        fc.integer({ min: -15, max: 8 }),
        fc.integer({ min: 1, max: 14 }),
        fc.integer({ min: 1, max: 10 }),
        fc.constantFrom(-12, -6, -3, -0.5, NaN),
      )
      .map(([x, y, w, h, z]) => ({ box: [x, y, x + w, y + h] as const, z }));
    fc.assert(
      fc.property(fc.array(box, { maxLength: 6 }), fc.integer({ min: -30, max: 30 }), (boxes, lean) => {
        const { steel, tops } = piece((x, y) => boxes.findLast((b) => isIn(x, y, b.box))?.z ?? 0);
        // cast steel: not level, and missing in places
        for (let o = 0; o < steel.heights.length; o++)
          steel.heights[o] = Math.max(UNDER, 1 + lean * 0.02 * ((o % steel.nx) - 40));
        let whole = 0;
        for (let o = 0; o < steel.heights.length; o++) {
          const part = tops.heights[o]! > -Infinity ? tops.heights[o]! : UNDER;
          if (steel.heights[o]! - part > 1e-3) whole += steel.heights[o]! - part;
        }
        const zones = zonesOf(steel, tops, UNDER);
        const sum = zones.reduce((all, zone) => all + zone.volume, 0);
        expect(sum / (CELL * CELL)).toBeGreaterThan(0.999 * whole - 1);
        expect(sum / (CELL * CELL)).toBeLessThan(1.001 * whole + 1);
        for (const zone of zones) expect(zone.bottom).toBeLessThan(zone.top);
      }),
      { numRuns: 60 },
    );
  });

  it('a cavity that fills the block has nothing around it, and no part has no zones', () => {
    const steel = blockMap({ minX: -20, minY: -15, minZ: UNDER, maxX: 20, maxY: 15, maxZ: 0 }, CELL);
    const tops = copyMap(steel);
    for (let o = 0; o < tops.heights.length; o++) {
      const x = steel.x0 + ((o % steel.nx) + 0.5) * CELL;
      const y = steel.y0 + (Math.floor(o / steel.nx) + 0.5) * CELL;
      tops.heights[o] = Math.min(0, -8 + (x * x + y * y) / 20);
    }
    expect(zonesOf(steel, tops, UNDER).map((zone) => zone.kind)).toEqual(['pocket']);
    tops.heights.fill(-Infinity);
    expect(zonesOf(steel, tops, UNDER)).toEqual([]);
  });
});
