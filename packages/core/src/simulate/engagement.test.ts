import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { pathOf } from '../../test/shapes';
import { spansOf } from '../crew/crew';
import { Motion } from '../path/toolpath';
import { blockMap, type HeightMap } from '../steel/heightMap';
import { TILE } from '../steel/sweep';
import { type RoundPiece, roundProfile } from '../tool/profile';
import type { Body } from './body';
import { type Engagement, joinLoads, stretchOf } from './engagement';
import { machineBand } from './machining';

type Point = readonly [number, number, number, Motion?];

const CELL = 0.2;
const block = (cell = CELL): HeightMap =>
  blockMap({ minX: -30, minY: -30, minZ: -30, maxX: 30, maxY: 30, maxZ: 0 }, cell);

function run(
  points: readonly Point[],
  DC: number,
  RE: number,
  map = block(),
  bands = 1,
): Engagement & { removed: number[] } {
  const piece = roundProfile(DC, RE) as RoundPiece;
  const body: Body = { piece, shank: [], holder: [], stickOut: 60, fluteLength: 60 };
  const path = pathOf(points);
  const reports = spansOf(map.ny, bands, TILE).map((rows) =>
    machineBand(map, rows, body, path, [0, points.length], { isLoadWanted: true }),
  );
  const removed = points.map((_, i) => reports.reduce((sum, r) => sum + r.removed[i]!, 0));
  return {
    ...joinLoads(
      reports.map((r) => r.load),
      piece,
      map.cell,
    ),
    removed,
  };
}

/** A straight way between two places of a line through the middle, turned by an angle, in short motions. */
function line(angle: number, beside: number, z: number, from: number, to: number, step = 0.4): Point[] {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const at = (t: number): readonly [number, number] => [t * c - beside * s, t * s + beside * c];
  const points: Point[] = [
    [...at(from), 5, Motion.rapid],
    [...at(from), z, Motion.rapid],
  ];
  const n = Math.ceil(Math.abs(to - from) / step);
  for (let k = 1; k <= n; k++) points.push([...at(from + ((to - from) * k) / n), z, Motion.cut]);
  points.push([...at(to), 5, Motion.rapid]);
  return points;
}

/** Means over the stretches for which something holds. */
function mean(e: Engagement, of: Float32Array, isOwn: (k: number) => boolean): number {
  const own = [...e.motion.keys()].filter(isOwn);
  expect(own.length).toBeGreaterThan(5);
  return own.reduce((sum, k) => sum + of[k]!, 0) / own.length;
}

