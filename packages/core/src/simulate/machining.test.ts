import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { pathOf } from '../../test/shapes';
import { type RoundPiece, roundProfile, stackProfile } from '../tool/profile';
import { Motion } from '../path/toolpath';
import { blockMap, type HeightMap } from '../steel/heightMap';
import type { Body, Mishap } from './body';
import { type BandReport, machineBand } from './machining';
import { joinBands } from './runOver';
import { spansOf } from '../crew/crew';
import { TILE } from '../steel/sweep';

const CELL = 0.5;

function steel(height: (x: number, y: number) => number = () => 0, cell = CELL): HeightMap {
  const map = blockMap({ minX: -30, minY: -24, minZ: -60, maxX: 30, maxY: 24, maxZ: 0 }, cell);
  for (let o = 0; o < map.heights.length; o++)
    map.heights[o] = height(
      map.x0 + ((o % map.nx) + 0.5) * map.cell,
      map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell,
    );
  return map;
}

/** A cutter of 8 mm with a slimmer neck above 12 mm of flutes, in a holder of 30 mm. */
function body(change: Partial<Body> = {}): Body {
  return {
    piece: roundProfile(8, 1) as RoundPiece,
    shank: stackProfile([{ bottomDiameter: 7, topDiameter: 7, length: 60 }], 12),
    holder: stackProfile([{ bottomDiameter: 30, topDiameter: 30, length: 40 }], 0),
    stickOut: 30,
    fluteLength: 12,
    ...change,
  };
}

type Point = readonly [number, number, number, Motion?];

function run(map: HeightMap, tool: Body, points: readonly Point[], rows: readonly [number, number] = [0, map.ny]) {
  return machineBand(map, rows, tool, pathOf(points), [0, points.length]);
}

