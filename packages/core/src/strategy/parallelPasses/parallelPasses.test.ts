import { describe, expect, it } from 'vitest';
import { CutterDrop } from '../../tool/drop';
import { roundProfile, type RoundPiece } from '../../tool/profile';
import { Motion } from '../../path/toolpath';
import { contactMesh } from '../../geometry/contactMesh';
import { blockMap } from '../../steel/heightMap';
import { calculated, cribOf, type EndMill, meshOf, sheet, squarePocket, testJob } from '../../../test/shapes';
import { scallopOf, sideStepFor } from '../../passes/scallop';
import { type ScanInput, scanLines } from '../../passes/scan';

describe('scallop of a ball cutter on a plane (Pythagoras; figures also in Machinery’s Handbook, from memory)', () => {
  it('DC 6.35 stepping 0.635 leaves 0.01592 mm, DC 19.05 leaves 0.00529 mm', () => {
    expect(Math.abs(scallopOf(6.35 / 2, 0.635) - 0.01592)).toBeLessThan(6e-6);
    expect(Math.abs(scallopOf(19.05 / 2, 0.635) - 0.00529)).toBeLessThan(6e-6);
  });

  it('DC 10 steps 0.6321 mm for 0.01 mm, and step and scallop undo each other', () => {
    expect(sideStepFor(5, 0.01)).toBeCloseTo(0.6321, 4);
    for (const h of [0.002, 0.01, 0.1, 1]) expect(scallopOf(5, sideStepFor(5, h))).toBeCloseTo(h, 12);
  });
});

describe('a pass over a part', () => {
  const piece = roundProfile(6, 3) as RoundPiece;
  const part = (height: (x: number, y: number) => number, step = 0.5) =>
    contactMesh(meshOf(sheet([-20, -10, 20, 10], step, -30, height)));

  function input(mesh: ReturnType<typeof part>, change: Partial<ScanInput> = {}): ScanInput {
    return {
      spec: { mesh, piece, side: 0, floor: 0 },
      bounds: { closed: [], obstacles: [] },
      stock: blockMap({ minX: -20, minY: -10, minZ: -30, maxX: 20, maxY: 10, maxZ: -29 }, 0.5),
      mostSteel: 3,
      lowest: -Infinity,
      tolerance: 0.01,
      extension: 1,
      wanted: { slopes: [0, Math.PI / 2] },
      join: 0,
      sideStep: 0.5,
      lines: [0.3, 4.1, -7.7].map((y, number) => ({ number, x: -25, y, ux: 1, uy: 0, length: 50 })),
      ...change,
    };
  }

  it('stays within its tolerance of the exact tip surface between its points: waves, walls, edges and ridges', () => {
    const shapes: ((x: number, y: number) => number)[] = [
      (x, y) => 2 * Math.sin(x / 2) + Math.cos(y),
      (x) => (x > 3.2 ? 8 : 0),
      (x, y) => -Math.abs(x - 2) * 1.5 + 0.3 * y,
      (x) => (Math.abs(x) < 0.6 ? 5 : x / 9),
    ];
    for (const shape of shapes) {
      const mesh = part(shape);
      const exact = new CutterDrop(mesh, piece);
      const slim = new CutterDrop(mesh, { ...piece, corner: 2.99, radius: 2.99 });
      for (const run of scanLines(input(mesh))) {
        const p = run.points;
        for (let k = 0; k + 5 < p.length; k += 3)
          for (let t = 0.05; t < 1; t += 0.1) {
            const x = p[k]! + t * (p[k + 3]! - p[k]!);
            const y = p[k + 1]! + t * (p[k + 4]! - p[k + 1]!);
            const z = p[k + 2]! + t * (p[k + 5]! - p[k + 2]!);
            // a cutter smaller by the tolerance all round is never inside the part
            expect(slim.at(x, y) - 0.01).toBeLessThanOrEqual(z + 1e-9);
            if (Math.abs(x) < 19) {
              // and the pass is not farther above it than the tolerance, measured in the plane of the pass
              let near = Infinity;
              for (let s = -0.012; s <= 0.012; s += 0.001) near = Math.min(near, Math.hypot(s, z - exact.at(x + s, y)));
              const beside = Math.max(exact.at(x - 0.012, y), exact.at(x + 0.012, y));
              expect(near <= 0.012 || z <= beside).toBe(true);
            }
          }
      }
    }
  });

  it('goes past both edges of the part by the extension, level ground staying level', () => {
    const [run] = scanLines(input(part(() => 0)));
    const p = run!.points;
    expect(p[0]).toBeCloseTo(-21, 1);
    expect(p[p.length - 3]).toBeCloseTo(21, 1);
    for (let k = 2; k < p.length; k += 3) expect(p[k]).toBeCloseTo(0, 9);
  });

  it('keeps out of ground that nobody has opened, and tells where it stopped', () => {
    const stock = blockMap({ minX: -20, minY: -10, minZ: -30, maxX: 20, maxY: 10, maxZ: 0.2 }, 0.25);
    for (let j = 0; j < stock.ny; j++)
      for (let i = 0; i < stock.nx; i++)
        if (stock.x0 + (i + 0.5) * stock.cell > 5) stock.heights[j * stock.nx + i] = 12;
    const runs = scanLines(
      input(
        part(() => 0),
        { stock, mostSteel: 1 },
      ),
    );
    for (const run of runs) {
      expect(run.stoppedBySteel).toEqual([false, true]);
      expect(run.points[run.points.length - 3]).toBeLessThan(5);
      expect(run.points[run.points.length - 3]).toBeGreaterThan(2);
    }
  });
});

