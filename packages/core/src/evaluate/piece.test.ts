import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calculated, meshOf, sessionOf, sheet, squarePocket, testJob, workHere } from '../../test/shapes';
import { fixtureContacts } from '../check/fixtures';
import { contactMesh } from '../geometry/contactMesh';
import { boxOf, volumeOf } from '../geometry/mesh';
import { cross, unit, type Vec3 } from '../geometry/vector';
import { meshesByRole } from '../part/bodies';
import { AS_DRAWN, axesOf, laid, layMesh, layTurned, layWithX, layWithZ, unlaid } from '../part/lay';
import { outlineArea } from '../geometry/outline';
import { UNIT_SYMBOLS, unitDoubt } from '../part/unit';
import { volumeOfMap } from '../steel/heightMap';
import { standardBlock } from '../job/blocks';
import { fixtureBoxes, fixtureMesh } from '../job/fixtures';
import { blankProblems, blockBox, laidBoxes, workZeroPoint } from '../job/frame';
import { probeSentence, zeroAtPick, zeroOnAxis } from '../job/workZero';
import { type Blank, type Job, jobSchema, parseJob } from '../job/job';
import { Piece } from './piece';

const direction = fc
  .tuple(fc.double({ min: -1, max: 1 }), fc.double({ min: -1, max: 1 }), fc.double({ min: -1, max: 1 }))
  .filter((v) => v.every(Number.isFinite) && Math.hypot(...v) > 0.05)
  .map((v) => unit(v));
const close = (a: Vec3, b: Vec3): void => a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, 9));
const bump = meshOf(sheet([-20, -15, 20, 15], 2, -12, (x, y) => 3 * Math.cos(x / 9) - y / 10));

describe('how a piece lies', () => {
  it('the direction that is chosen stands up, axes stay square and right-handed, and points find their way back', () => {
    fc.assert(
      fc.property(direction, direction, direction, (up, along, p) => {
        const lay = layWithX(layWithZ(AS_DRAWN, up), along);
        const [x, y, z] = axesOf(lay);
        close(z, up);
        close(cross(x, y), z);
        close(unlaid(lay, laid(lay, p)), p);
        const flat = laid(lay, along);
        if (Math.hypot(flat[0], flat[1]) > 0.01) expect(flat[1]).toBeCloseTo(0, 6);
      }),
    );
  });

  it('four quarter turns about any axis lead back, exactly, and volume is kept', () => {
    for (const axis of ['X', 'Y', 'Z'] as const) {
      let lay = AS_DRAWN;
      for (let k = 0; k < 4; k++) {
        lay = layTurned(lay, axis, 90);
        const turned = layMesh(bump, lay);
        expect(volumeOf(turned)).toBeCloseTo(volumeOf(bump), 6);
      }
      expect(lay).toEqual(AS_DRAWN);
    }
    const onSide = boxOf(layMesh(bump, layTurned(AS_DRAWN, 'X', 90)));
    const box = boxOf(bump);
    expect(onSide.maxZ - onSide.minZ).toBeCloseTo(box.maxY - box.minY, 12);
    // right-handed: what looked along +Y looks up after a quarter turn about X
    close(laid(layTurned(AS_DRAWN, 'X', 90), [0, 1, 0]), [0, 0, 1]);
  });

  it('a job refuses axes that are not square', () => {
    const job = testJob([]);
    const part = { ...job.part!, lay: { x: [1, 0, 0], z: [0.1, 0, 0.99] } };
    expect(() => parseJob({ ...job, part })).toThrowError(/square to each other/);
  });
});

