import { describe, expect, it } from 'vitest';
import { mostly } from '../../test/mostly';
import { ClosestPoint } from '../geometry/closest';
import { contactMesh } from '../geometry/contactMesh';
import { partOf, type TriangleMesh } from '../geometry/mesh';
import type { Step } from '../job/job';
import { facesPicked, pickOfFace } from '../survey/facePicks';
import { facesOf, middleOf, surfaceOf } from '../survey/surface';
import { cuts, finished } from '../../test/finishing';
import { dome, DOME } from '../../test/grounds';
import { meshOf, sheet, type Soup, squarePocket, testJob } from '../../test/shapes';
import { Motion } from '../path/toolpath';
import { Piece } from './piece';

const DC = 4;
const R = DC / 2;
const TOLERANCE = 0.005;

/** Picks of the faces that hold a triangle for which this is so. */
function picksWhere(mesh: TriangleMesh, holds: (r: number, z: number, nz: number, y: number) => boolean) {
  const surface = surfaceOf(mesh);
  const { faceOf } = facesOf(surface);
  const seen = new Set<number>();
  for (let t = 0; t < surface.count; t++) {
    const [x, y, z] = middleOf(mesh, t);
    if (!seen.has(faceOf[t]!) && holds(Math.hypot(x, y), z, surface.normals[3 * t + 2]!, y)) seen.add(faceOf[t]!);
  }
  return [...seen].map((face) => pickOfFace(mesh, faceOf.indexOf(face)));
}

type Found = Awaited<ReturnType<typeof finished>>;

/** Motions that are looked at: of the way down on to the surface, too, or not. */
const LOOKED = {
  cuts: [Motion.cut],
  'on the surface': [Motion.cut, Motion.link],
  'at feed': [Motion.cut, Motion.link, Motion.entry, Motion.exit],
};

/** Middles of the ball along motions, a tenth of a millimetre apart. */
function middles({ result: { path } }: Found, kinds: keyof typeof LOOKED): [number, number, number][] {
  const { x, y, z, kind } = path;
  return [...x].flatMap((_, k) => {
    if (k === 0 || !LOOKED[kinds].includes(kind[k]!)) return [];
    const n = Math.max(1, Math.ceil(Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!) / 0.1));
    return Array.from({ length: n }, (__, s): [number, number, number] => {
      const at = (of: Float64Array): number => of[k - 1]! + ((s + 1) / n) * (of[k]! - of[k - 1]!);
      return [at(x), at(y), at(z) + R];
    });
  });
}

/** Distance of the middle of the ball from picked faces, or from all others; the tests' work zero is the file's origin. */
function distances(
  mesh: TriangleMesh,
  limit: Step['limits'],
  found: Found,
  kinds: keyof typeof LOOKED,
  others = false,
) {
  const { marks } = facesPicked(mesh, 'faces' in limit[0]! ? limit[0].faces : []);
  const nearest = new ClosestPoint(contactMesh(partOf(mesh, others ? marks.map((mark) => 1 - mark) : marks)));
  return middles(found, kinds).map((middle) => nearest.distance(...middle));
}

const domeMesh = meshOf(dome);
const domeFace = picksWhere(domeMesh, (r, z) => r < 2 && z > -1);
const plateFace = picksWhere(domeMesh, (_r, z, nz) => nz > 0.999 && Math.abs(z + DOME) < 1e-6);

const KINDS: { kind: string; values?: Record<string, unknown> }[] = [
  { kind: 'parallel-passes', values: { angleDeg: 0, extra: 'none' } },
  { kind: 'waterline', values: { fromSlopeDeg: 30, rampDeg: null } },
  { kind: 'even-scallop' },
  { kind: 'slope-split' },
];

const run = (soup: Soup, { kind, values }: (typeof KINDS)[number], limits: Step['limits']) =>
  finished(
    soup,
    [{ kind, cutter: ['ball', DC, R, 18, 3.8, 30], values: { scallop: 0.03, tolerance: TOLERANCE, ...values } }],
    { limits, cell: 0.3 },
  );

