import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { Motion, PathBuilder } from '../path/toolpath';
import { RAW_MM, Travel } from '../link/travel';
import { machineBand } from '../simulate/machining';
import { joinBands } from '../simulate/runOver';
import { blockMap, copyMap } from '../steel/heightMap';
import { Entries, ENTRIES } from './entries';

const HALF = 12;
const ring = Float64Array.of(-HALF, -HALF, HALF, -HALF, HALF, HALF, -HALF, HALF);
const isOnRing = (x: number, y: number): boolean => Math.abs(Math.max(Math.abs(x), Math.abs(y)) - HALF) < 1e-9;
const within = (most: number) => numberIn(-most, most);

/** Ways into a closed square around islands that the axis must not come into. */
function entries(
  islands: readonly { x: number; y: number; r: number }[],
  change: object = {},
  top: (x: number, y: number) => number = () => 0,
  bears: { RMPX?: number; DMIN?: number } = {},
) {
  const piece = roundProfile(6, 1) as RoundPiece;
  const path = new PathBuilder();
  const steel = blockMap({ minX: -30, minY: -30, minZ: -20, maxX: 30, maxY: 30, maxZ: 0 }, 0.6);
  for (let o = 0; o < steel.heights.length; o++)
    steel.heights[o] = top(
      steel.x0 + ((o % steel.nx) + 0.5) * steel.cell,
      steel.y0 + (Math.floor(o / steel.nx) + 0.5) * steel.cell,
    );
  const travel = new Travel(path, copyMap(steel), { piece, stickOut: 60, fluteLength: 100, holderRadius: 15 }, 10, 0);
  const depthIn = (x: number, y: number): number =>
    Math.max(
      Math.max(Math.abs(x), Math.abs(y)) - HALF,
      ...islands.map((island) => island.r - Math.hypot(x - island.x, y - island.y)),
    );
  const values = {
    direction: 'climb' as const,
    entry: 'helix' as const,
    rampAngleDeg: 3,
    helixRadius: null,
    smallestOpening: 8.4,
    lift: 0.3,
    tolerance: 0.02,
    ...change,
  };
  const ways = new Entries(
    travel,
    (x, y) => depthIn(x, y) > 0,
    { diameter: 6, middle: 1.5, ridge: 0.5, rim: 1.5, ...bears },
    values,
    [],
  );
  return { path, ways, depthIn, travel, steel, piece };
}