describe('work zero', () => {
  const boxes = laidBoxes(bump);
  const zeroAt = (change: object): Job => {
    const job = testJob([]);
    return { ...job, setup: { ...job.setup, workZero: { ...job.setup.workZero, ...change } } };
  };

  it('the operator is told to probe the face that carries it', () => {
    expect(probeSentence(zeroAt({ of: 'block' }), boxes)).toBe(
      'Probe the top of the block, the middle of the 40 x 30 mm face, and set G54 there.',
    );
    expect(probeSentence(zeroAt({ of: 'block', x: 'low', y: 'high', z: 'low' }), boxes)).toBe(
      'Probe the surface under the block, the corner of the -X side and the +Y side, and set G54 there.',
    );
  });

  it('a picked place stays on the part when the piece is turned', () => {
    const at: Vec3 = [5, -4, 2];
    const job = zeroAt({ of: 'picked', at, what: 'corner' });
    close(workZeroPoint(job, boxes), at);
    const lay = layTurned(AS_DRAWN, 'Z', 90);
    const turned = { ...job, part: { ...job.part!, lay } };
    close(workZeroPoint(turned, laidBoxes(layMesh(bump, lay))), laid(lay, at));
  });

  it('faces picked for single axes move zero along those alone, and the operator is told what to probe for each', () => {
    let job = zeroAt({ of: 'block', x: 'low' });
    const before = workZeroPoint(job, boxes);
    const pick = (axis: 0 | 1 | 2, value: number, what: string): void => {
      job = zeroAt(zeroOnAxis(job, boxes, axis, value, what));
    };
    pick(2, 1.5, 'the level face 8.5 mm under the top');
    close(workZeroPoint(job, boxes), [before[0], before[1], 1.5]);
    expect(probeSentence(job, boxes)).toBe(
      'Probe in Z the level face 8.5 mm under the top, in X the -X side, in Y the middle of the 40 x 30 mm face, and set G54 there.',
    );
    pick(0, -3, 'the rib');
    pick(1, 4, 'the rib');
    close(workZeroPoint(job, boxes), [-3, 4, 1.5]);
    expect(probeSentence(job, boxes)).toBe(
      'Probe in Z the level face 8.5 mm under the top, in X and Y the rib, and set G54 there.',
    );
    // the words are those of how the piece lay: turned, they would name the wrong axes
    const lay = layTurned(AS_DRAWN, 'Z', 90);
    expect(probeSentence({ ...job, part: { ...job.part!, lay } }, laidBoxes(layMesh(bump, lay)))).toBe(
      'Probe the picked places and set G54 there.',
    );
    job = zeroAt(zeroAtPick(job, [1, 2, 3], 'hole'));
    close(workZeroPoint(job, boxes), [1, 2, 3]);
    expect(probeSentence(job, boxes)).toBe('Probe the hole and set G54 there.');
  });
});

