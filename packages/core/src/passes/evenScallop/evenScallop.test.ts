import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../../test/numberIn';
import { BoundsTest } from '../../field/bounds';
import { Buried } from '../../field/buried';
import { contactMesh } from '../../geometry/contactMesh';
import { meshOf, sheet, squarePocket } from '../../../test/shapes';
import { blockMap } from '../../steel/heightMap';
import { roundProfile, type RoundPiece } from '../../tool/profile';
import type { ScanRun } from '../scan';
import { sideStepFor } from '../scallop';
import { withDetours } from './detours';
import { NearLines } from './valleySeeds';
import { passMetric } from './metric';
import { Rolling } from './rolling';
import { SurfaceLink } from './surfaceLink';

const R = 3;

/** How many passes lie between two places of the middle of a ball, by its metric. */
function passes(a: readonly number[], na: readonly number[], b: readonly number[], nb: readonly number[], h: number) {
  return passMetric(Float64Array.from([...a, ...b]), Float64Array.from([...na, ...nb]), R, h, sideStepFor(R, h))(0, 1);
}

describe('how many passes lie between two places', () => {
  const scallop = fc.double({ min: 0.001, max: 0.2, noNaN: true });

  it('on a plane, of any slope: their distance in side steps', () => {
    fc.assert(
      fc.property(scallop, numberIn(0, 1.5), fc.double({ min: 0.1, max: 2, noNaN: true }), (h, slope, far) => {
        const n = [Math.sin(slope), 0, Math.cos(slope)];
        const b = [far * Math.cos(slope), 0, -far * Math.sin(slope)];
        expect(passes([0, 0, 0], n, b, n, h)).toBeCloseTo(far / sideStepFor(R, h), 9);
      }),
    );
  });

  it('round a cylinder, inside or outside: one, where two passes leave just that ridge between them', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.002, max: 0.05, noNaN: true }),
        fc.double({ min: 4, max: 60, noNaN: true }),
        fc.boolean(),
        (h, radius, isOutside) => {
          // the middles run on a circle; two of them an angle apart, the balls meet halfway between
          const circle = isOutside ? radius + R : radius - R;
          const ridge = (angle: number): number => {
            const [half, across] = [circle * Math.cos(angle / 2), circle * Math.sin(angle / 2)];
            const down = Math.sqrt(R * R - across * across);
            return isOutside ? half - down - radius : radius - half - down;
          };
          // widest angle whose ridge is no higher, by halving
          let [low, high] = [0, 2 * Math.asin(Math.min(1, (0.9 * R) / circle))];
          for (let k = 0; k < 60; k++) {
            const mid = (low + high) / 2;
            if (ridge(mid) > h) high = mid;
            else low = mid;
          }
          const sign = isOutside ? 1 : -1;
          const at = (a: number): number[] => [circle * Math.cos(a), 0, circle * Math.sin(a)];
          const n = (a: number): number[] => [sign * Math.cos(a), 0, sign * Math.sin(a)];
          expect(passes(at(0), n(0), at(low), n(low), h)).toBeGreaterThan(0.97);
          expect(passes(at(0), n(0), at(low), n(low), h)).toBeLessThan(1.03);
        },
      ),
    );
  });
});

describe('lines near a place', () => {
  it('the nearest one within reach is found, and none beyond it', () => {
    const coordinate = numberIn(-20, 20);
    const point = fc.tuple(coordinate, coordinate, coordinate);
    fc.assert(
      fc.property(
        fc.array(fc.array(point, { minLength: 2, maxLength: 5 }), { maxLength: 6 }),
        point,
        fc.double({ min: 0.5, max: 15, noNaN: true }),
        (lines, [x, y, z], reach) => {
          const distance = (line: readonly (readonly number[])[]): number =>
            Math.min(
              ...line.slice(1).map((b, k) => {
                const a = line[k]!;
                const d = b.map((v, axis) => v - a[axis]!);
                const square = d.reduce((sum, v) => sum + v * v, 0);
                const p = [x, y, z];
                const t = square > 0 ? d.reduce((sum, v, axis) => sum + v * (p[axis]! - a[axis]!), 0) / square : 0;
                const u = Math.min(1, Math.max(0, t));
                return Math.hypot(...p.map((v, axis) => v - a[axis]! - u * d[axis]!));
              }),
            );
          const near = new NearLines(
            lines.map((line) => ({ points: Float64Array.from(line.flat()) })),
            reach,
          ).nearest(x, y, z);
          const least = Math.min(Infinity, ...lines.map(distance));
          if (least > reach) expect(near).toBeUndefined();
          else expect(near!.distance).toBeCloseTo(least, 9);
        },
      ),
    );
  });
});

