import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { grown, heightAt, pointedProfile, type ProfilePiece, roundProfile } from '../tool/profile';
import { blockMap, type HeightMap, volumeOfMap } from './heightMap';
import { Sweep } from './sweep';

// a drill, and a chamfer cutter with a flat tip
const points = [...pointedProfile(0, 4, 118), ...pointedProfile(1, 4, 90)];
const cutters: readonly ProfilePiece[] = [roundProfile(6, 0), roundProfile(6, 3), roundProfile(8, 1.5), ...points];
/** A piece wider by a hair. */
const wider = (piece: ProfilePiece, by: number): ProfilePiece =>
  piece.kind === 'cone' ? { ...piece, radius: piece.radius + by } : grown(piece, by);
const block = (cell: number): HeightMap =>
  blockMap({ minX: -15, minY: -12, minZ: -20, maxX: 15, maxY: 12, maxZ: 0 }, cell);

/** The same envelope by setting the cutter down at very many places along the move. */
function stamped(map: HeightMap, piece: ProfilePiece, a: number[], b: number[]): Float32Array {
  const out = map.heights.slice();
  const n = 3000;
  for (let j = 0; j < map.ny; j++)
    for (let i = 0; i < map.nx; i++) {
      const x = map.x0 + (i + 0.5) * map.cell;
      const y = map.y0 + (j + 0.5) * map.cell;
      let low = out[j * map.nx + i]!;
      for (let k = 0; k <= n; k++) {
        const t = k / n;
        const d = Math.hypot(a[0]! + t * (b[0]! - a[0]!) - x, a[1]! + t * (b[1]! - a[1]!) - y);
        low = Math.min(low, a[2]! + t * (b[2]! - a[2]!) + heightAt(piece, d));
      }
      out[j * map.nx + i] = Math.max(map.floor, low);
    }
  return out;
}

const place = fc.tuple(
  fc.integer({ min: -100, max: 100 }).map((v) => v / 10),
  fc.integer({ min: -80, max: 80 }).map((v) => v / 10),
  fc.integer({ min: -90, max: 0 }).map((v) => v / 10),
);