describe('how much of the cutter is in steel', () => {
  it('beside a wall is arccos(1 - ae/R), ae ap and R φ ap, whatever the corner (ISO 3002-3, geometry)', () => {
    const R = 5;
    fc.assert(
      fc.property(
        fc.double({ min: 0.15, max: 1.4, noNaN: true }),
        fc.double({ min: 1.5, max: 6, noNaN: true }),
        fc.double({ min: 2.5, max: 12, noNaN: true }),
        fc.constantFrom(0, 2),
        (angle, ae, ap, RE) => {
          // a slot, and beside it the cut that is looked at
          const slot = line(angle, 0, -ap, -50, 50, 3);
          const e = run([...slot, ...line(angle, ae, -ap, -50, 50)], 2 * R, RE);
          // away from the block's border
          const inside = (k: number): boolean => {
            const at = e.motion[k]! - slot.length - 1;
            return at > 0 && Math.abs(at / 250 - 0.5) < 0.15;
          };
          const phi = Math.acos(1 - ae / R);
          expect(Math.abs(mean(e, e.width, inside) - ae)).toBeLessThan(CELL / 3);
          expect(Math.abs(mean(e, e.area, inside) / ap - ae)).toBeLessThan(CELL / 3);
          expect(Math.abs(mean(e, e.angle, inside) - phi)).toBeLessThan(0.05);
          expect(mean(e, e.depth, inside)).toBeCloseTo(ap, 4);
          // a corner cuts over more than the flank does
          if (RE > 0) return;
          expect(Math.abs(mean(e, e.surface, inside) / (R * phi * ap) - 1)).toBeLessThan(0.1);
          expect(Math.abs(mean(e, e.chip, inside) - (phi < Math.PI / 2 ? Math.sin(phi) : 1))).toBeLessThan(0.06);
        },
      ),
      { numRuns: 12 },
    );
  });

  it('of a ball in full steel is half a turn of its circle at that depth, over the segment of its section', () => {
    const [R, ap] = [6, 2];
    const e = run(line(0.4, 0, -ap, -50, 50), 2 * R, R);
    const inside = (k: number): boolean => Math.abs(e.motion[k]! / 250 - 0.5) < 0.1;
    const half = Math.acos(1 - ap / R);
    expect(mean(e, e.angle, inside)).toBeGreaterThan((170 / 180) * Math.PI);
    expect(mean(e, e.width, inside)).toBeCloseTo(2 * R * Math.sin(half), 0);
    const segment = R * R * (half - Math.sin(half) * Math.cos(half));
    expect(Math.abs(mean(e, e.area, inside) / segment - 1)).toBeLessThan(0.03);
    // no thicker than where the steel's surface meets it
    expect(mean(e, e.chip, inside)).toBeLessThan(Math.sin(half) + 0.02);
  });

  it('round in a bore is the angle at which its rim crosses the old wall: more than beside a straight one', () => {
    const [R, c, before, ap] = [5, 9, 12, 4];
    const map = block(0.15);
    map.heights.forEach((_, o) => {
      const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
      const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
      if (Math.hypot(x, y) < before) map.heights[o] = -20;
    });
    const points: Point[] = [
      [c, 0, 5, Motion.rapid],
      [c, 0, -ap, Motion.entry],
    ];
    for (let k = 1; k <= 180; k++)
      points.push([c * Math.cos((k * Math.PI) / 90), c * Math.sin((k * Math.PI) / 90), -ap, Motion.cut]);
    const e = run(points, 2 * R, 0, map);
    const phi = Math.acos((before ** 2 - c ** 2 - R ** 2) / (2 * c * R));
    expect(phi).toBeGreaterThan(Math.acos(1 - (c + R - before) / R) + 0.2);
    const inside = (k: number): boolean => e.motion[k]! > 40 && e.motion[k]! < 140;
    expect(Math.abs(mean(e, e.angle, inside) - phi)).toBeLessThan(0.1);
    // what a turn takes is the ring between the walls
    const taken = mean(e, e.area, inside) * 2 * Math.PI * c;
    expect(Math.abs(taken / (ap * Math.PI * ((c + R) ** 2 - before ** 2)) - 1)).toBeLessThan(0.03);
  });

  it('rises in a square corner by the layer before it, on both sides of the way', () => {
    const [R, ae, ap] = [5, 1, 3];
    const map = block(0.1);
    // open but for a layer before the walls at x = 15 and y = 15
    map.heights.forEach((_, o) => {
      const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
      const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
      if (x < 15 - ae && y < 15 - ae) map.heights[o] = -20;
    });
    const points: Point[] = [
      [-20, 15 - R, 5, Motion.rapid],
      [-20, 15 - R, -ap, Motion.entry],
    ];
    for (let x = -19.8; x <= 15 - R + 1e-9; x += 0.2) points.push([x, 15 - R, -ap, Motion.cut]);
    const e = run(points, 2 * R, 0, map);
    const phi = Math.acos(1 - ae / R);
    const beside = (k: number): boolean => e.motion[k]! > 20 && e.motion[k]! < 100;
    expect(Math.abs(mean(e, e.angle, beside) - phi)).toBeLessThan(0.06);
    expect(Math.abs(Math.max(...e.angle) - 3 * phi)).toBeLessThan(0.15);
  });

  it('straight down is the whole end, without an angle', () => {
    const e = run(
      [
        [0, 0, 5, Motion.rapid],
        [0, 0, -6, Motion.entry],
      ],
      10,
      0,
    );
    expect(Math.max(...e.angle)).toBe(0);
    expect(Math.abs(Math.max(...e.area) / (Math.PI * 25) - 1)).toBeLessThan(0.01);
    expect(Math.min(...e.chip)).toBeCloseTo(1, 6);
  });

  const place = fc.tuple(
    numberIn(-24, 24),
    numberIn(-24, 24),
    numberIn(-12, 3),
    fc.constantFrom(Motion.cut, Motion.cut, Motion.cut, Motion.entry, Motion.rapid),
  );
  const cutter = fc.constantFrom([10, 0] as const, [6, 3] as const, [12, 2] as const);

  it('adds up to all the steel that is taken, on any way of any cutter, and tells none where none is', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 14 }), cutter, (points, [DC, RE]) => {
        // the rapids are run through air, as they should be
        const safe = points.map(([x, y, z, kind]): Point => [x, y, kind === Motion.rapid ? 5 : z, kind]);
        const ways = safe.flatMap((p, k): Point[] => {
          const before = safe[k - 1];
          if (before && p[3] === Motion.rapid) return [[before[0], before[1], 5, Motion.rapid], p];
          return before?.[3] === Motion.rapid ? [[p[0], p[1], 5, Motion.rapid], p] : [p];
        });
        const e = run([[0, 0, 5, Motion.rapid], ...ways], DC, RE, block(0.4));
        const least = stretchOf({ radius: DC / 2 }, 0.4).length / 2;
        for (const figure of ['area', 'surface', 'angle', 'width', 'depth', 'chip'] as const)
          expect(e[figure].every((value) => value >= 0)).toBe(true);
        const told = e.area.reduce((sum, a, k) => sum + a * Math.max(least, e.length[k]!), 0);
        const taken = e.removed.reduce((a, b) => a + b, 0);
        // 3.1 % at most in 300 cases: a ball of 6 mm over cells of 0.4 mm
        expect(Math.abs(told - taken)).toBeLessThan(0.035 * taken + 1);
        if (taken === 0) expect(e.motion.length).toBe(0);
        for (let k = 1; k < e.motion.length; k++)
          expect(e.motion[k]! + e.share[k]!).toBeGreaterThan(e.motion[k - 1]! + e.share[k - 1]!);
      }),
      { numRuns: 40 },
    );
  });

  it('in bands of rows is what it is over all rows at once', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 20 }), cutter, (points, [DC, RE]) => {
        const whole = run(points, DC, RE, block(0.4));
        const parted = run(points, DC, RE, block(0.4), 6);
        expect(parted.motion).toEqual(whole.motion);
        for (const figure of ['area', 'surface', 'angle', 'width', 'depth', 'chip'] as const)
          whole[figure].forEach((value, k) =>
            expect(Math.abs(parted[figure][k]! - value)).toBeLessThan(1e-3 * (1 + value)),
          );
      }),
      { numRuns: 20 },
    );
  });
});
