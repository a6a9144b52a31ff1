import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../../test/numberIn';
import { calculated, crewHere, meshOf, sessionOf, sheet, squarePocket, testJob, workHere } from '../../../test/shapes';
import { Motion } from '../../path/toolpath';
import { type Job, parseJob } from '../../job/job';
import type { CutterRow } from '../../evaluate/nextCutters';
import { restRegion } from '../../steel/restRegion';

const HALF = 30;
const ALLOWANCE = 2;
const inner = HALF - ALLOWANCE;
const pocket = meshOf(squarePocket(45, HALF, 8, -20));

async function cleared(threshold: number, grow: number) {
  const allowances = { sideAllowance: ALLOWANCE, floorAllowance: ALLOWANCE };
  const job = testJob(
    [
      { kind: 'level-roughing', assemblyId: 't1', values: { ...allowances, ap: 3, ae: 9, smallestOpening: 30 } },
      { kind: 'rest-roughing', assemblyId: 't4', values: { ...allowances, ap: 3, ae: 2, threshold, grow } },
    ],
    0,
    { cell: 0.1 },
  );
  const session = await calculated(job, pocket);
  const { next, path, figures } = session.results.get('s2')!;
  const { after } = next;
  let cells = 0;
  for (let j = 0; j < after.ny; j++)
    for (let i = 0; i < after.nx; i++) {
      const x = Math.abs(after.x0 + (i + 0.5) * after.cell);
      const y = Math.abs(after.y0 + (j + 0.5) * after.cell);
      // the floor of the roughed pocket is level at -6
      if (x < inner && y < inner && after.heights[j * after.nx + i]! > -5.9) cells++;
    }
  let alongWalls = 0;
  for (let k = 1; k < path.x.length; k++)
    if (path.kind[k] === Motion.cut && Math.min(Math.abs(path.x[k]!), Math.abs(path.y[k]!)) < inner - 13) alongWalls++;
  return { left: (cells * after.cell * after.cell) / 4, alongWalls, figures };
}

/** Check 12: common practice, no source; the corner's area is geometry (check 11). */
describe('rest roughing after a cutter of 25 mm with an allowance of 2 mm, by a cutter of 5 mm', () => {
  it('0.1 mm above the allowance clears every corner to 1.341 mm² and cuts nothing along the straight walls', async () => {
    const { left, alongWalls, figures } = await cleared(0.1, 0.5);
    expect(Math.abs(left - (1 - Math.PI / 4) * 2.5 ** 2)).toBeLessThan(0.25);
    expect(alongWalls).toBe(0);
    expect(figures.findings).toEqual([]);
  });

  it('2 mm above the allowance leaves upstands beside every corner, with or without growing the region by 2 mm', async () => {
    const clean = (await cleared(0.1, 0.5)).left;
    const { left, figures } = await cleared(2, 0);
    expect(left).toBeGreaterThan(clean + 0.5);
    // which is told: where, how thick, and how much of it there is in the four corners, from the floor's allowance to the top
    const under = figures.leftOut.filter(({ why }) => why.startsWith('Thinner than the threshold of 2 mm: up to '));
    expect(under).toHaveLength(1);
    const [{ x, y, volume }] = under as [(typeof under)[number]];
    expect(Math.min(Math.abs(x), Math.abs(y))).toBeGreaterThan(inner - 13);
    expect(volume!).toBeGreaterThan(0.5 * 4 * left * 6);
    expect(volume!).toBeLessThan(1.1 * 4 * left * 6);
    expect((await cleared(0.1, 0.5)).figures.leftOut.filter(({ why }) => why.startsWith('Thinner'))).toEqual([]);
    // grown by 2 mm the upstands get smaller, but stay
    expect((await cleared(2, 2)).left).toBeGreaterThan(clean + 0.1);
  });
});

describe('rest roughing as after a named cutter', () => {
  const job = (after: string | null, first: boolean) => {
    const allowances = { sideAllowance: ALLOWANCE, floorAllowance: ALLOWANCE };
    const open = {
      kind: 'level-roughing',
      assemblyId: 't1',
      values: { ...allowances, ap: 3, ae: 9, smallestOpening: 30 },
    };
    const rest = {
      kind: 'rest-roughing',
      assemblyId: 't4',
      values: {
        ...allowances,
        ap: 3,
        ae: 2,
        threshold: 0.5,
        grow: 0,
        after,
        afterSide: ALLOWANCE,
        afterFloor: ALLOWANCE,
      },
    };
    return testJob(first ? [open, rest] : [rest], 0, { cell: 0.2 });
  };

  it('finds the corners without the earlier step worked out, as large as they are after it', async () => {
    const worked = job(null, true);
    const session = await calculated(worked, pocket, { through: 's1' });
    const real = await session.regionOf('s2', crewHere());
    const told = await sessionOf(job('t1', false), pocket).regionOf('s1', crewHere());
    // each corner: what a radius of 12.5 leaves, without the ends that are thinner than the threshold
    expect(told!.area / real!.area).toBeGreaterThan(0.9);
    expect(told!.area / real!.area).toBeLessThan(1.1);
    expect(told!.volume / real!.volume).toBeGreaterThan(0.9);
    expect(told!.volume / real!.volume).toBeLessThan(1.1);
  });

  it('what it depends on counts: another size of the named cutter makes the result stale', () => {
    const keyOf = (job: Job): string => sessionOf(job, pocket).snapshot.steps[0]!.key;
    const one = job('t1', false);
    const other = structuredClone(one);
    other.crib.cutters[0]!.DC = 20;
    expect(keyOf(other)).not.toEqual(keyOf(one));
    expect(keyOf(structuredClone(one))).toEqual(keyOf(one));
  });

  it('a name that is not in the crib is refused at its place', () => {
    const bad = structuredClone(job('t1', false)) as { steps: { values: Record<string, unknown> }[] };
    bad.steps[0]!.values['after'] = 't99';
    expect(() => parseJob(bad)).toThrow(/names "t99", which is not in the crib/);
  });

  it('cutters are tried on what is left: the one that left it takes little, a small one nearly all', async () => {
    const worked = job(null, true);
    const session = sessionOf(worked, pocket);
    await expect(session.nextCutters(1, ALLOWANCE, 0.5, crewHere(), () => undefined)).rejects.toThrow(/not up to date/);
    await session.calculate(workHere, 's1');
    let rows: CutterRow[] = [];
    await session.nextCutters(1, ALLOWANCE, 0.5, crewHere(), (found) => (rows = found));
    const share = (id: string): number => {
      const row = rows.find((r) => r.assemblyId === id)!;
      return row.taken / row.left;
    };
    expect(rows.map((r) => r.assemblyId).sort()).toEqual(['t1', 't2', 't3', 't4']);
    expect(share('t1')).toBeLessThan(0.1);
    expect(share('t4')).toBeGreaterThan(0.9);
    expect(share('t2')).toBeGreaterThan(share('t1'));
    expect(share('t4')).toBeGreaterThan(share('t2'));
  });
});

