import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { blockOf, hole, modeller, soupOf } from '../../../test/plates';
import { cribOf, crewHere, type EndMill, meshOf, testJob, workHere } from '../../../test/shapes';
import { besideEdges } from '../../check/brokenEdge';
import { gougesAlong } from '../../check/gouge';
import { Piece } from '../../evaluate/piece';
import { Session } from '../../evaluate/session';
import { Motion } from '../../path/toolpath';
import { release } from '../../release/release';
import { cuttingPiece } from '../../tool/shape';

const crib: Record<string, EndMill> = {
  c90: ['chamfer', 10, 0, 12, 10, 40, { SIG: 90, centreCutting: true }],
  c60: ['chamfer', 8, 0, 12, 8, 40, { SIG: 60, centreCutting: true }],
};

/** From a place outside a rectangle of half widths to its border, mm. */
function awayFrom(halfX: number, halfY: number, x: number, y: number): number {
  const [dx, dy] = [Math.abs(x) - halfX, Math.abs(y) - halfY];
  return dx > 0 && dy > 0 ? Math.hypot(dx, dy) : Math.max(dx, dy);
}

describe('chamfers', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  /** A part that is milled already but for its edges; `block`: out of a block of its own box instead. */
  async function chamfered(part: Manifold, cutter: string, values: Record<string, unknown>, block?: true) {
    const milled = { blank: { kind: 'body', allowance: 0 }, others: [{ file: 'b.stl', role: 'blank' }] } as object;
    const job = testJob([{ kind: 'chamfering', assemblyId: cutter, values }], 0, {
      cell: 0.05,
      crib: cribOf(crib),
      ...(block ? {} : milled),
    });
    const mesh = meshOf(soupOf(part));
    const session = new Session();
    session.take(job, Piece.of(job, { part: mesh, blank: mesh, key: 'part' }));
    await session.calculate(workHere);
    return { session, result: session.results.get('s1')! };
  }

  it('breaks the outer edge of a plate by the width: its tip as far beside the wall as it is wide at the edge less the width (check 31)', async () => {
    const part = blockOf(solids, [-15, -10, -8], [15, 10, 0]);
    const { result, session } = await chamfered(part, 'c90', { edges: 'sharp', width: 0.6, below: 1 });
    expect(result.figures.findings).toEqual([]);
    for (let k = 1; k < result.path.x.length; k++) {
      if (result.path.kind[k] !== Motion.cut) continue;
      const away = awayFrom(15, 10, result.path.x[k]!, result.path.y[k]!);
      // the point is 1 wide where it passes the wall, 1.6 at the edge
      expect(away).toBeGreaterThan(1 - 2e-3);
      expect(away).toBeLessThan(1 + 2e-3);
      expect(result.path.z[k]).toBeCloseTo(-1.6, 6);
    }
    // the prism along the sides, less what the corners have twice
    const prism = (0.6 ** 2 / 2) * 100;
    expect(result.figures.removed / prism).toBeGreaterThan(0.96);
    expect(result.figures.removed / prism).toBeLessThan(1.02);
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
  });

  it('takes rims of pockets and holes inside, climbing, and keeps off walls that rise beside a face', async () => {
    const part = blockOf(solids, [-24, -15, -12], [24, 15, 0])
      .subtract(blockOf(solids, [-14, -9, -5], [0, 9, 1]))
      .subtract(hole(solids, 10, 0, 5, -60))
      // a step with a wall behind it
      .subtract(blockOf(solids, [16, -20, -6], [25, 20, 1]));
    const { result } = await chamfered(part, 'c90', { edges: 'sharp', width: 0.3, below: 1 });
    expect(result.figures.findings).toEqual([]);
    const { x, y, z, kind } = result.path;
    let beside = 0;
    let inPocket = 0;
    let inHole = 0;
    for (let k = 1; k < x.length; k++) {
      if (kind[k] !== Motion.cut) continue;
      if (z[k]! < -6.5) {
        beside++;
        // only the outer edges of the step, none along the foot of its wall
        expect(awayFrom(24, 15, x[k]!, y[k]!)).toBeGreaterThan(0.99);
      } else if (Math.hypot(x[k]! - 10, y[k]!) < 5) {
        inHole++;
        const turn = (x[k - 1]! - 10) * y[k]! - y[k - 1]! * (x[k]! - 10);
        expect(turn).toBeGreaterThan(0);
      } else if (x[k]! < 0 && x[k]! > -14) inPocket++;
    }
    for (const count of [beside, inPocket, inHole]) expect(count).toBeGreaterThan(1);
  });

  it('makes chamfers that the part has exactly: nothing stays on them, nothing of them is cut', async () => {
    const C = 1.5;
    const lower = blockOf(solids, [-18, -12, -10], [18, 12, -C]);
    const part = solids.Manifold.hull([lower, blockOf(solids, [-18 + C, -12 + C, -10], [18 - C, 12 - C, 0])]);
    const { result, session } = await chamfered(part, 'c90', { below: 0.8 });
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    const { after, leftover } = result.next;
    let on = 0;
    after.heights.forEach((_, o) => {
      const x = Math.abs(after.x0 + ((o % after.nx) + 0.5) * after.cell);
      const y = Math.abs(after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell);
      if (x > 17.9 || y > 11.9 || (x < 16.6 && y < 10.6)) return;
      on++;
      expect(Math.abs(leftover[o]!)).toBeLessThan(0.005);
    });
    expect(on).toBeGreaterThan(1000);
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
    await expect(chamfered(part, 'c60', {})).rejects.toThrow("no chamfer of this cutter's 60°");
    await expect(chamfered(part, 'c90', { below: 4 })).rejects.toThrow("the cutter's edges end at 5.00 mm");
  });

  it('a round roof that leans so somewhere is no chamfer, however its facets lie; a cone with a corner below is one, in any rows', async () => {
    const profile = (points: [number, number][]): Manifold => solids.Manifold.revolve([points], 64);
    const dome = Array.from({ length: 46 }, (_, k): [number, number] => {
      const a = (k / 45) * (Math.PI / 2);
      return [12 * Math.cos(a), 12 * Math.sin(a) - 12];
    });
    await expect(chamfered(profile([[0, -16], [12, -16], ...dome]), 'c90', {})).rejects.toThrow('no chamfer');
    const rows: [number, number][] = [
      [12, -1.5],
      [11.5, -1],
      [11.1, -0.6],
      [10.5, 0],
    ];
    const { result } = await chamfered(profile([[0, -10], [12, -10], ...rows, [0, 0]]), 'c90', { below: 0.8 });
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    expect(new Set([...result.path.z].filter((_, k) => result.path.kind[k] === Motion.cut)).size).toBe(1);
  });

  it('keeps out of steel that still stands beside an edge, and says along how much of them', async () => {
    const part = blockOf(solids, [-24, -15, -12], [24, 15, 0]).subtract(blockOf(solids, [-14, -9, -5], [0, 9, 1]));
    const values = { edges: 'sharp', width: 0.3, below: 1 };
    const { result } = await chamfered(part, 'c90', values, true);
    // the outer edges are cut, the pocket is full
    expect(result.leftOut).toHaveLength(1);
    expect(result.leftOut[0]!.why).toMatch(/^Steel still stands beside \d+ mm of edges/);
    const told = Number(/(\d+) mm/.exec(result.leftOut[0]!.why)![1]);
    expect(told).toBeGreaterThan(2 * (14 + 18) - 8 - 3);
    expect(told).toBeLessThan(2 * (14 + 18));
    expect((await chamfered(part, 'c90', values)).result.leftOut).toEqual([]);
  });

  it('goes round the rounded corners of a plate in one cut, however they are faceted', async () => {
    for (const facets of [24, 100]) {
      const corner = (x: number, y: number): Manifold =>
        solids.Manifold.cylinder(9, 5, 5, facets).translate([x, y, -9]);
      const part = solids.Manifold.hull([corner(-14, -8), corner(14, -8), corner(14, 8), corner(-14, 8)]);
      const { result } = await chamfered(part, 'c90', { edges: 'sharp', width: 0.5, below: 1 });
      const { kind } = result.path;
      expect([...kind].filter((k, i) => k === Motion.entry && kind[i - 1] !== Motion.entry)).toHaveLength(1);
      expect(result.figures.findings).toEqual([]);
    }
  });

  it('what is allowed at an edge is no more than its width: a path that comes nearer or lower is found', async () => {
    const part = blockOf(solids, [-15, -10, -8], [15, 10, 0]);
    const { result, session } = await chamfered(part, 'c90', { edges: 'sharp', width: 0.4, below: 1 });
    const { shape } = session.snapshot.steps[0]!;
    const { path, broken } = result;
    const found = (by: number, lower: number): number => {
      const moved = { ...path, x: path.x.map((x) => x * (1 - by / 16)), z: path.z.map((z) => z - lower) };
      return besideEdges(cuttingPiece(shape), broken!).flatMap((piece) =>
        gougesAlong(session.snapshot.piece.part, piece, moved, [0, path.x.length], 0.01),
      ).length;
    };
    expect(found(0, 0)).toBe(0);
    expect(found(0.05, 0)).toBeGreaterThan(0);
    expect(found(0, 0.05)).toBeGreaterThan(0);
  });

  it('says in words what cannot be: an edge too wide for the cutter, no face at that height, no chamfer at all', async () => {
    const part = blockOf(solids, [-15, -10, -8], [15, 10, 0]);
    await expect(chamfered(part, 'c90', { edges: 'sharp', width: 6 })).rejects.toThrow('chamfers of 4.00 mm at most');
    await expect(chamfered(part, 'c90', { edges: 'sharp', face: -3 })).rejects.toThrow('no level face there');
    await expect(chamfered(part, 'c90', {})).rejects.toThrow("no chamfer of this cutter's 90°");
  });
});
