import fc from 'fast-check';
import type { ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { blockOf, hole, modeller, soupOf } from '../../../test/plates';
import { calculated, cribOf, crewHere, type EndMill, testJob } from '../../../test/shapes';
import { Motion } from '../../path/toolpath';
import { release } from '../../release/release';
import { radiiTo } from './plan';

describe('hole milling', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  const cutters: Record<string, EndMill> = { f6: ['flat', 6, 0, 25, 6, 40], b8: ['bull', 8, 1, 30, 8, 45] };
  async function milled(cutter: string, values: Record<string, unknown>, ...cut: ReturnType<typeof hole>[]) {
    const plate = cut.reduce((body, c) => body.subtract(c), blockOf(solids, [-35, -25, -18], [35, 25, 0]));
    const job = testJob([{ kind: 'hole-milling', assemblyId: cutter, values }], 1, {
      cell: 0.1,
      crib: cribOf(cutters),
    });
    const session = await calculated(job, soupOf(plate));
    return { result: session.results.get('s1')!, session, plate };
  }

  it('takes the volume of its holes out of the block, a counterbore as one of its own, and nothing of the part', async () => {
    // wider than two cutters, hardly wider than one, and stepped
    const { result, session } = await milled(
      'f6',
      {},
      hole(solids, -20, 4, 11, -9),
      hole(solids, 4, -12, 4, -60),
      hole(solids, 20, 6, 4.5, -60),
      hole(solids, 20, 6, 8, -5),
    );
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    const volume = Math.PI * (121 * 10 + 16 * 19 + 20.25 * 19 + (64 - 20.25) * 6);
    expect(result.figures.removed / volume).toBeGreaterThan(0.985);
    expect(result.figures.removed / volume).toBeLessThan(1.002);
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
  });

  it('leaves the allowance on wall and floor, and goes with the wall on its right hand when it climbs', async () => {
    for (const [direction, side] of [
      ['climb', 1],
      ['conventional', -1],
    ] as const) {
      const { result } = await milled('b8', { allowance: 0.5, direction }, hole(solids, 0, 0, 10, -8));
      const { x, y, z, kind } = result.path;
      let widest = 0;
      for (let k = 1; k < x.length; k++) {
        if (kind[k] !== Motion.cut) continue;
        widest = Math.max(widest, Math.hypot(x[k]!, y[k]!));
        expect((x[k - 1]! * y[k]! - y[k - 1]! * x[k]!) * side).toBeGreaterThan(0);
      }
      expect(widest).toBeCloseTo(10 - 4 - 0.5, 6);
      // the block's top is the work zero of the part: its floor is 8 under it
      expect(Math.min(...z)).toBeCloseTo(-8 + 0.5, 6);
      expect(result.figures.findings).toEqual([]);
    }
  });

  it('leaves out, with words, a hole without room to turn, one that is deeper than its flutes, and none is an error', async () => {
    const { result } = await milled(
      'f6',
      { diameterFrom: 2 },
      hole(solids, -10, 0, 2.9, -6),
      hole(solids, 10, 0, 6, -6),
    );
    expect(result.leftOut.map((l) => l.why)).toEqual([expect.stringContaining('no room to turn')]);
    await expect(milled('f6', {}, hole(solids, 0, 0, 3.2, -6))).rejects.toThrow(
      'no upright hole or bore of ⌀ 7.2 mm or more',
    );
    const short: Record<string, EndMill> = { s: ['flat', 6, 0, 5, 6, 40] };
    const plate = blockOf(solids, [-20, -20, -18], [20, 20, 0]).subtract(hole(solids, 0, 0, 8, -12));
    const job = testJob([{ kind: 'hole-milling', assemblyId: 's' }], 0, { crib: cribOf(short) });
    await expect(calculated(job, soupOf(plate))).rejects.toThrow('flutes are 5 mm long');
  });

  it('goes down no steeper than the cutter may, and leaves bores that it does not open', async () => {
    const { RMPX, DMIN } = { RMPX: 1, DMIN: 11 };
    const plate = blockOf(solids, [-35, -25, -18], [35, 25, 0])
      .subtract(hole(solids, -15, 0, 7, -9))
      .subtract(hole(solids, 15, 0, 5, -9));
    const crib = cribOf(cutters);
    const job = testJob([{ kind: 'hole-milling', assemblyId: 'f6', values: { pitch: 2 } }], 1, {
      cell: 0.1,
      crib: { ...crib, cutters: crib.cutters.map((cutter) => ({ ...cutter, RMPX, DMIN })) },
    });
    const session = await calculated(job, soupOf(plate));
    const { path, leftOut } = session.results.get('s1')!;
    const { x, y, z, kind } = path;
    let [steepest, nearest] = [0, Infinity];
    for (let k = 1; k < x.length; k++) {
      if (kind[k] === Motion.rapid) continue;
      const level = Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!);
      if (level > 1e-9) steepest = Math.max(steepest, Math.atan2(z[k - 1]! - z[k]!, level));
      nearest = Math.min(nearest, Math.hypot(x[k]! - 15, y[k]!));
    }
    // chords of the helix are a little shorter than its arcs
    expect((steepest * 180) / Math.PI).toBeLessThan(1.02 * RMPX);
    expect(nearest).toBeGreaterThan(5);
    expect(leftOut.map(({ why }) => why).join()).toContain('opens bores of 11 mm and above');
  });
});

describe('radii of turns', () => {
  const size = fc.double({ min: 0.2, max: 40, noNaN: true });
  it('leave no core in the middle and no ridge between them, never pass the last, and take the finish apart', () => {
    fc.assert(
      fc.property(size, size, size, fc.constantFrom(0, 0.1, 0.3), (last, flat, ae, finish) => {
        const radii = radiiTo(last, flat, { ae, finish });
        expect(radii[0]!).toBeLessThanOrEqual(flat);
        expect(radii.at(-1)!).toBeCloseTo(last, 9);
        for (let k = 1; k < radii.length; k++) {
          expect(radii[k]!).toBeGreaterThan(radii[k - 1]!);
          expect(radii[k]! - radii[k - 1]!).toBeLessThanOrEqual(Math.max(finish, Math.min(ae, 2 * flat)) + 1e-9);
        }
        if (finish > 0 && last > 2 * finish) expect(last - radii.at(-2)!).toBeCloseTo(finish, 9);
      }),
      { numRuns: 200 },
    );
  });

  it('a cutter that opens no narrow bores begins no narrower, and takes the post that such a helix leaves in the middle', () => {
    const size = fc.double({ min: 0.05, max: 30, noNaN: true });
    fc.assert(
      fc.property(size, size, size, size, fc.constantFrom(0, 0.1, 0.3), (more, flat, ae, least, finish) => {
        const last = least + more - 0.05;
        const radii = radiiTo(last, flat, { ae, finish }, least);
        expect(radii[0]!).toBeGreaterThanOrEqual(Math.min(least, last) - 1e-9);
        expect(Math.max(...radii)).toBeCloseTo(last, 9);
        // from the axis outward everything is passed by the level end of one of them
        let passed = 0;
        for (const r of [...radii].sort((a, b) => a - b)) {
          expect(r - flat).toBeLessThanOrEqual(passed + Math.max(finish, 0) + 1e-3);
          passed = Math.max(passed, r + flat);
        }
      }),
      { numRuns: 200 },
    );
  });
});
