import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { contactMesh } from '../geometry/contactMesh';
import { areaOf, covered, nearestOn, type Polygon } from '../geometry/polygon';
import { meshOf, sheet, squarePocket } from '../../test/shapes';
import { findFolds, layFolds } from './folds';
import { ROOT_MM } from './curveRoot';
import { CURVE_MM, LevelCurves } from './levelCurves';
import { NEAR_STEPS } from './matters';
import { fillTipGrid, tipGridOver, TipSurface } from './tipSurface';

type Round = RoundPiece;

function curves(soup: number[], piece: Round, side: number, floor: number, z: number): Polygon[] {
  const mesh = contactMesh(meshOf(soup));
  const surface = new TipSurface({ mesh, piece, side, floor });
  const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
  fillTipGrid(grid, surface, 0, grid.ny);
  return new LevelCurves(grid, surface).at(z);
}

/** A cone of many facets: apex at height H over the origin, base radius H / slope. */
function cone(height: number, slope: number): number[] {
  const r = height / slope;
  const n = 720;
  const soup: number[] = [];
  for (let k = 0; k < n; k++) {
    const a = (2 * Math.PI * k) / n;
    const b = (2 * Math.PI * (k + 1)) / n;
    const p = [r * Math.cos(a), r * Math.sin(a), 0];
    const q = [r * Math.cos(b), r * Math.sin(b), 0];
    soup.push(...p, ...q, 0, 0, height, ...q, ...p, 0, 0, 0);
  }
  return soup;
}

