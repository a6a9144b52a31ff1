import { describe, expect, it } from 'vitest';
import { calculated, cribOf, meshOf, pathOf, sheet, squarePocket, testJob } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { blockMap, copyMap, type HeightMap } from '../steel/heightMap';
import { leftoverRows } from '../steel/leftover';
import { partTops } from '../steel/partTops';
import { roundProfile, type RoundPiece } from '../tool/profile';
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

  it('counts only between the heights, on the slopes, and by the faces that were asked for, and where an earlier cutter left something', () => {
    const { over } = skinned(20, 0.2);
    const all = over(0.3)!;
    const height = 3 * Math.tan((20 * Math.PI) / 180);
    expect(over(0.3, { highest: height - 1 })).toBeUndefined();
    expect(over(0.3, { highest: height + 1 })).toEqual(all);
    expect(over(0.3, { lowest: height - 1 })).toEqual(all);
    for (const slopes of [
      [0, 19],
      [21, 90],
    ])
      expect(over(0.3, { slopes })).toBeUndefined();
    expect(over(0.3, { slopes: [19, 21] })).toEqual(all);
    // closed beside it, and twice to one side of it
    const beside = [Float64Array.of(-9, -9, -6, -9, -6, 9, -9, 9), Float64Array.of(-15, -9, -12, -9, -12, 9, -15, 9)];
    expect(over(0.3, { closed: beside })).toEqual(all);
    const away = (x: number, y: number) => ({
      limits: {
        clear: [{ mesh: contactMesh(meshOf(sheet([x - 1, y - 1, x + 1, y + 1], 1, -9, () => 3))), distance: 2 }],
      },
      round: 1,
    });
    expect(over(0.3, { faces: away(3, -2) })).toBeUndefined();
    expect(over(0.3, { faces: away(-14, 4) })).toEqual(all);
    // a ball gets everywhere on a plane; into a groove it does not
    const rest = (soup: number[]) => ({
      spec: { mesh: contactMesh(meshOf(soup)), piece: roundProfile(8, 4) as RoundPiece, side: 0, floor: 0 },
      thicker: 0.02,
    });
    const rise = Math.tan((20 * Math.PI) / 180);
    expect(over(0.3, { rest: rest(sheet([-20, -10, 20, 10], 2, -30, (x) => rise * x)) })).toBeUndefined();
    const walled = sheet([-20, -10, 20, 10], 0.5, -30, (x, y) => rise * x + (Math.abs(y + 2) > 2 ? 9 : 0));
    expect(over(0.3, { rest: rest(walled) })).toEqual(all);
  });

  /** What cells of a small map amount to, one mm a side, by their numbers and thicknesses. */
  function amounts(nx: number, ny: number, thick: Record<number, number>, slope = 10) {
    const steel: HeightMap = { x0: 5, y0: -3, cell: 1, nx, ny, floor: -1, heights: new Float32Array(nx * ny).fill(2) };
    const leftover = new Float32Array(nx * ny);
    for (const [cell, t] of Object.entries(thick)) leftover[Number(cell)] = t;
    const cells = Object.keys(thick).map((cell) => ({ cell: Number(cell), slope, area: 1 }));
    const path = pathOf([
      [0, 0, 3],
      [1, 0, 3],
    ]);
    return unfinishedOf(cells, steel, leftover, 0.01, path);
  }

  it('places touch at sides and corners, but not around the ends of rows', () => {
    const places = (thick: Record<number, number>): number => amounts(4, 4, thick)!.places.length;
    for (const beside of [0, 1, 2, 4, 6, 8, 9, 10]) expect(places({ 5: 0.4, [beside]: 0.4 })).toBe(1);
    for (const apart of [3, 7, 11, 12, 13, 14, 15]) expect(places({ 5: 0.4, [apart]: 0.4 })).toBe(2);
    // the end of a row and the beginning of the next are 3 mm apart
    expect(places({ 3: 0.4, 4: 0.4 })).toBe(2);
    expect(places({ 7: 0.4, 12: 0.4 })).toBe(2);
    expect(places({ 4: 0.4, 3: 0.2 })).toBe(2);
    // half as thick still belongs to it
    expect(places({ 5: 0.5, 6: 0.25 })).toBe(1);
    expect(places({ 5: 0.5, 6: 0.24 })).toBe(2);
  });

  it('the places with most in them are told, by their thickest cell, and no more than six', () => {
    // eight lone cells, and a thin place of four that holds more than any
    const alone = Object.fromEntries([0, 2, 4, 6, 40, 42, 44, 46].map((cell, k) => [cell, 0.3 + 0.01 * k]));
    const { places, bands } = amounts(10, 6, { ...alone, 22: 0.2, 23: 0.2, 24: 0.21, 25: 0.2 })!;
    expect(places).toHaveLength(6);
    expect(places[0]).toMatchObject({ x: 5 + 4.5, y: -3 + 2.5, z: 2, area: 4, motion: 1 });
    expect(places[0]!.thickest).toBeCloseTo(0.21, 6);
    expect(places.slice(1).map((p) => p.x)).toEqual([46, 44, 42, 40, 6].map((cell) => 5 + (cell % 10) + 0.5));
    expect(bands).toHaveLength(1);
    expect(bands[0]).toMatchObject({ from: 0, to: 15, area: 12 });
  });

  it('a slope between two bands belongs to the steeper one, and upright to the last', () => {
    for (const [slope, from] of [
      [0, 0],
      [15, 15],
      [74.9, 60],
      [75, 75],
      [90, 75],
    ] as const)
      expect(amounts(2, 2, { 0: 0.1 }, slope)!.bands.map((b) => b.from)).toEqual([from]);
    expect(amounts(2, 2, {})).toBeUndefined();
  });
});