describe('passes over a level plate', () => {
  const SCALLOP = 0.05;
  const STEP = sideStepFor(3, SCALLOP);

  /** Feed moves on the plate, as from, to. */
  async function passes(ways: 'both' | 'one', angleDeg: number): Promise<[number, number, number, number][]> {
    const job = testJob(
      [{ kind: 'parallel-passes', assemblyId: 'ball', values: { scallop: SCALLOP, ways, angleDeg } }],
      0.5,
      {
        cell: 0.2,
        crib: cribOf({ ball: ['ball', 6, 3, 12, 5, 30] }),
      },
    );
    const session = await calculated(
      job,
      sheet([-15, -10, 15, 10], 5, -8, () => 0),
    );
    const { x, y, z, kind } = session.results.get('s1')!.path;
    return [...x].flatMap((_, k): [number, number, number, number][] =>
      kind[k] === Motion.cut && Math.abs(z[k]!) < 0.02 && Math.abs(z[k - 1]!) < 0.02
        ? [[x[k - 1]!, y[k - 1]!, x[k]!, y[k]!]]
        : [],
    );
  }

  for (const angleDeg of [0, 90, 30])
    it(`lie along ${angleDeg}°, a side step apart or hardly less, from border to border`, async () => {
      const a = (angleDeg / 180) * Math.PI;
      const across = (x: number, y: number): number => y * Math.cos(a) - x * Math.sin(a);
      const moves = (await passes('both', angleDeg)).filter(([ax, ay, bx, by]) => Math.hypot(bx - ax, by - ay) > 2);
      const lines = moves.map(([ax, ay, bx, by]) => {
        expect(across(bx, by)).toBeCloseTo(across(ax, ay), 6);
        return across(ax, ay);
      });
      const apart = [...new Set(lines.map((v) => v.toFixed(4)))].map(Number).sort((p, q) => p - q);
      const gaps = apart.slice(1).map((v, k) => v - apart[k]!);
      expect(Math.max(...gaps)).toBeLessThanOrEqual(STEP + 1e-4);
      // as many as are needed, and the outermost lie on the border
      const wide = 30 * Math.abs(Math.sin(a)) + 20 * Math.abs(Math.cos(a));
      expect(apart.length).toBeLessThanOrEqual(Math.ceil(wide / STEP) + 1);
      if (angleDeg !== 30) expect(apart.at(-1)! - apart[0]!).toBeCloseTo(wide, 2);
    });

  it('go to and fro, or all one way', async () => {
    const directions = (moves: [number, number, number, number][]): Set<number> =>
      new Set(moves.filter(([ax, , bx]) => Math.abs(bx - ax) > 2).map(([ax, , bx]) => Math.sign(bx - ax)));
    expect(directions(await passes('both', 0))).toEqual(new Set([1, -1]));
    expect(directions(await passes('one', 0))).toEqual(new Set([1]));
  });
});

describe('in a pocket deeper than the flutes', () => {
  const HALF = 8;
  const DEPTH = 14;
  const RADIUS = 2;

  /** Finished at right angles to two of its walls, which roughing left 0.3 mm thick, by a ball of 4 with flutes of 5. */
  async function finished(neck: number) {
    const finish: EndMill = ['ball', 2 * RADIUS, RADIUS, 5, neck, 30];
    const job = testJob(
      [
        { kind: 'level-roughing', assemblyId: 'rough', values: { sideAllowance: 0.3, floorAllowance: 0.3 } },
        { kind: 'parallel-passes', assemblyId: 'finish', values: { scallop: 0.02, angleDeg: 0 } },
      ],
      0.5,
      { cell: 0.1, crib: cribOf({ rough: ['bull', 6, 1, 20, 5.6, 30], finish }) },
    );
    const session = await calculated(job, squarePocket(12, HALF, DEPTH, -20));
    return session.results.get('s2')!;
  }

  it('a neck of 0.2 mm relief touches nothing: walls across the passes are cut from above, and what cannot be is listed', async () => {
    const { figures, leftOut, next } = await finished(3.6);
    expect(figures.findings).toEqual([]);
    expect(leftOut.map((l) => l.why)).toContain('Steel stands taller than the flutes and would touch the neck');
    // the walls across are cut along their whole height, by cutters that come down
    const { after } = next;
    for (const x of [-HALF, HALF]) {
      const i = Math.floor((x * (1 - 0.1 / HALF) - after.x0) / after.cell);
      for (const y of [-4, 0.3, 3.1]) {
        const j = Math.floor((y - after.y0) / after.cell);
        expect(after.heights[j * after.nx + i]).toBeLessThan(-DEPTH + RADIUS + 0.5);
      }
    }
  });

  it('a neck with more relief than the skin is thick needs nothing of that', async () => {
    const { figures, leftOut } = await finished(2.2);
    expect(figures.findings).toEqual([]);
    expect(leftOut).toEqual([]);
  });
});