describe('blanks', () => {
  const holding = (blank: Blank, change: Partial<Job> = {}): Piece =>
    Piece.of({ ...testJob([], 0, { cell: 0.2 }), blank, ...change }, { part: bump, key: JSON.stringify(blank) });
  const box = boxOf(bump);
  const height = box.maxZ - box.minZ;

  it('a round bar has the volume of its cylinder, within its rim of cells, and never less', () => {
    const piece = holding({ kind: 'cylinder', diameter: 52, height: height + 1, below: 0, shiftX: 0, shiftY: 0 });
    const exact = (Math.PI / 4) * 52 ** 2 * (height + 1);
    const rim = Math.PI * 52 * 0.2 * (height + 1);
    const volume = volumeOfMap(piece.steel);
    expect(volume).toBeGreaterThan(exact);
    expect(volume - exact).toBeLessThan(1.2 * rim);
  });

  it('a plate has the volume of its outline', () => {
    const points: [number, number][] = [
      [-25, -20],
      [25, -20],
      [30, 0],
      [25, 20],
      [-25, 20],
    ];
    const piece = holding({ kind: 'outline', source: 'test', points, below: 0, above: 2 });
    const exact = outlineArea(points) * (height + 2);
    expect(volumeOfMap(piece.steel) / exact).toBeGreaterThan(1);
    expect(volumeOfMap(piece.steel) / exact).toBeLessThan(1.02);
  });

  it('a cast body with an allowance stands that much off the part, normal to it', () => {
    const job = {
      ...testJob([], 0, { cell: 0.2 }),
      others: [{ file: 'b.stl', hash: '', unit: 'mm' as const, role: 'blank' as const }],
    };
    const piece = Piece.of({ ...job, blank: { kind: 'body', allowance: 0.8 } }, { part: bump, key: 'x', blank: bump });
    const { heights, nx, ny, x0, y0, cell } = piece.steel;
    const [, , zeroZ] = workZeroPoint({ ...job, blank: { kind: 'body', allowance: 0.8 } }, laidBoxes(bump, bump));
    const [i, j] = [nx >> 1, ny >> 1];
    const x = x0 + (i + 0.5) * cell;
    const y = y0 + (j + 0.5) * cell;
    // near the crest the surface is level but for the tenth that it leans in Y
    const expected = 3 * Math.cos(x / 9) - y / 10 - zeroZ + 0.8 * Math.sqrt(1 + 0.01);
    expect(Math.abs(heights[j * nx + i]! - expected)).toBeLessThan(0.02);
  });

  it('steel that does not hold the part, and a block beyond the travel, are refused in words that say how to mend it', () => {
    const thin = holding({ kind: 'cylinder', diameter: 40, height: height + 1, below: 0, shiftX: 0, shiftY: 0 });
    expect(thin.problem).toMatch(/stands out of the blank by .* mm at X/);
    expect(() => thin.steel).toThrowError(thin.problem);
    const job = testJob([]);
    const machine = { ...job.setup.machine, travelX: 35 };
    expect(blankProblems({ ...job, setup: { ...job.setup, machine } }, laidBoxes(bump))[0]).toMatch(
      /40.0 mm long in X, but Made up travels 35 mm; turn the piece or choose another machine/,
    );
    expect(jobSchema.safeParse({ ...job, blank: { kind: 'body', allowance: 0 } }).error!.issues[0]!.message).toMatch(
      /No body has the role of the blank/,
    );
  });

  it('the next standard block holds the part', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 900, noNaN: true }),
        fc.double({ min: 5, max: 380, noNaN: true }),
        (x, z) => {
          const [sx, sy, sz] = standardBlock([x, x / 2, z]);
          expect(sx).toBeGreaterThanOrEqual(x - 1e-6);
          expect(sy).toBeGreaterThanOrEqual(x / 2 - 1e-6);
          expect(sz).toBeGreaterThan(z);
        },
      ),
    );
    expect(standardBlock([170, 130, 70])).toEqual([170, 130, 76]);
  });
});

describe('bodies and units', () => {
  it('bodies of one file are told apart by their roles', () => {
    const two = meshOf([...sheet([0, 0, 10, 10], 5, -5, () => 0), ...sheet([20, 0, 30, 10], 5, -3, () => 0)]);
    const faceOf = two.faceOf.map((_, t) => (two.positions[3 * two.indices[3 * t]!]! > 15 ? 1 : 0));
    const read = {
      mesh: { ...two, faceOf },
      bodies: [
        { name: 'a', firstFace: 0, endFace: 1 },
        { name: 'b', firstFace: 1, endFace: 2 },
      ],
    };
    const meshes = meshesByRole(read, { '1': 'fixture' });
    expect(Math.abs(volumeOf(meshes.part!))).toBeCloseTo(500, 6);
    expect(Math.abs(volumeOf(meshes.fixture!))).toBeCloseTo(300, 6);
    expect(
      meshesByRole(read, { '0': 'ignored' }).part && Math.abs(volumeOf(meshesByRole(read, { '0': 'ignored' }).part!)),
    ).toBeCloseTo(300, 6);
  });

  it('a part that is no size of the trade is doubted, with the unit that makes it one and the factor', () => {
    expect(unitDoubt(6.7, 'mm', false)).toMatchObject({ unit: 'in', factor: 25.4 });
    expect(unitDoubt(4000, 'in', false)).toMatchObject({ unit: 'mm', factor: 1 / 25.4 });
    expect(unitDoubt(0.06, 'mm', false)).toMatchObject({ unit: 'm', factor: 1000 });
    expect(unitDoubt(60_000, 'mm', false)).toMatchObject({ unit: 'µm', factor: 0.001 });
    expect(unitDoubt(60_000, 'm', false)).toMatchObject({ unit: 'mm', factor: 0.001 });
    expect(unitDoubt(0.06, 'mm', true)!.sentence).toMatch(
      /1000 times larger, it would be 60.0 mm. If that is its size/,
    );
    fc.assert(
      fc.property(fc.double({ min: 12, max: 2500, noNaN: true }), fc.constantFrom(...UNIT_SYMBOLS), (size, unit) => {
        expect(unitDoubt(size, unit, false)).toBeUndefined();
      }),
    );
  });

  it('a part of a wrong unit is the likely cause when nothing can be cut or the machine is too small, and is told so', async () => {
    const soup = squarePocket(30, 20, 10, -25);
    const job = testJob([{ kind: 'level-roughing', assemblyId: 't1', values: { top: -1 } }], 0);
    const small = sessionOf(
      job,
      soup.map((v) => v / 1000),
    );
    await expect(small.calculate(workHere)).rejects.toThrow(
      /no level to cut.* in m, 1000 times larger, it would be 60.0 mm/,
    );
    const large = sessionOf(
      job,
      soup.map((v) => v * 1000),
    );
    expect(large.snapshot.piece.problem).toMatch(/travels 20000 mm.* in µm, 1000 times smaller, it would be 60.0 mm/);
  });
});