describe('stairs that the step before leaves on purpose', () => {
  // a ridge with flanks of 40 degrees, and beside it a slot that the first cutter does not enter
  const rise = Math.tan((40 * Math.PI) / 180);
  const slot = { from: 18, to: 24 };
  const part = meshOf(
    sheet([-26, -15, 26, 15], 0.5, -20, (x) =>
      x > slot.from && x < slot.to ? -13 : Math.max(-8, -Math.abs(x) * rise),
    ),
  );
  const house = { sideAllowance: 0.3, floorAllowance: 0.3, ap: 2 };
  const job = (threshold: number | null, stairs: number | null, after: string | null = null) =>
    testJob(
      [
        { kind: 'level-roughing', assemblyId: 't1', values: { ...house, stairs, smallestOpening: 26 } },
        { kind: 'rest-roughing', assemblyId: 't4', values: { ...house, threshold, grow: 0, after } },
      ],
      0,
      { cell: 0.2 },
    );

  it.each([0.5, 0.9, null])(
    '%s mm: the offered threshold keeps what could not be reached and leaves the stairs',
    async (stairs) => {
      const session = await calculated(job(null, stairs), part, { through: 's1' });
      const regionOf = (as: Job) => sessionOf(as, part, session).regionOf('s2', crewHere());
      const all = (await regionOf(job(null, stairs)))!;
      const offered = all.stairs!;
      expect(offered.most).toBeCloseTo(stairs ?? 2, 6);
      // over the slot the nearest steel is its edges, as far off as the place is
      const edges = 2 * Math.sqrt((0.3 + offered.threshold) ** 2 - 0.3 ** 2);
      const wanted = (slot.to - slot.from - edges) * 30;
      expect(all.area).toBeGreaterThan(2 * wanted);
      const left = (await regionOf(job(offered.threshold, stairs)))!;
      expect(left.stairs).toBeUndefined();
      expect(Math.abs(left.area - wanted)).toBeLessThan(0.1 * wanted);
      // pieces that are left out as too small count as neither
      expect(Math.abs(all.area - offered.area - left.area)).toBeLessThan(0.01 * wanted);
    },
  );

  it('nothing is told of stairs where the threshold leaves them, or the steel is as after a named cutter', async () => {
    const session = await calculated(job(1.2, 1), part, { through: 's1' });
    expect((await session.regionOf('s2', crewHere()))!.stairs).toBeUndefined();
    sessionOf(job(null, 1, 't1'), part, session);
    expect((await session.regionOf('s2', crewHere()))!.stairs).toBeUndefined();
  });
});

describe('region of a rest step', () => {
  const frame = { x0: 0, y0: 0, cell: 0.5, nx: 40, ny: 30, floor: -10 };

  it('holds what is thicker than allowance and threshold together, and nothing else; wider never means less', () => {
    fc.assert(
      fc.property(
        fc.array(numberIn(0, 3), { minLength: 1200, maxLength: 1200 }),
        numberIn(0, 1),
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        (left, allowance, threshold) => {
          const stock = { ...frame, heights: new Float32Array(1200).fill(-1) };
          const leftover = Float32Array.from(left);
          const region = restRegion(stock, leftover, allowance, threshold, 0, 0);
          const kept = region.map.heights.reduce((n, h) => n + (h > -Infinity ? 1 : 0), 0);
          const thick = leftover.reduce((n, v) => n + (v - allowance > threshold ? 1 : 0), 0);
          expect(kept).toBe(thick);
          expect(region.area).toBeCloseTo(thick * 0.25, 6);
          const wide = restRegion(stock, leftover, allowance, threshold, 1, 0);
          for (let o = 0; o < 1200; o++)
            if (region.map.heights[o]! > -Infinity) expect(wide.map.heights[o]).toBe(region.map.heights[o]);
        },
      ),
      { numRuns: 20 },
    );
  });

  it('pieces smaller than the smallest area are left out', () => {
    const stock = { ...frame, heights: new Float32Array(1200).fill(-1) };
    const leftover = new Float32Array(1200);
    leftover[5] = 1;
    for (const o of [200, 201, 240, 241]) leftover[o] = 1;
    expect(restRegion(stock, leftover, 0.2, 0.1, 0, 0.9).area).toBeCloseTo(1, 6);
    expect(restRegion(stock, leftover, 0.2, 0.1, 0, 0).area).toBeCloseTo(1.25, 6);
  });
});