describe('ways over the surface', () => {
  const spec = (soup: number[]) => ({
    mesh: contactMesh(meshOf(soup)),
    piece: roundProfile(2 * R, R) as RoundPiece,
    side: 0,
    floor: 0,
  });

  it('keep to it within the tolerance between their places, and break where a wall stands between', () => {
    const hills = new Rolling(
      spec(sheet([-14, -12, 14, 12], 0.5, -15, (x, y) => 2 * Math.sin(x / 3) + Math.cos(y / 2.5))),
      0.004,
    );
    const [piece, ...others] = hills.pieces(Float64Array.of(-8, 3, R + 2, 0, -2, R + 2, 8, 4, R + 2));
    expect(others).toEqual([]);
    expect(piece!.length / 3).toBeGreaterThan(20);
    const pocket = new Rolling(spec(squarePocket(20, 14, 9, -15)), 0.004);
    // from the floor to the plate beside it, straight through the wall
    expect(pocket.over([0, 0, -9 + R], [5, 2, -9 + R])).toBeDefined();
    expect(pocket.over([0, 0, -9 + R], [17, 0, R])).toBeUndefined();
  });

  it('short lines beside a pass are cut from it: nothing of the pass is lost, and it goes on where it was left', () => {
    const plane = spec(sheet([-30, -30, 30, 30], 5, -15, () => 0));
    // beyond x = 5 a strip of steel stands beside the pass
    const steel = blockMap({ minX: -30, minY: -30, minZ: -15, maxX: 30, maxY: 30, maxZ: 0 }, 0.25);
    for (let o = 0; o < steel.heights.length; o++) {
      const x = steel.x0 + ((o % steel.nx) + 0.5) * steel.cell;
      const y = steel.y0 + (Math.floor(o / steel.nx) + 0.5) * steel.cell;
      if (x > 5 && y > 2.5 && y < 6) steel.heights[o] = 3;
    }
    const open = new BoundsTest({ closed: [], obstacles: [] });
    const flat = new SurfaceLink(plane, 0.004, open, new Buried(steel, plane.piece, 0.5));
    const pass: ScanRun = {
      line: 4,
      points: Float64Array.from(Array.from({ length: 21 }, (_, k) => [k - 10, 0, 0]).flat()),
      stoppedBySteel: [false, false],
    };
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            x: fc.oneof(fc.integer({ min: -9, max: 1 }), fc.integer({ min: 6, max: 9 })),
            y: fc.double({ min: 0.3, max: 3, noNaN: true }),
          }),
          {
            maxLength: 6,
          },
        ),
        (places) => {
          const shorts = places.map(({ x, y }) => ({ points: Float64Array.of(x, y, 0, x + 0.5, y, 0), beside: 4 }));
          const { runs, left } = withDetours([pass], shorts, 2, flat);
          const points = [...runs[0]!.points];
          const isOnPass = (k: number): boolean => points[3 * k + 1] === 0;
          // the pass itself, without the detours, is the same way
          const own = points.filter((_, o) => isOnPass(Math.floor(o / 3)));
          const seen = own.filter((_, o) => o % 3 === 0);
          expect([...new Set(seen)]).toEqual([...pass.points].filter((_, o) => o % 3 === 0));
          // what lies too far off, or beside steel that the cutter may not meet, is not cut from there
          expect(left).toEqual([...places.keys()].filter((k) => places[k]!.y > 2 || places[k]!.x > 5));
          // each short line is in it
          places.forEach(({ x, y }, k) => {
            if (left.includes(k)) return;
            expect(points.some((v, o) => o % 3 === 0 && v === x && points[o + 1] === y)).toBe(true);
          });
          // and no motion is longer than the way to the farthest of them
          for (let o = 3; o < points.length; o += 3)
            expect(Math.hypot(points[o]! - points[o - 3]!, points[o + 1]! - points[o - 2]!)).toBeLessThan(3);
        },
      ),
    );
  });
});