describe('fixtures', () => {
  const pocket = meshOf(squarePocket(30, 20, 8, -20));
  // 14 mm over an edge 10 mm from the pocket: it stands 4 mm into the pocket's plan
  const clamps = { kind: 'clamps', axis: 'X', width: 10, height: 12, over: 14 } as const;
  const roughed = async (fixtures: Job['setup']['fixtures']) => {
    const steps = [{ kind: 'level-roughing', assemblyId: 't4', values: { ap: 4, smallestOpening: 6 } }];
    const job = testJob(steps, 0);
    const session = await calculated({ ...job, setup: { ...job.setup, fixtures } }, pocket);
    return { piece: session.snapshot.piece, result: session.results.get('s1')! };
  };

  it('a clamp in the way of a path that does not know of it is found, and by how much', async () => {
    const free = await roughed([]);
    const held = fixtureMesh(fixtureBoxes(clamps, free.piece.box), [])!;
    const { path, body } = free.result;
    const met = fixtureContacts(contactMesh(held), body, path, [0, path.x.length]);
    expect(Math.max(...met.map((m) => m.amount))).toBeGreaterThan(12);
  });

  it('roughing goes round a clamp: nothing comes near it, and only steel beside it stays', async () => {
    const free = await roughed([]);
    const { piece, result } = await roughed([clamps]);
    expect(result.figures.findings.filter((f) => f.kind === 'fixture')).toEqual([]);
    const boxes = fixtureBoxes(clamps, piece.box);
    const reach = result.body.holder[result.body.holder.length - 1]!.radius + 2;
    const { after } = result.next;
    let stays = 0;
    for (let o = 0; o < after.heights.length; o++) {
      const more = after.heights[o]! - free.result.next.after.heights[o]!;
      if (more < 0.5) continue;
      stays++;
      const x = after.x0 + ((o % after.nx) + 0.5) * after.cell;
      const y = after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell;
      const away = boxes.map((b) =>
        Math.hypot(Math.max(b.minX - x, x - b.maxX, 0), Math.max(b.minY - y, y - b.maxY, 0)),
      );
      expect(Math.min(...away)).toBeLessThan(reach);
    }
    expect(stays).toBeGreaterThan(100);
  });

  it('a plate below is in nobody’s way', async () => {
    const { result } = await roughed([{ kind: 'plate', thickness: 20, beyond: 50 }]);
    expect(result.figures.findings.some((f) => f.kind === 'fixture')).toBe(false);
  });

  it('the jaws of a vise stand against the block and below its top', () => {
    const block = { minX: -30, maxX: 30, minY: -20, maxY: 20, minZ: -40, maxZ: 0 };
    for (const jaw of fixtureBoxes({ kind: 'vise', axis: 'Y', grip: 8, jaw: 20, width: 50 }, block)) {
      expect(jaw.maxZ).toBe(-32);
      expect(Math.min(Math.abs(jaw.maxY - block.minY), Math.abs(jaw.minY - block.maxY))).toBe(0);
    }
  });
});

it('a box around the part is its block, whatever the lay', () => {
  const job = testJob([], 2);
  const b = blockBox(job, laidBoxes(bump));
  expect(b.maxZ - boxOf(bump).maxZ).toBeCloseTo(2, 12);
});
