import { describe, expect, it } from 'vitest';
import { calculated, cribOf, meshOf, pathOf, sheet, squarePocket, testJob } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { blockMap, copyMap, type HeightMap } from '../steel/heightMap';
import { leftoverRows } from '../steel/leftover';
import { partTops } from '../steel/partTops';
import { overCells, unfinishedOf } from './unfinished';

const EVERYWHERE = { lowest: -Infinity, highest: Infinity, slopes: [0, 90] as const, closed: [] };

/** A plane that rises along X under a skin of even thickness, mm, with one hump of three times that. */
function skinned(slopeDeg: number, skin: number) {
  const rise = Math.tan((slopeDeg * Math.PI) / 180);
  const part = contactMesh(meshOf(sheet([-20, -10, 20, 10], 2, -30, (x) => rise * x)));
  const tops = blockMap({ minX: -20, minY: -10, minZ: -30, maxX: 20, maxY: 10, maxZ: 40 }, 0.25);
  partTops(part, tops);
  const steel: HeightMap = copyMap(tops);
  const upright = skin / Math.cos((slopeDeg * Math.PI) / 180);
  for (let o = 0; o < steel.heights.length; o++) {
    const x = steel.x0 + ((o % steel.nx) + 0.5) * steel.cell;
    const y = steel.y0 + (Math.floor(o / steel.nx) + 0.5) * steel.cell;
    steel.heights[o]! += upright * (Math.hypot(x - 3, y + 2) < 1.5 ? 3 : 1);
  }
  const leftover = new Float32Array(steel.heights.length);
  leftoverRows(part, tops, steel, leftover, [0, steel.ny]);
  const path = pathOf([
    [-20, 9, 5],
    [20, 9, 5],
    [20, -2, 5],
    [-20, -2, 5],
  ]);
  const over = (most: number, change = {}) =>
    unfinishedOf(
      overCells(part, tops, steel, leftover, { ...EVERYWHERE, ...change, most }, [0, steel.ny]),
      steel,
      leftover,
      most,
      path,
    );
  return { over };
}

describe('what stays above what a step is to leave', () => {
  it('on a slope is told by its angle, its thickness along the normal, and the area of the slope itself', () => {
    for (const slope of [0, 20, 40, 55]) {
      const { over } = skinned(slope, 0.2);
      const { bands } = over(0.19)!;
      const band = bands.find((b) => slope >= b.from && slope < b.to)!;
      // the plane's area; only where its skin hangs over the edges anything else is told
      expect(band.area / (800 / Math.cos((slope * Math.PI) / 180))).toBeCloseTo(1, 1);
      expect(bands.reduce((area, b) => area + b.area, 0) - band.area).toBeLessThan(0.03 * band.area);
      const humped = over(0.21)!.bands.find((b) => b.from === band.from)!;
      expect(humped.thickest).toBeCloseTo(0.6, 2);
    }
  });

  it('comes as places that hang together, at their thickest; what lies lower than asked for or is closed does not count', () => {
    const { over } = skinned(20, 0.2);
    const hump = over(0.3)!;
    expect(hump.bands.map((b) => [b.from, b.to])).toEqual([[15, 30]]);
    expect(hump.places.length).toBe(1);
    const [place] = hump.places;
    expect(place!.slope).toBeCloseTo(20, 6);
    // with the skin around it the hump is a place of its own, as it is more than twice as thick
    const [skin, humpOnSkin] = over(0.19)!.places;
    expect(humpOnSkin).toEqual(place);
    expect(skin!.thickest).toBeCloseTo(0.2, 2);
    expect(Math.hypot(place!.x - 3, place!.y + 2)).toBeLessThan(1.6);
    expect(place!.motion).toBe(3);
    expect(place!.area).toBeCloseTo((Math.PI * 1.5 ** 2) / Math.cos((20 * Math.PI) / 180), 0);
    expect(over(0.3, { lowest: 3 * Math.tan((20 * Math.PI) / 180) + 1 })).toBeUndefined();
    expect(over(0.3, { closed: [Float64Array.of(0, -5, 6, -5, 6, 1, 0, 1)] })).toBeUndefined();
    expect(over(0.7)).toBeUndefined();
  });

  it('a wall along parallel passes keeps the skin that roughing left, one across them does not', async () => {
    const crib = cribOf({
      rough: ['flat', 6, 0, 20, 5, 30],
      finish: ['ball', 4, 2, 20, 3, 30],
    });
    const job = testJob(
      [
        { kind: 'level-roughing', assemblyId: 'rough', values: { sideAllowance: 0.3, floorAllowance: 0.1 } },
        {
          kind: 'parallel-passes',
          assemblyId: 'finish',
          values: { scallop: 0.02, tolerance: 0.01, extra: 'none', angleDeg: 0, mostSteel: 4 },
        },
      ],
      0.5,
      { cell: 0.1, crib },
    );
    const half = 9;
    const session = await calculated(job, squarePocket(14, half, 6, -12));
    const { steel, figures } = session.results.get('s2')!;
    const asked = { ...EVERYWHERE, most: 0.02 + 0.01 };
    expect(figures.unfinished!.most).toBeCloseTo(asked.most, 9);
    expect(figures.unfinished!.bands.find((b) => b.to === 90)!.thickest).toBeGreaterThan(0.25);
    const { part } = session.snapshot.piece;
    const map = steel.after;
    const cells = overCells(part, session.snapshot.piece.topsOn(map.cell), map, steel.leftover, asked, [0, map.ny]);
    // over the fillets that the ball leaves at the foot of all walls
    const upright = cells.filter((c) => c.slope > 80 && map.heights[c.cell]! > -3.5);
    const on = (isHere: (x: number, y: number) => boolean): number =>
      upright.filter(({ cell }) =>
        isHere(
          Math.abs(map.x0 + ((cell % map.nx) + 0.5) * map.cell),
          Math.abs(map.y0 + (Math.floor(cell / map.nx) + 0.5) * map.cell),
        ),
      ).length;
    expect(on((x, y) => x < half - 3 && y > half - 0.4)).toBeGreaterThan(100);
    expect(on((x, y) => y < half - 3 && x > half - 0.4)).toBe(0);
  });
});
