import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { heightAt, type ProfilePiece, type RoundPiece, roundProfile } from '../tool/profile';
import { blockMap, copyMap, type HeightMap } from '../steel/heightMap';
import { Motion, PathBuilder } from '../path/toolpath';
import { RAW_MM, Travel } from './travel';

const SAFE = 12;
const RAW_TOP = 0;
const HOLDER = 14;
const within = (most: number) => numberIn(-most, most);
const place = fc.tuple(within(32), within(26));
const cutters = fc.constantFrom([8, 0], [8, 4], [10, 1.5], [3, 1.5]);

/** Steel of towers on a floor, as a block that was cut before. */
function towers(list: readonly { x: number; y: number; r: number; top: number }[]): HeightMap {
  const map = blockMap({ minX: -30, minY: -24, minZ: -60, maxX: 30, maxY: 24, maxZ: 0 }, 0.6);
  for (let o = 0; o < map.heights.length; o++) {
    const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
    const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
    map.heights[o] = Math.max(-45, ...list.map((t) => (Math.hypot(x - t.x, y - t.y) < t.r ? t.top : -45)));
  }
  return map;
}
const steel = fc
  .array(
    fc.record({
      x: within(28),
      y: within(22),
      r: fc.double({ min: 1, max: 9, noNaN: true }),
      top: numberIn(-40, 0),
    }),
    { maxLength: 6 },
  )
  .map(towers);

/** Least height of the tip over the steel at a place so that neither cutter nor holder touches, cell by cell. */
function lowestFree(map: HeightMap, piece: ProfilePiece, stickOut: number, x: number, y: number): number {
  let low = -Infinity;
  map.heights.forEach((h, o) => {
    if (h <= map.floor) return;
    const d = Math.hypot(
      map.x0 + ((o % map.nx) + 0.5) * map.cell - x,
      map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell - y,
    );
    if (d <= piece.radius) low = Math.max(low, h - heightAt(piece, d));
    if (d <= HOLDER) low = Math.max(low, h - stickOut);
  });
  return low;
}