describe('a finishing step that is held by faces', () => {
  it('faces of a part without faces of its own are told by its sharp edges, each found again by its pick', () => {
    expect(domeFace).toHaveLength(1);
    expect(plateFace).toHaveLength(1);
    const { marks, lost } = facesPicked(domeMesh, domeFace);
    expect(lost).toBe(0);
    for (let t = 0; t < marks.length; t++) {
      const [x, y, z] = middleOf(domeMesh, t);
      expect(marks[t]).toBe(Number(z > -DOME && Math.hypot(x, y) < DOME));
    }
  });

  for (const each of mostly(2, KINDS))
    it(`${each.kind}: only where the cutter touches them, and all of them`, async () => {
      const limits: Step['limits'] = [{ kind: 'faces', faces: domeFace }];
      const found = await run(dome, each, limits);
      const far = distances(domeMesh, limits, found, 'cuts');
      expect(far.length).toBeGreaterThan(500);
      for (const d of far) expect(d).toBeLessThanOrEqual(R + 2 * TOLERANCE);
      // the plate is not asked for: what stays of the skin on it is not told as unfinished
      const places = found.result.figures.unfinished?.places ?? [];
      for (const { x, y } of places) expect(Math.hypot(x, y)).toBeLessThan(DOME + R);
      // down to where the ball stands on the plate as well, and up to the top unless the kind leaves gentle ground alone
      const tips = cuts(found.result).map((c) => c.z);
      expect(Math.min(...tips)).toBeLessThan(-DOME + 0.3);
      if (each.kind !== 'waterline') expect(Math.max(...tips)).toBeGreaterThan(-0.02);
    });

  // a rib so narrow that passes, and ways between them, would go over it
  const ribbed: Soup = sheet([-8, -8, 8, 8], 0.1, -8, (x, y) =>
    x > 5 ? 0 : -2 + Math.max(0, 0.15 - 1.5 * Math.max(0, Math.abs(y) - 0.1)),
  );
  const ribMesh = meshOf(ribbed);
  const beside = [-6, 6].flatMap((side) =>
    picksWhere(ribMesh, (_r, z, nz, y) => nz > 0.999 && Math.abs(z + 2) < 1e-9 && y * side > 12),
  );
  for (const each of [{ kind: 'parallel-passes', values: { angleDeg: 90, extra: 'none' } }, { kind: 'even-scallop' }])
    it(`${each.kind}: neither a pass nor a way between two goes over a narrow face that was not picked`, async () => {
      expect(beside).toHaveLength(2);
      const limits: Step['limits'] = [{ kind: 'faces', faces: beside }];
      const found = await run(ribbed, each, limits);
      const own = distances(ribMesh, limits, found, 'on the surface');
      const others = distances(ribMesh, limits, found, 'on the surface', true);
      const leans = own.filter((d, k) => others[k]! < d - 0.05 && others[k]! < R + 0.05);
      expect(leans).toEqual([]);
      // both sides are cut
      for (const side of [-1, 1])
        expect(middles(found, 'cuts').filter(([, y]) => side * y > 3).length).toBeGreaterThan(300);
    });

  for (const each of mostly(2, KINDS.slice(0, 3)))
    it(`${each.kind}: as far away from others as it is told to stay`, async () => {
      const away = 0.7;
      const limits: Step['limits'] = [{ kind: 'off-faces', faces: plateFace, distance: away }];
      const found = await run(dome, each, limits);
      const far = distances(domeMesh, limits, found, 'at feed');
      expect(far.length).toBeGreaterThan(500);
      for (const d of far) expect(d).toBeGreaterThanOrEqual(R + away - 2 * TOLERANCE);
      expect(Math.min(...far)).toBeLessThan(R + away + 0.3);
    });

  for (const each of mostly(2, KINDS.slice(0, 3).reverse()))
    it(`${each.kind}: leaves so much more on them, and as little elsewhere as without`, async () => {
      const more = 0.15;
      const limits: Step['limits'] = [{ kind: 'more-on-faces', faces: domeFace, amount: more }];
      const found = await run(dome, each, limits);
      const far = distances(domeMesh, limits, found, 'at feed');
      for (const d of far) expect(d).toBeGreaterThanOrEqual(R + more - 2 * TOLERANCE);
      const near = far.filter((d) => d < R + more + 2 * TOLERANCE);
      expect(near.length).toBeGreaterThan(far.length / 4);
      // what is to stay is not told as left by mistake
      const { unfinished, findings } = found.result.figures;
      expect(findings.filter(({ kind }) => kind === 'gouge')).toEqual([]);
      const onDome = (unfinished?.places ?? []).filter(({ x, y }) => Math.hypot(x, y) < DOME - 1);
      expect(onDome.reduce((sum, { area }) => sum + area, 0)).toBeLessThan(0.02 * 2 * Math.PI * DOME ** 2);
      if (each.kind !== 'parallel-passes') return;
      const plate = distances(domeMesh, [{ kind: 'faces', faces: plateFace }], found, 'cuts');
      expect(Math.min(...plate)).toBeLessThan(R + TOLERANCE);
    });

  it('it does not roll over the sharp border of a face, but over sharp edges between two that are picked', async () => {
    const pocket = squarePocket(12, 6, 4, -10);
    const mesh = meshOf(pocket);
    const top = picksWhere(mesh, (_r, z, nz) => nz > 0.999 && Math.abs(z) < 1e-9);
    const walls = picksWhere(mesh, (r, z, nz) => Math.abs(nz) < 1e-6 && r < 6.5 && z > -4);
    expect([top.length, walls.length]).toEqual([1, 4]);
    const lowest = async (faces: typeof top): Promise<number> => {
      const found = await run(pocket, KINDS[0]!, [{ kind: 'faces', faces }]);
      return Math.min(...cuts(found.result).map((c) => c.z));
    };
    expect(await lowest(top)).toBeGreaterThan(-R * (1 - Math.cos((2 * Math.PI) / 180)));
    expect(await lowest([...top, ...walls])).toBeLessThan(-R + 0.05);
  });

  it('roughing keeps away from them as well, and cannot be held to them', async () => {
    const pocket = squarePocket(30, 15, 10, -20);
    const mesh = meshOf(pocket);
    const bottom = picksWhere(mesh, (r, _z, nz) => nz > 0.999 && r < 12);
    expect(bottom).toHaveLength(1);
    const at = (limits: Step['limits']) =>
      finished(
        pocket,
        [{ kind: 'level-roughing', cutter: ['ball', 4, 2, 22, 3.8, 40], values: { sideAllowance: 0.1, stairs: 0.3 } }],
        { limits, skin: 2.5 },
      );
    const limits: Step['limits'] = [{ kind: 'off-faces', faces: bottom, distance: 1.5 }];
    const far = distances(mesh, limits, await at(limits), 'at feed');
    expect(far.length).toBeGreaterThan(100);
    for (const d of far) expect(d).toBeGreaterThanOrEqual(R + 1.5 - 0.02);
    await expect(at([{ kind: 'faces', faces: bottom }])).rejects.toThrow(/cannot be held to faces/);
  });

  it('a face that the part does not have is told, and nothing is cut', async () => {
    const limits: Step['limits'] = [{ kind: 'faces', faces: [...domeFace, { at: [0, 0, 4] }] }];
    await expect(run(dome, KINDS[0]!, limits)).rejects.toThrow(/not on this part/);
    await expect(run(dome, KINDS[0]!, [{ kind: 'faces', faces: [] }])).rejects.toThrow(/No face is picked/);
  });

  it('a part of hundreds of thousands of triangles is held as a small one is', () => {
    const mesh = meshOf(sheet([-30, -30, 30, 30], 0.25, -10, (x, y) => Math.sin(x / 9) * Math.cos(y / 7)));
    const count = mesh.indices.length / 3;
    expect(count).toBeGreaterThan(200_000);
    const piece = Piece.of(testJob([], 0, { cell: 0.5 }), { part: mesh, key: 'large' });
    const faces = picksWhere(mesh, (r, z) => r < 1 && z > -2);
    const {
      part,
      faces: held,
      lost,
    } = piece.heldByFaces([
      { kind: 'faces', faces },
      { kind: 'more-on-faces', faces, amount: 0.1 },
    ]);
    expect(lost).toEqual([0, 0]);
    // the layer belongs to the face that it lies on
    const { own, others } = held!.only!;
    const onTop = facesPicked(mesh, faces).marks.reduce((sum, mark) => sum + mark, 0);
    expect(part.count).toBe(count + onTop);
    expect([own.count, others!.count]).toEqual([2 * onTop, count - onTop]);
  });
});
