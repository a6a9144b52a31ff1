import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, sheet, squarePocket } from '../../test/shapes';
import { roundProfile } from '../tool/profile';
import { contactMesh } from '../geometry/contactMesh';
import { sharedFloat32 } from '../base/shared';
import { leftoverRows } from '../steel/leftover';
import { blockMap } from '../steel/heightMap';
import { partTops } from '../steel/partTops';
import { lowerToReach, Reach, reachedBy, restCells } from './reach';

const round = (d: number, re: number) => roundProfile(d, re) as ReturnType<typeof roundProfile> & { kind: 'round' };
const pocket = contactMesh(meshOf(squarePocket(30, 20, 8, -20)));
const around = { minX: -30, minY: -30, minZ: -20, maxX: 30, maxY: 30, maxZ: 0 };

describe('how low a cutter can take the steel', () => {
  it('a plane of any slope is reached to the allowance everywhere: side + (floor - side) nz along its normal', () => {
    fc.assert(
      fc.property(
        numberIn(0, 1.2),
        numberIn(0, 0.5),
        numberIn(0, 0.5),
        fc.constantFrom([10, 5], [12, 2], [8, 0]),
        numberIn(-5, 5),
        (slope, side, floor, [d, re], x) => {
          const plane = contactMesh(meshOf(sheet([-40, -40, 40, 40], 20, -80, (u) => slope * u)));
          const reach = new Reach({ mesh: plane, piece: round(d!, re!), side, floor });
          const nz = 1 / Math.hypot(1, slope);
          const above = reach.lowest(x, 1.3) - slope * x;
          // a flat end's rim reaches the slope itself; a corner radius leaves its allowance exactly there
          const wanted = (side + (floor - side) * nz) / nz;
          expect(above).toBeGreaterThan(Math.min(floor, wanted) - 1e-6);
          if (re! > 0 && side === 0) expect(above).toBeLessThan(wanted + 1e-6);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('a cutter of radius r leaves (1 - π/4) r² in each corner of a square pocket (check 11)', () => {
    for (const r of [5, 2.5]) {
      const map = blockMap(around, 0.1);
      lowerToReach(map, { mesh: pocket, piece: round(2 * r, 0), side: 0, floor: 0 }, [0, map.ny]);
      let cells = 0;
      for (let o = 0; o < map.heights.length; o++) {
        const x = Math.abs(map.x0 + ((o % map.nx) + 0.5) * map.cell);
        const y = Math.abs(map.y0 + (Math.floor(o / map.nx) + 0.5) * map.cell);
        if (x < 20 && y < 20 && map.heights[o]! > -7.9) cells++;
      }
      const area = (1 - Math.PI / 4) * r * r;
      // the grid of places is r / 8 wide: it may leave a little more
      expect((cells * 0.01) / 4).toBeGreaterThan(0.9 * area);
      expect((cells * 0.01) / 4).toBeLessThan(1.25 * area);
    }
  });

  it('a smaller cutter takes more of what a larger one left, and leaves less thickness', () => {
    const stock = blockMap(around, 0.2);
    lowerToReach(stock, { mesh: pocket, piece: round(16, 0), side: 0, floor: 0 }, [0, stock.ny]);
    const tops = { ...stock, heights: sharedFloat32(stock.heights.length) };
    partTops(pocket, tops);
    const leftover = new Float32Array(stock.heights.length);
    leftoverRows(pocket, tops, stock, leftover, [0, stock.ny]);
    const { cells, stride } = restCells(stock, leftover, 0, 0.1, 100_000);
    expect(stride).toBe(1);
    const by = (d: number) =>
      reachedBy({
        spec: { mesh: pocket, piece: round(d, 0), side: 0, floor: 0 },
        body: [],
        stock,
        leftover,
        cells,
        cellArea: 0.04,
        allowance: 0,
        threshold: 0.1,
        ap: 1,
        ae: d / 2,
        feed: 1000,
      });
    const [same, ten, five, two] = [16, 10, 5, 2].map(by) as [ReturnType<typeof by>, ...ReturnType<typeof by>[]];
    expect(same.taken / same.left).toBeLessThan(0.05);
    expect(ten!.taken).toBeGreaterThan(same.taken);
    expect(five!.taken).toBeGreaterThan(ten!.taken);
    expect(two!.thickest).toBeLessThan(five!.thickest);
    expect(two!.taken / two!.left).toBeGreaterThan(0.93);
    // what stands in a corner is at most (sqrt 2 - 1) r from the arc, less along the normal of a wall
    expect(five!.thickest).toBeLessThan((Math.SQRT2 - 1) * 2.5 + 0.3);
  });

  it('a holder that the walls keep up keeps the cutter from the floor', () => {
    const deep = contactMesh(meshOf(squarePocket(30, 6, 18, -30)));
    const spec = { mesh: deep, piece: round(4, 0), side: 0, floor: 0 };
    expect(new Reach(spec).lowest(0, 0)).toBeCloseTo(-18, 6);
    const holder = [{ kind: 'round' as const, z: 10, flat: 15, corner: 0, radius: 15 }];
    expect(new Reach(spec, holder).lowest(0, 0)).toBeCloseTo(-10, 6);
  });
});