describe('ways into closed steel', () => {
  const island = fc.record({ x: within(HALF), y: within(HALF), r: fc.double({ min: 1, max: 5, noNaN: true }) });

  it('never lead the axis into an island, beside or inside a helix, nor steeper than the ramp; and end on the line', () => {
    let entered = 0;
    fc.assert(
      fc.property(fc.array(island, { maxLength: 3 }), fc.constantFrom(...ENTRIES), within(9), (islands, entry, z0) => {
        const { path, ways, depthIn } = entries(islands, { entry });
        const loop = { points: ring, closed: true };
        const z = -1 - Math.abs(z0);
        const line = ways.into(loop, { outer: ring, holes: [] }, z, () => ring);
        const { x, y, z: heights, kind } = path.build();
        if (!line) {
          expect(x.length).toBeLessThan(2);
          return;
        }
        entered++;
        expect(x[x.length - 1]).toBeCloseTo(line[0]!, 9);
        expect(y[y.length - 1]).toBeCloseTo(line[1]!, 9);
        expect(heights[heights.length - 1]).toBeCloseTo(z, 9);
        for (let i = 1; i < x.length; i++) {
          if (kind[i] === Motion.rapid) continue;
          const length = Math.hypot(x[i]! - x[i - 1]!, y[i]! - y[i - 1]!);
          const fall = heights[i - 1]! - heights[i]!;
          if (entry !== 'plunge' && fall > 1e-9)
            expect(fall / length).toBeLessThan(1.01 * Math.tan((3 * Math.PI) / 180));
          // the line itself may be blocked beyond its beginning: only what the entry adds is looked at
          if (isOnRing(x[i - 1]!, y[i - 1]!) && isOnRing(x[i]!, y[i]!)) continue;
          const n = Math.max(1, Math.ceil(length / 0.05));
          for (let k = 0; k <= n; k++) {
            const [px, py] = [x, y].map((c) => c[i - 1]! + (k / n) * (c[i]! - c[i - 1]!)) as [number, number];
            // half the tolerance; and between looks 0.3 mm apart an island of 1 mm radius comes in by 0.011 mm at most
            expect(depthIn(px, py)).toBeLessThan(0.01 + 0.0115);
          }
        }
      }),
      {
        numRuns: 300,
        examples: [
          // a helix of one turn and a half here would leave the straight way to the line through the island
          [[{ x: -2.2288000000000006, y: 0, r: 1 }], 'helix', 0],
        ],
      },
    );
    expect(entered).toBeGreaterThan(60);
  });

  it('a cutter goes down no steeper than it may, and by no helix narrower than it may, whatever the step asks for', () => {
    const loop = { points: ring, closed: true };
    fc.assert(
      fc.property(
        fc.constantFrom('helix' as const, 'ramp' as const),
        numberIn(0.3, 2.5),
        numberIn(6.5, 12),
        (entry, RMPX, DMIN) => {
          const { path, ways } = entries([], { entry, helixRadius: 0.4 }, () => 0, { RMPX, DMIN });
          expect(ways.into(loop, { outer: ring, holes: [] }, -2, () => ring)).toBeDefined();
          const { x, y, z, kind } = path.build();
          let steepest = 0;
          const sloping: number[] = [];
          for (let i = 1; i < x.length; i++) {
            if (kind[i] === Motion.rapid) continue;
            const length = Math.hypot(x[i]! - x[i - 1]!, y[i]! - y[i - 1]!);
            const fall = z[i - 1]! - z[i]!;
            if (length > 1e-9) steepest = Math.max(steepest, Math.atan2(fall, length));
            if (fall > 1e-9 && length > 1e-9) sloping.push(x[i]!);
          }
          // the chords of a helix are a little shorter than its arcs
          expect((steepest * 180) / Math.PI).toBeLessThan(1.02 * RMPX);
          if (entry === 'helix') {
            const wide = Math.max(...sloping) - Math.min(...sloping) + 6;
            expect(wide).toBeGreaterThan(DMIN - 0.2);
          }
        },
      ),
    );
  });

  it('from a floor that was cleared before, a helix begins there, and the cutter is not lifted', () => {
    const { path, ways } = entries([], { helixRadius: 2.4 });
    const loop = { points: ring, closed: true };
    const region = { outer: ring, holes: [] };
    let last = 0;
    for (const z of [-1, -2, -3, -4]) {
      ways.into(loop, region, z, (x, y) => Float64Array.of(x + 1, y, x + 2, y));
      const { z: heights, kind } = path.build();
      const entry = heights.slice(last).filter((_, k) => kind[last + k] !== Motion.rapid);
      expect(Math.max(...entry)).toBeLessThanOrEqual(z === -1 ? RAW_MM : z + 1 + 1e-9);
      if (z < -1) expect(kind.slice(last).includes(Motion.rapid)).toBe(false);
      last = heights.length;
    }
  });

  it('a plateau that stands on the cleared floor is come to from its side: nothing is driven straight down on to it', () => {
    // beside the plateau the floor is at -1, on it 0.165 mm higher, as a cutter that could not reach farther leaves it
    const plateau = (x: number): number => (x < -6 ? -1 : -0.835);
    for (const entry of ['helix', 'ramp'] as const) {
      const { path, ways, travel, steel, piece } = entries([], { entry, helixRadius: 2 }, plateau);
      path.to(-11, 0, 5, Motion.rapid);
      travel.feed(-11, 0, -1, Motion.cut);
      const line = ways.into({ points: ring, closed: true }, { outer: ring, holes: [] }, -2, () => ring);
      expect(line).toBeDefined();
      const body = { piece, shank: [], holder: [], stickOut: 60, fluteLength: 100, centreCutting: false };
      const built = path.build();
      const band = machineBand(steel, [0, steel.ny], body, built, [0, built.x.length]);
      expect(joinBands([band]).mishaps).toEqual([]);
    }
  });

  it.each(ENTRIES.filter((entry) => entry !== 'none'))(
    'by %s: a square that the cutter opens to 30 mm is entered as one of 29.5 mm, not as one of 30.5',
    (entry) => {
      const into = (smallestOpening: number) =>
        entries([], { entry, smallestOpening, helixRadius: 2 }).ways.into(
          { points: ring, closed: true },
          { outer: ring, holes: [] },
          -2,
          () => ring,
        );
      expect(into(29.5)).toBeDefined();
      expect(into(30.5)).toBeUndefined();
    },
  );
});