describe('level curves of the tip surface', () => {
  it('around a cone they are circles at the cone radius plus the bull-nose offset, within 0.01 mm', () => {
    const piece = roundProfile(10, 2) as Round;
    const slope = 2;
    for (const z of [3, 7.3, 12]) {
      const [ring, ...others] = curves(cone(20, slope), piece, 0, 0, z);
      expect(others).toHaveLength(0);
      // contact with a flank of slope m: corner centre stands r sqrt(1 + m²) / m off the flank, the axis Rf further
      const wanted = (20 - (z + 2)) / slope + (2 * Math.sqrt(1 + slope * slope)) / slope + 3;
      for (let k = 0; k < ring!.length; k += 2) {
        const r = Math.hypot(ring![k]!, ring![k + 1]!);
        // 720 facets stand inside the cone by up to R (1 - cos(π/720)) < 1e-4; points lie on the allowed side
        expect(r).toBeGreaterThan(wanted - 1e-3);
        expect(r).toBeLessThan(wanted + 0.01);
      }
    }
  });

  it('below the top of a turned plate they keep the radius and the allowance from its outline, round its corners', () => {
    fc.assert(
      fc.property(numberIn(0, 1.5), fc.integer({ min: 0, max: 2 }), (turn, c) => {
        const piece = [roundProfile(10, 0), roundProfile(10, 2), roundProfile(10, 5)][c] as Round;
        const corners = [0, 1, 2, 3].map((k) => [
          14 * Math.cos(turn + (k * Math.PI) / 2),
          14 * Math.sin(turn + (k * Math.PI) / 2),
          0,
        ]);
        const [p, q, r, s] = corners as [number[], number[], number[], number[]];
        const outline = Float64Array.from(corners.flatMap(([x, y]) => [x!, y!]));
        const [ring, ...others] = curves([...p, ...q, ...r, ...p, ...r, ...s], piece, 0.3, 0.3, -12);
        expect(others).toEqual([]);
        for (let k = 0; k < ring!.length; k += 2) {
          const { distance } = nearestOn(outline, ring![k]!, ring![k + 1]!, true);
          expect(distance).toBeGreaterThan(5.3 - 1e-6);
          expect(distance).toBeLessThan(5.3 + 0.0021);
        }
        // chords leave it by the tolerance at most
        const wanted = 2 * 14 * 14 + 4 * 14 * Math.SQRT2 * 5.3 + Math.PI * 5.3 ** 2;
        expect(Math.abs(areaOf(ring!) - wanted)).toBeLessThan(113 * 0.01);
      }),
      { numRuns: 30 },
    );
  });

  it('in a square pocket they are the square shrunk by the radius and the allowance, with upright walls exact', () => {
    const rings = curves(squarePocket(30, 20, 10, -20), roundProfile(8, 1) as Round, 0.3, 0.2, -5);
    const pocket = rings.map((r) => Math.abs(areaOf(r))).sort((a, b) => a - b)[0]!;
    expect(Math.abs(pocket - 31.4 * 31.4)).toBeLessThan(31.4 * 4 * 0.01);
  });

  it('the allowance left on floors is the floor allowance, whatever the side allowance', () => {
    const mesh = contactMesh(meshOf(squarePocket(30, 20, 10, -20)));
    for (const [side, floor] of [
      [0.5, 0.1],
      [0.1, 0.5],
      [0.3, 0.3],
    ] as const) {
      const surface = new TipSurface({ mesh, piece: roundProfile(8, 1) as Round, side, floor });
      expect(surface.at(0, 0)).toBeCloseTo(-10 + floor, 9);
      expect(surface.forbids(16 - side - 0.001, 0, -9)).toBe(false);
      expect(surface.forbids(16 - side + 0.001, 0, -9)).toBe(true);
    }
  });

  it('on a dome they are circles at sqrt((R + RE)² - (z + RE)²) plus the flat, within 0.01 mm', () => {
    const R = 18;
    const n = 240;
    const dome: number[] = [];
    const at = (u: number, v: number): number[] => {
      const [a, b] = [(2 * Math.PI * u) / n, (Math.PI * v) / 2 / 60];
      return [R * Math.cos(a) * Math.cos(b), R * Math.sin(a) * Math.cos(b), R * Math.sin(b)];
    };
    for (let u = 0; u < n; u++)
      for (let v = 0; v < 60; v++) {
        dome.push(...at(u, v), ...at(u + 1, v), ...at(u + 1, v + 1));
        if (v < 59) dome.push(...at(u, v), ...at(u + 1, v + 1), ...at(u, v + 1));
      }
    const piece = roundProfile(9, 1.5) as Round;
    for (const z of [2, 9, 16]) {
      const [ring, ...others] = curves(dome, piece, 0, 0, z);
      expect(others).toHaveLength(0);
      const wanted = Math.sqrt((R + 1.5) ** 2 - (z + 1.5) ** 2) + 3;
      for (let k = 0; k < ring!.length; k += 2)
        expect(Math.abs(Math.hypot(ring![k]!, ring![k + 1]!) - wanted)).toBeLessThan(0.015);
    }
  });

  it('no island is lost, however small: of 100 posts of 0.3 mm each stands in a curve of its own', () => {
    const posts: [number, number][] = Array.from({ length: 100 }, (_, k) => [
      ((k * 0.6180339887) % 1) * 180 - 90,
      ((k * 0.7548776662) % 1) * 180 - 90,
    ]);
    // they stand on the floor of a pocket, whose mouth goes round them all
    const soup: number[] = squarePocket(110, 97, 9, -20).map((v, k) => (k % 3 === 2 ? v + 2 : v));
    for (const [x, y] of posts) {
      const corner = (k: number, z: number): number[] => [
        x + 0.15 * Math.cos((k * Math.PI) / 4),
        y + 0.15 * Math.sin((k * Math.PI) / 4),
        z,
      ];
      for (let k = 0; k < 8; k++) {
        soup.push(...corner(k, -7), ...corner(k + 1, -7), ...corner(k + 1, 0));
        soup.push(...corner(k, -7), ...corner(k + 1, 0), ...corner(k, 0));
        soup.push(x, y, 0, ...corner(k, 0), ...corner(k + 1, 0));
      }
    }
    // a sharp cutter, whose tip surface is hardly wider than the post
    for (const piece of [roundProfile(0.1, 0.05), roundProfile(2, 1)] as Round[]) {
      const rings = curves(soup, piece, 0, 0, -0.004);
      for (const [x, y] of posts) {
        const around = rings.filter((ring) => {
          if (Math.abs(areaOf(ring)) > 10) return false;
          let turns = 0;
          for (let k = 0; k < ring.length; k += 2) {
            const m = (k + 2) % ring.length;
            const [ax, ay, bx, by] = [ring[k]! - x, ring[k + 1]! - y, ring[m]! - x, ring[m + 1]! - y];
            turns += Math.atan2(ax * by - ay * bx, ax * bx + ay * by);
          }
          return turns > 6;
        });
        expect(around).toHaveLength(1);
      }
    }
  });

  it('where they matter they are the same as where they matter everywhere', () => {
    const mesh = contactMesh(meshOf(squarePocket(30, 20, 10, -20)));
    const surface = new TipSurface({ mesh, piece: roundProfile(5, 0) as Round, side: 2, floor: 2 });
    const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
    fillTipGrid(grid, surface, 0, grid.ny);
    const exact = new LevelCurves(grid, surface).at(-5);
    const wall = 20 - 2 - 2.5;
    fc.assert(
      fc.property(numberIn(-14, 14), fc.constantFrom(0, 1, 2, 3), (along, side) => {
        // steel of a tenth of a millimetre on the wall, touched at one place of the line along it
        const [x, y] = (
          [
            [wall, along],
            [-wall, along],
            [along, wall],
            [along, -wall],
          ] as const
        )[side]!;
        const touches = (px: number, py: number): boolean => Math.hypot(px - x, py - y) <= NEAR_STEPS * grid.step;
        const near = (rings: Polygon[]): number =>
          Math.min(...rings.map((ring) => nearestOn(ring, x, y, true).distance));
        const here = new LevelCurves(grid, surface);
        expect(near(here.rings(here.trace(-5, touches)))).toBeLessThan(near(exact) + 0.005);
      }),
      { numRuns: 60 },
    );
  });

  it('curves that are said to stay near those below do, and those that run well within that are said to', () => {
    const told = { near: 0, far: 0 };
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 60 }),
        fc.integer({ min: 0, max: 100 }),
        fc.constantFrom(...([roundProfile(6, 3), roundProfile(8, 1), roundProfile(2, 1)] as Round[])),
        fc.integer({ min: 5, max: 60 }),
        fc.constantFrom(0, 0.2, 0.8),
        (steep, turn, piece, hundredths, rough) => {
          // a wall that winds, is steeper here than there, and rough between the nodes of the grid
          const soup = sheet([-14, -14, 14, 14], 0.4, -30, (x, y) => {
            const off = x + 3 * Math.sin(y / 4 + turn);
            const slope = 0.6 + steep / 12 + 0.5 * Math.sin(y / 7);
            return Math.max(-12, Math.min(0, slope * off - 6 + rough * Math.sin(7 * x) * Math.sin(5 * y)));
          });
          const mesh = contactMesh(meshOf(soup));
          const surface = new TipSurface({ mesh, piece, side: 0.2, floor: 0.2 });
          const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
          fillTipGrid(grid, surface, 0, grid.ny);
          const curves = new LevelCurves(grid, surface);
          const [z, at, within] = [-6.2, -5.8, hundredths / 100];
          const lower = curves.trace(z);
          const wall = curves.rings(lower);
          const covers = (x: number, y: number, room: number): boolean =>
            Math.min(...wall.map((ring) => nearestOn(ring, x, y, true).distance)) <= within - room;
          const upper = curves.trace(at, undefined, { trace: lower, within, covers });
          const points = new LevelCurves(grid, surface)
            .at(at)
            .flatMap((ring) =>
              Array.from({ length: ring.length / 2 }, (_, k) => [ring[2 * k]!, ring[2 * k + 1]!] as const),
            );
          const off = points.map(([x, y]) => Math.min(...wall.map((ring) => nearestOn(ring, x, y, true).distance)));
          // it is told of where the curve crosses edges of the grid, whose nodes lie where they lie by themselves
          const isOnLine = (v: number, from: number): boolean =>
            Math.abs((v - from) / grid.step - Math.round((v - from) / grid.step)) < 1e-6;
          for (let k = 0; k < points.length; k += 3) {
            const [px, py] = points[k]!;
            if (!isOnLine(px, grid.x0) && !isOnLine(py, grid.y0)) continue;
            const leaves = curves.leavesBelow(upper, (x, y) => Math.hypot(x - px, y - py) < 0.7);
            const farthest = Math.max(
              ...off.filter((_, m) => Math.hypot(points[m]![0] - px, points[m]![1] - py) < 1.5),
            );
            if (leaves) {
              told.far++;
              if (rough === 0) expect(farthest).toBeGreaterThan(0.6 * within - 0.02);
            } else {
              told.near++;
              expect(off[k]!).toBeLessThan(within + CURVE_MM + 2 * ROOT_MM);
            }
          }
        },
      ),
      { numRuns: 60, seed: 9 },
    );
    expect(Math.min(told.near, told.far)).toBeGreaterThan(100);
  });

  it('no passage is lost, however narrow: along a V the axis may run in a strip of its own width', () => {
    const ball = roundProfile(6, 3) as Round;
    fc.assert(
      fc.property(
        numberIn(-90, 90),
        numberIn(-0.5, 0.5),
        fc.double({ min: 1, max: 4, noNaN: true }),
        fc.double({ min: 0.06, max: 0.3, noNaN: true }),
        (angleDeg, offset, slope, half) => {
          const [c, s] = [Math.cos((angleDeg * Math.PI) / 180), Math.sin((angleDeg * Math.PI) / 180)];
          // two planes that meet in a line, as long as the part reaches
          const across = (d: number): number[][] =>
            [-40, 40].map((t) => [t * c - (d + offset) * s, t * s + (d + offset) * c, slope * Math.abs(d)]);
          const [[a, b], [p, q], [e, f]] = [across(-15), across(0), across(15)] as [number[][], number[][], number[][]];
          const soup = [a, p, q, a, q, b, p, e, f, p, f, q].flatMap((v) => v!);
          const mesh = contactMesh(meshOf(soup));
          const surface = new TipSurface({ mesh, piece: ball, side: 0, floor: 0 });
          const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
          fillTipGrid(grid, surface, 0, grid.ny);
          layFolds(grid, [findFolds(grid, surface, 0, grid.ny)]);
          // tip over the bottom of the V: R (sqrt(1 + m²) - 1), and m higher for each mm beside it
          const z = 3 * (Math.sqrt(1 + slope * slope) - 1) + slope * half;
          const rings = new LevelCurves(grid, surface).at(z);
          let lost = 0;
          for (let t = -30; t <= 30; t += 0.25) {
            const [x, y] = [t * c - offset * s, t * s + offset * c];
            if (covered(rings, x, y)) lost++;
          }
          expect(lost).toBe(0);
        },
      ),
      { numRuns: 40, seed: 5 },
    );
  });

  it('nor between upright walls: a slot that is a hair wider than a flat end is open all along', () => {
    fc.assert(
      fc.property(
        numberIn(0, 0.5),
        fc.double({ min: 0.02, max: 0.4, noNaN: true }),
        numberIn(-90, 90),
        (offset, room, angleDeg) => {
          const [c, n] = [Math.cos((angleDeg * Math.PI) / 180), Math.sin((angleDeg * Math.PI) / 180)];
          const half = 5 + room / 2;
          const wall = (y0: number, y1: number): number[] =>
            sheet([-30, Math.min(y0, y1), 30, Math.max(y0, y1)], 7, -20, () => 0);
          const soup = [...wall(half, 20), ...wall(-20, -half), ...sheet([-30, -20, 30, 20], 10, -22, () => -20)].map(
            (v, k) => (k % 3 === 1 ? v + offset : v),
          );
          for (let k = 0; k < soup.length; k += 3)
            [soup[k], soup[k + 1]] = [c * soup[k]! - n * soup[k + 1]!, n * soup[k]! + c * soup[k + 1]!];
          const mesh = contactMesh(meshOf(soup));
          const surface = new TipSurface({ mesh, piece: roundProfile(10, 0) as Round, side: 0, floor: 0 });
          const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
          fillTipGrid(grid, surface, 0, grid.ny);
          layFolds(grid, [findFolds(grid, surface, 0, grid.ny)]);
          const rings = new LevelCurves(grid, surface).at(-10);
          let lost = 0;
          for (let t = -24; t <= 24; t += 0.25) if (covered(rings, c * t - n * offset, n * t + c * offset)) lost++;
          expect(lost).toBe(0);
        },
      ),
      { numRuns: 40, seed: 6 },
    );
  });

  it('what was learnt at one height changes no curve at the next', () => {
    const mesh = contactMesh(meshOf(squarePocket(30, 20, 10, -20)));
    const surface = new TipSurface({ mesh, piece: roundProfile(8, 1) as Round, side: 0.3, floor: 0.2 });
    const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
    fillTipGrid(grid, surface, 0, grid.ny);
    const together = new LevelCurves(grid, surface);
    for (const z of [-0.5, -2, -5, -8, -9.5]) {
      const alone = new LevelCurves(grid, surface).at(z);
      const areas = (rings: Polygon[]): number[] => rings.map(areaOf).sort((a, b) => a - b);
      const [a, b] = [areas(together.at(z)), areas(alone)];
      expect(a).toHaveLength(b.length);
      a.forEach((area, k) => expect(Math.abs(area - b[k]!)).toBeLessThan(0.05));
    }
  });
});