describe('travel between cuts', () => {
  it('never touches steel at rapid rate, with the cutter or the holder, and ends where it is to begin', () => {
    fc.assert(
      fc.property(
        steel,
        cutters,
        fc.double({ min: 15, max: 60, noNaN: true }),
        fc.array(fc.tuple(place, within(40)), { minLength: 2, maxLength: 6 }),
        (map, [DC, RE], stickOut, stops) => {
          const piece = roundProfile(DC!, RE!) as RoundPiece;
          const path = new PathBuilder();
          const travel = new Travel(
            path,
            copyMap(map),
            { piece, stickOut, fluteLength: 100, holderRadius: HOLDER },
            SAFE,
            RAW_TOP,
          );
          for (const [[x, y], deep] of stops) {
            // where the tool can stand at all
            const z = Math.max(deep, lowestFree(map, piece, stickOut, x, y) + 1e-6);
            travel.crossTo(x, y, z);
            expect(path.last![0]).toBe(x);
            expect(path.last![1]).toBe(y);
            expect(path.last![2]).toBeGreaterThanOrEqual(Math.min(z, SAFE));
          }
          travel.leave();
          expect(path.last![2]).toBe(SAFE);
          const { x, y, z, kind } = path.build();
          for (let i = 1; i < x.length; i++) {
            expect(kind[i]).toBe(Motion.rapid);
            const n = Math.max(1, Math.ceil(Math.hypot(x[i]! - x[i - 1]!, y[i]! - y[i - 1]!) / 2));
            for (let k = 0; k <= n; k++) {
              const at = (c: Float64Array): number => c[i - 1]! + (k / n) * (c[i]! - c[i - 1]!);
              const free = lowestFree(map, piece, stickOut, at(x), at(y));
              // where even the safe plane leaves the holder in steel nothing can be done by height
              expect(Math.min(z[i - 1]!, z[i]!)).toBeGreaterThanOrEqual(Math.min(SAFE, free));
            }
          }
        },
      ),
      { numRuns: 80 },
    );
  });

  it('stays as low as what stands on the way allows: over a cleared floor it does not climb to the top of the block', () => {
    const map = towers([{ x: 0, y: 20, r: 3, top: 0 }]);
    const piece = roundProfile(8, 1) as RoundPiece;
    const path = new PathBuilder();
    const travel = new Travel(
      path,
      copyMap(map),
      { piece, stickOut: 60, fluteLength: 100, holderRadius: HOLDER },
      SAFE,
      RAW_TOP,
    );
    travel.crossTo(-20, -10, -44);
    travel.feed(-20, -10, -44, Motion.entry);
    travel.crossTo(20, -10, -44);
    const { z } = path.build();
    expect(Math.max(...z.slice(3))).toBeLessThan(-43);
  });

  it('comes down at rapid rate no nearer than 2 mm to a side of the block, nor than 2 mm to its top as it came', () => {
    const around = fc.tuple(within(45), within(40)).filter(([x, y]) => Math.abs(x) > 30.5 || Math.abs(y) > 24.5);
    const block = towers([{ x: 0, y: 0, r: 60, top: RAW_TOP }]);
    fc.assert(
      fc.property(fc.array(around, { minLength: 2, maxLength: 5 }), fc.boolean(), (stops, isFaced) => {
        const piece = roundProfile(8, 1) as RoundPiece;
        const path = new PathBuilder();
        const tool = { piece, stickOut: 60, fluteLength: 100, holderRadius: HOLDER };
        const rawTop = isFaced ? RAW_TOP + 5 : RAW_TOP;
        const travel = new Travel(path, copyMap(block), tool, SAFE, rawTop);
        for (const [x, y] of stops) travel.crossTo(x, y, -20);
        const { x, y, z } = path.build();
        for (let i = 1; i < x.length; i++) {
          const apart = (k: number): number =>
            Math.hypot(Math.max(0, Math.abs(x[k]!) - 30), Math.max(0, Math.abs(y[k]!) - 24));
          if (z[i]! < RAW_TOP + (isFaced ? 1 : RAW_MM) - 1e-9)
            expect(Math.min(apart(i), apart(i - 1))).toBeGreaterThan(piece.radius + RAW_MM - 0.01);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('leaves the same steel whether it is looked at after every feed or only at the end of the way', () => {
    const depth = fc.double({ min: -30, max: -1, noNaN: true });
    fc.assert(
      fc.property(cutters, fc.array(fc.tuple(place, depth), { minLength: 3, maxLength: 14 }), ([DC, RE], stops) => {
        const piece = roundProfile(DC!, RE!) as RoundPiece;
        const map = towers([{ x: 0, y: 0, r: 50, top: 0 }]);
        const [often, once] = [true, false].map((isLookedAt) => {
          const path = new PathBuilder();
          const travel = new Travel(
            path,
            copyMap(map),
            { piece, stickOut: 60, fluteLength: 100, holderRadius: HOLDER },
            SAFE,
            RAW_TOP,
          );
          travel.crossTo(...stops[0]![0], stops[0]![1]);
          for (const [[x, y], z] of stops) {
            // half of the way turns gently, where a move leaves its end to the next one
            const [ax, ay, az] = travel.at!;
            travel.feed((ax + x) / 2, (ay + y) / 2, (az + z) / 2, Motion.cut);
            travel.feed(x, y, z, Motion.cut);
            // the cutter has just been here
            if (isLookedAt) expect(travel.standsAbove(z + RE! + 1e-3, x, y, travel.passed)).toBe(false);
          }
          return travel.steel.heights.slice();
        });
        // a cell on the very rim is reached or not by rounding; an end that was not cut would show in dozens
        expect(once!.filter((h, o) => Math.abs(h - often![o]!) > 1e-3).length).toBeLessThanOrEqual(2);
      }),
      { numRuns: 30 },
    );
  });

  it('takes the steel off that it feeds through: what was cut is clear afterwards, what was not is not', () => {
    const map = towers([{ x: 0, y: 0, r: 50, top: -5 }]);
    const piece = roundProfile(8, 0) as RoundPiece;
    const path = new PathBuilder();
    const travel = new Travel(
      path,
      copyMap(map),
      { piece, stickOut: 60, fluteLength: 100, holderRadius: HOLDER },
      SAFE,
      RAW_TOP,
    );
    expect(travel.isClear(0, 0, -9)).toBe(false);
    travel.crossTo(-36, 0, -9);
    travel.feed(-36, 0, -9, Motion.entry);
    travel.feed(36, 0, -9, Motion.cut);
    expect(travel.isClear(0, 0, -9)).toBe(true);
    expect(travel.isClear(0, 5, -9)).toBe(false);
    expect(travel.isClear(0, 0, -10)).toBe(false);
    expect(travel.standsAbove(-5.5, 0, 8, 2)).toBe(true);
    expect(travel.standsAbove(-4.5, 0, 8, 2)).toBe(false);
  });
});