describe('sweep of a straight move', () => {
  for (const piece of cutters)
    it(`a cutter of R ${piece.radius}, flat ${piece.flat} ${piece.kind} lowers each cell as setting it down everywhere does`, () => {
      fc.assert(
        fc.property(place, place, (a, b) => {
          const map = block(1);
          const wanted = stamped(map, piece, a, b);
          const sweep = new Sweep(map, piece);
          sweep.move(...a, ...b);
          const steep = Math.abs(b[2] - a[2]) / Math.max(0.2, Math.hypot(b[0] - a[0], b[1] - a[1]));
          sweep.map.heights.forEach((h, o) => {
            // setting down 3000 times stays above the envelope by a little; the rim itself may be missed
            if (wanted[o]! > -1e-6 && h < -1e-6) return;
            expect(h).toBeLessThanOrEqual(wanted[o]! + 2e-5);
            expect(h).toBeGreaterThanOrEqual(wanted[o]! - 0.02 - 0.02 * steep);
          });
        }),
        { numRuns: 8, seed: 5 },
      );
    });

  it('each cell goes to the lowest that the underside has over it anywhere on the move, to 2e-5 mm', () => {
    // the underside over a cell is convex along the move while the cell is under the cutter: a search in thirds finds its lowest
    const lowest = (piece: ProfilePiece, a: readonly number[], b: readonly number[], x: number, y: number): number => {
      const [dx, dy] = [b[0]! - a[0]!, b[1]! - a[1]!];
      const length = Math.hypot(dx, dy);
      const along = ((x - a[0]!) * dx + (y - a[1]!) * dy) / length;
      const aside = ((x - a[0]!) * dy - (y - a[1]!) * dx) / length;
      if (Math.abs(aside) > piece.radius) return Infinity;
      const half = Math.sqrt(piece.radius ** 2 - aside ** 2);
      let [low, high] = [Math.max(0, along - half), Math.min(length, along + half)];
      if (low > high) return Infinity;
      const at = (s: number): number =>
        a[2]! + (s / length) * (b[2]! - a[2]!) + heightAt(piece, Math.min(piece.radius, Math.hypot(along - s, aside)));
      for (let k = 0; k < 90; k++) {
        const [p, q] = [low + (high - low) / 3, high - (high - low) / 3];
        if (at(p) < at(q)) high = q;
        else low = p;
      }
      return at((low + high) / 2);
    };
    const point = place.map(([x, y, z]): [number, number, number] => [x + 0.01234, y - 0.00567, z]);
    fc.assert(
      fc.property(point, point, fc.nat(cutters.length - 1), (a, b, c) => {
        fc.pre(Math.hypot(b[0] - a[0], b[1] - a[1]) > 0.5);
        const { radius } = cutters[c]!;
        const sweep = new Sweep(block(0.7), cutters[c]!);
        sweep.move(...a, ...b);
        const { map } = sweep;
        const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
        const length = Math.hypot(dx, dy);
        const steep = Math.abs(b[2] - a[2]) / length;
        map.heights.forEach((h, o) => {
          const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
          const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
          // beside the rim, where the underside stands upright, a hair in plan is much in height
          const aside = Math.abs((x - a[0]) * dy - (y - a[1]) * dx) / length;
          const isBesideRim =
            Math.abs(aside - radius) < 0.02 ||
            [a, b].some((p) => Math.abs(Math.hypot(p[0] - x, p[1] - y) - radius) < 1e-4 * (1 + steep));
          if (isBesideRim) return;
          const wanted = Math.max(map.floor, Math.min(0, lowest(cutters[c]!, a, b, x, y)));
          expect(Math.abs(h - wanted)).toBeLessThan(2e-5 * (1 + steep));
        });
      }),
      { numRuns: 80 },
    );
  });

  it('a move that leans from an axis by a hair cuts what one along the axis cuts, however far it runs', () => {
    const far = blockMap({ minX: 4, minY: -1500, minZ: -20, maxX: 6, maxY: 1500, maxZ: 0 }, 0.05);
    for (const lean of [1e-9, 1.2e-6, 1e-5])
      for (const cutter of cutters) {
        const [straight, leaning] = [new Sweep(far, cutter), new Sweep(far, cutter)];
        straight.move(5.1, -1490, -2, 5.1, 1490, -3);
        leaning.move(5.1, -1490, -2, 5.1 + 2980 * lean, 1490, -3);
        expect(Math.abs(leaning.removed / straight.removed - 1)).toBeLessThan(0.01);
      }
  });

  it('two cutters lower the same steel side by side; what they leave goes back to the map it came from', () => {
    const map = block(0.5);
    const first = new Sweep(map, cutters[0]!);
    const second = first.beside(cutters[1]!);
    first.move(-5, 0, -2, 5, 0, -2);
    // along the same way the slimmer or rounder one finds nothing left
    expect(second.measure(-5, 0, -2, 5, 0, -2)).toBe(0);
    second.move(-5, 0, -4, 5, 0, -4);
    expect(volumeOfMap(map)).toBe(30 * 24 * 20);
    first.store();
    expect(volumeOfMap(map)).toBeCloseTo(30 * 24 * 20 - first.removed - second.removed, 1);
    expect(() => first.beside(cutters[2]!)).toThrow('No more than 2');
  });

  it('a level slot of a flat cutter takes off its plan area times its depth', () => {
    const map = block(0.05);
    const sweep = new Sweep(map, cutters[0]!);
    sweep.move(-5, 0, -2, 5, 0, -2);
    const exact = (10 * 6 + Math.PI * 9) * 2;
    expect(sweep.removed).toBeGreaterThan(exact * 0.998);
    expect(sweep.removed).toBeLessThan(exact * 1.002);
    expect(volumeOfMap(sweep.map)).toBeCloseTo(30 * 24 * 20 - sweep.removed, 0);
  });

  it('measuring a move tells what it would take off and takes nothing off', () => {
    const before = block(0.2);
    const sweep = new Sweep(before, cutters[1]!);
    const told = sweep.measure(-4, 1, -1, 6, -2, -3);
    expect(sweep.map.heights).toEqual(before.heights);
    sweep.removed = 0;
    sweep.move(-4, 1, -1, 6, -2, -3);
    expect(sweep.removed).toBeCloseTo(told, 9);
  });

  it('a move that goes on where the last ended cuts as if it stood alone, plunges and turns included', () => {
    // off the grid's round numbers, where a cell may lie on the very rim and either answer is right
    const point = place.map(([x, y, z]): [number, number, number] => [x + 0.01234, y - 0.00567, z]);
    const flags = fc.array(fc.boolean(), { minLength: 3, maxLength: 5 });
    fc.assert(
      fc.property(
        fc.array(point, { minLength: 3, maxLength: 12 }),
        fc.nat(cutters.length - 1),
        flags,
        (points, c, leave) => {
          const way = points.flatMap((p, k) => (k % 3 === 2 ? [p, [p[0], p[1], p[2] - 2] as const] : [p]));
          const chain = new Sweep(block(0.4), cutters[c]!);
          const alone = new Sweep(block(0.4), cutters[c]!);
          for (let k = 1; k < way.length; k++) {
            // what a move may leave at its end, the next one cuts
            chain.move(...way[k - 1]!, ...way[k]!, k + 1 < way.length && leave[k % leave.length]!);
            // a move of nothing between them, that the next one does not go on from
            alone.move(0, 0, 1, 0, 0, 1);
            alone.move(...way[k - 1]!, ...way[k]!);
          }
          chain.map.heights.forEach((h, o) => expect(Math.abs(h - alone.map.heights[o]!)).toBeLessThan(3e-5));
        },
      ),
      { numRuns: 60, seed: 11 },
    );
  });

  it('a move that left its end may not be followed by one that begins elsewhere: steel would stay that was cut', () => {
    const sweep = new Sweep(block(0.5), cutters[1]!);
    sweep.move(-3, 0, -1, 0, 0, -1, true);
    expect(() => sweep.move(1, 0, -1, 3, 0, -1)).toThrow('left its end');
  });

  it('a move over rows in bands lowers the same cells to the same bits as over all rows at once', () => {
    const whole = block(0.3);
    const banded = block(0.3);
    const moves = [
      [-9, -9, -1, 8, 9, -4],
      [8, 9, -4, 8, -9, -4],
      [8, -9, -4, -3, 0, -7],
    ] as [number, number, number, number, number, number][];
    const all = new Sweep(whole, cutters[2]!);
    for (const m of moves) all.move(...m);
    for (let from = 0; from < banded.ny; from += 16) {
      const band = new Sweep(banded, cutters[2]!, from, Math.min(banded.ny, from + 16));
      for (const m of moves) band.move(...m);
      band.store();
    }
    all.store();
    expect(banded.heights).toEqual(whole.heights);
  });

  it('steel that stands taller than the flutes where they come to it stays; what they come to from above is cut all the way', () => {
    const FLUTES = 6;
    /** A cell's height after the cutter was led along the move in very small steps, cut only by what of it is flutes. */
    const led = (
      top: number,
      x: number,
      y: number,
      piece: ProfilePiece,
      a: number[],
      b: number[],
      flutes: number,
    ): number => {
      const n = 300;
      let h = top;
      for (let k = 0; k <= n; k++) {
        const at = (c: number): number => a[c]! + (k / n) * (b[c]! - a[c]!);
        const under = at(2) + heightAt(piece, Math.hypot(at(0) - x, at(1) - y));
        if (under < h && h <= at(2) + flutes + 0.01) h = under;
      }
      return h;
    };
    const whole = (most: number) => fc.integer({ min: -most, max: most });
    const tower = fc.tuple(whole(12), whole(9), fc.integer({ min: -18, max: 0 }));
    const end = fc.tuple(whole(9), whole(7), fc.integer({ min: -18, max: -2 }));
    let stood = 0;
    let cut = 0;
    fc.assert(
      fc.property(fc.constantFrom(...cutters), fc.array(tower, { maxLength: 9 }), end, end, (piece, towers, a, b) => {
        const map = block(1);
        map.heights.forEach((_, o) => {
          const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
          const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
          map.heights[o] = Math.max(-17.6, ...towers.map((t) => (Math.hypot(t[0] - x, t[1] - y) < 3 ? t[2] : -18)));
        });
        const before = map.heights.slice();
        const sweep = new Sweep(map, piece, 0, map.ny, FLUTES);
        sweep.move(...a, ...b);
        const way = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
        sweep.map.heights.forEach((h, o) => {
          const x = map.x0 + ((o % map.nx) + 0.5) * map.cell;
          const y = map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell;
          const after = [-0.05, 0, 0.05].map((by) => led(before[o]!, x, y, piece, a, b, FLUTES + by));
          // a rim that comes to the cell between two steps, or steel that ends where the flutes do
          const isOnRim = Math.abs(led(before[o]!, x, y, wider(piece, 0.01), a, b, FLUTES) - after[1]!) > 0.3;
          if (isOnRim || after[2]! < after[0]! - 0.2) return;
          expect(Math.abs(h - after[1]!)).toBeLessThan(0.02 + way / 100);
          if (after[1]! < before[o]! - 0.1) cut++;
          if (led(before[o]!, x, y, piece, a, b, Infinity) < after[1]! - 0.1) stood++;
        });
      }),
      { numRuns: 25 },
    );
    expect(cut).toBeGreaterThan(80);
    expect(stood).toBeGreaterThan(40);
  });
});