describe('a run over the steel', () => {
  const place = fc.tuple(
    numberIn(-28, 28),
    numberIn(-22, 22),
    numberIn(-20, 6),
    fc.constantFrom(Motion.cut, Motion.cut, Motion.entry, Motion.rapid),
  );

  it('in bands of rows leaves the same steel, takes off the same and finds the same as over all rows at once', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 25 }), (points) => {
        const whole = steel();
        const all = run(whole, body(), points);
        const parted = steel();
        const bands = [];
        for (let from = 0; from < parted.ny; from += 3 * TILE)
          bands.push(run(parted, body(), points, [from, Math.min(parted.ny, from + 3 * TILE)]));
        // to the last bits of single precision
        whole.heights.forEach((height, k) => expect(Math.abs(parted.heights[k]! - height)).toBeLessThan(1e-5));
        for (let i = 0; i < points.length; i++) {
          const taken = bands.reduce((sum, b) => sum + b.removed[i]!, 0);
          expect(Math.abs(taken - all.removed[i]!)).toBeLessThan(1e-4 * (1 + taken));
        }
        expect(Math.max(...bands.map((b) => b.neededStickOut))).toBeCloseTo(all.neededStickOut, 4);
        const told = (of: readonly BandReport[]): string[] =>
          [...new Set(joinBands(of).mishaps.map((m) => `${m.kind} ${m.motion}`))].sort();
        expect(told(bands)).toEqual(told([all]));
      }),
      { numRuns: 40 },
    );
  });

  it('motion after motion by itself leaves the same steel and finds the same as hundreds of them in one run', () => {
    const rows = [0, steel().ny] as const;
    fc.assert(
      fc.property(fc.array(place, { minLength: 260, maxLength: 330 }), (points) => {
        const path = pathOf(points);
        const whole = steel();
        const all = machineBand(whole, rows, body(), path, [0, points.length], { marks: [7, 256, 258] });
        const parted = steel();
        const alone: Mishap[] = [];
        let [taken, needed] = [0, 0];
        for (let i = 1; i < points.length; i++) {
          const one = machineBand(parted, rows, body(), path, [i, i + 1]);
          alone.push(...one.mishaps);
          taken += one.removed[0]!;
          needed = Math.max(needed, one.neededStickOut);
          // what a motion leaves at its end the next one takes
          const sum = all.removed.subarray(0, i + 1).reduce((a, b) => a + b, 0);
          expect(sum).toBeLessThan(taken + 0.1);
        }
        expect(Math.max(...parted.heights.map((h, o) => Math.abs(h - whole.heights[o]!)))).toBeLessThan(1e-4);
        expect(all.removed.reduce((a, b) => a + b, 0)).toBeCloseTo(taken, 0);
        expect(all.neededStickOut).toBeCloseTo(needed, 3);
        // what is more than a touch is told both ways; how much steel a steep motion meets depends on those before it
        const named = (list: readonly Mishap[], least: number) =>
          list.filter((m) => m.kind !== 'plunge' && m.amount > least).map((m) => `${m.kind} ${m.motion}`);
        expect(named(alone, 0)).toEqual(expect.arrayContaining(named(all.mishaps, 0.01)));
        expect(named(all.mishaps, 0)).toEqual(expect.arrayContaining(named(alone, 0.01)));
        expect([...all.history.marks]).toEqual([7, 256, 258]);
      }),
      { numRuns: 4, endOnFailure: true },
    );
  });

  it('the stick-out that is needed is the highest steel above the tip under the holder, wherever along the way it stands', () => {
    const hill = fc.record({
      x: numberIn(-25, 25),
      y: numberIn(-20, 20),
      top: numberIn(-25, 0),
      r: fc.double({ min: 1, max: 6, noNaN: true }),
    });
    const radius = 15;
    fc.assert(
      fc.property(
        fc.array(hill, { minLength: 1, maxLength: 5 }),
        fc.array(place, { minLength: 2, maxLength: 8 }),
        (hills, points) => {
          const height = (x: number, y: number): number =>
            Math.max(-50, ...hills.map((h) => (Math.hypot(x - h.x, y - h.y) < h.r ? h.top : -50)));
          const map = steel(height);
          // a needle that cuts next to nothing, moving between the hills' height and a little below
          const needle = body({
            piece: roundProfile(0.02, 0) as Body['piece'],
            shank: [],
            fluteLength: 100,
            stickOut: 60,
          });
          const { neededStickOut } = run(map, needle, points);
          let least = 0;
          for (let i = 1; i < points.length; i++) {
            const [a, b] = [points[i - 1]!, points[i]!];
            const steps = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]) / 0.5));
            for (let k = 1; k <= steps; k++) {
              const [x, y, z] = [0, 1, 2].map(
                (c) => (a[c] as number) + (k / steps) * ((b[c] as number) - (a[c] as number)),
              );
              for (let o = 0; o < map.heights.length; o++) {
                const cx = map.x0 + ((o % map.nx) + 0.5) * map.cell;
                const cy = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
                if (Math.hypot(cx - x!, cy - y!) <= radius) least = Math.max(least, map.heights[o]! - z!);
              }
            }
          }
          expect(neededStickOut).toBeCloseTo(Math.min(60, least), 3);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('a shank touches what stands in it when the cutter has passed: what is no wider than the cutter touches nothing', () => {
    const widths = fc.double({ min: 6, max: 14, noNaN: true });
    const block = (map: HeightMap, x: number, y: number, radius: number): number => {
      let most = -Infinity;
      map.heights.forEach((h, o) => {
        const cx = map.x0 + ((o % map.nx) + 0.5) * map.cell;
        const cy = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
        if (Math.hypot(cx - x, cy - y) <= radius) most = Math.max(most, h);
      });
      return most;
    };
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 5 }), widths, (points, width) => {
        const map = steel(undefined, 1);
        const thick = body({
          shank: stackProfile([{ bottomDiameter: width, topDiameter: width, length: 60 }], 12),
          holder: [],
          fluteLength: 100,
        });
        for (let i = 1; i < points.length; i++) {
          const [a, b] = [points[i - 1]!, points[i]!];
          const told = run(map, thick, [a, b]).mishaps.filter((m) => m.kind === 'shank');
          // where the motion ends its shank is looked at too
          const stands = block(map, b[0], b[1], width / 2) - b[2] - 12;
          if (width <= 8) expect(stands).toBeLessThan(1e-3);
          if (width <= 8) expect(told).toEqual([]);
          else if (stands > 0.01) expect(told[0]!.amount).toBeGreaterThan(0);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('a rapid through steel is told with the volume that it would take; a link at feed is not', () => {
    const flat = body({ piece: roundProfile(8, 0) as Body['piece'] });
    const through = (kind: Motion) =>
      run(steel(undefined, 0.1), flat, [
        [-40, 0, -2],
        [40, 0, -2, kind],
      ]).mishaps;
    const [struck] = through(Motion.rapid);
    // a slot across the block, the cutter smaller by 0.002 mm
    expect(struck!.kind).toBe('rapid');
    expect(Math.abs(struck!.amount - 60 * 8 * 2)).toBeLessThan(60 * 2 * 0.25);
    expect(through(Motion.link)).toEqual([]);
  });

  it('holder and shank touch a wall when it stands higher above the tip than stick-out and flutes', () => {
    const wall = 7;
    // beside an upright wall at x = 5, 4 mm from the axis: the flutes just reach it, neck and holder do not or do
    const map = () => steel((x) => (x > 5 ? 0 : -50));
    const along = (z: number): Point[] => [
      [0, -20, z],
      [0, 20, z],
    ];
    expect(run(map(), body(), along(-29.9)).mishaps).toEqual([]);
    const [holder] = run(map(), body(), along(-33)).mishaps;
    expect(holder).toMatchObject({ kind: 'holder', motion: 1 });
    expect(holder!.amount).toBeCloseTo(3, 3);
    expect(run(map(), body(), along(-33)).neededStickOut).toBeCloseTo(33, 3);
    // a neck wider than the cutter meets the wall above the flutes: 2 mm too low, or 1.75 mm too near the cells' middles
    const thick = body({ shank: stackProfile([{ bottomDiameter: 2 * wall, topDiameter: 2 * wall, length: 18 }], 12) });
    expect(run(map(), thick, along(-11.9)).mishaps).toEqual([]);
    const [shank] = run(map(), thick, along(-14)).mishaps;
    expect(shank).toMatchObject({ kind: 'shank', motion: 1 });
    expect(Math.abs(shank!.amount - (wall - 5.25))).toBeLessThan(0.02);
    expect(run(map(), thick, along(-13)).mishaps[0]!.amount).toBeCloseTo(1, 3);
  });

  it('a skin taller than the flutes touches the neck by what it is thicker than the neck is relieved, and stays', () => {
    const [R, FLUTES, WALL] = [4, 12, -30];
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 1.5, noNaN: true }),
        numberIn(0, 1.6),
        fc.constantFrom(0, 1, R),
        (relief, skin, corner) => {
          // a wall at x = R, its skin reaching back towards the axis; cells small enough to show it
          const map = steel((x) => (x > R - skin ? 0 : -40), 0.1);
          const tool = body({
            piece: roundProfile(2 * R, corner) as RoundPiece,
            shank: stackProfile(
              [{ bottomDiameter: 2 * (R - relief), topDiameter: 2 * (R - relief), length: 60 }],
              FLUTES,
            ),
            holder: [],
            stickOut: 60,
          });
          const { mishaps, removed } = run(map, tool, [
            [0, -20, WALL],
            [0, 20, WALL],
          ]);
          const told = mishaps.find((m) => m.kind === 'shank')?.amount ?? 0;
          expect(removed[1]).toBeLessThan(1e-6);
          // how far a cell's middle lies inside the skin is known to a cell
          expect(told).toBeLessThanOrEqual(Math.max(0, skin - relief) + 1e-3);
          expect(told).toBeGreaterThanOrEqual(skin - relief - 0.101);
          // led down along the wall the flutes take the skin away, and nothing is left for the neck
          const down = steel((x) => (x > R - skin ? 0 : -40), 0.1);
          const way: Point[] = Array.from({ length: 64 }, (_, k) => [0, 0, 2 - k / 2]);
          expect(run(down, { ...tool, centreCutting: true }, way).mishaps).toEqual([]);
        },
      ),
      { numRuns: 50 },
    );
  });

  it('straight down into full steel is a plunge for a cutter that does not cut over its centre, a ramp is none', () => {
    const down: Point[] = [
      [0, 0, 1],
      [0, 0, -3, Motion.entry],
    ];
    const whole = joinBands([run(steel(), body(), down)]).mishaps;
    expect(whole).toEqual([{ kind: 'plunge', motion: 1, amount: expect.closeTo(1, 1) as number }]);
    expect(run(steel(), body({ centreCutting: true }), down).mishaps).toEqual([]);
    const ramp: Point[] = [
      [-20, 0, 0.5],
      [20, 0, -2, Motion.entry],
    ];
    expect(joinBands([run(steel(), body(), ramp)]).mishaps).toEqual([]);
    // a cutter wider than the bands of rows: none of them sees a third of its disc
    const wide = body({ piece: roundProfile(24, 1) as RoundPiece });
    const map = steel();
    const bands = spansOf(map.ny, 24, TILE).map((rows) => run(map, wide, down, rows));
    for (const { mishaps } of bands) for (const { amount } of mishaps) expect(amount).toBeLessThan(0.3);
    expect(joinBands(bands).mishaps.map((m) => m.kind)).toEqual(['plunge']);
  });
});
