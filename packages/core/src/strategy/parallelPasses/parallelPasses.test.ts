import { describe, expect, it } from 'vitest';
import { CutterDrop } from '../../tool/drop';
import { roundProfile, type RoundPiece } from '../../tool/profile';
import { contactMesh } from '../../geometry/contactMesh';
import { blockMap } from '../../steel/heightMap';
import { meshOf, sheet } from '../../../test/shapes';
import { scallopOf, sideStepFor } from './scallop';
import { type ScanInput, scanLines } from './scan';

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
