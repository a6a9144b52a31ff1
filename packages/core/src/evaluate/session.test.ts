import { describe, expect, it } from 'vitest';
import { copyMap } from '../steel/heightMap';
import { machineBand } from '../simulate/machining';
import { calculated, sessionOf, sheet, squarePocket, testCrib, testJob, workHere } from '../../test/shapes';
import type { CancelFlag } from '../base/cancel';
import { type Caller, callHere, crewOf } from '../crew/crew';
import { Session } from './session';
import type { Job } from '../job/job';

const bowl = sheet([-30, -25, 30, 25], 1.5, -25, (x, y) => -9 * Math.exp(-(x * x + y * y) / 700));
const hill = sheet([-30, -25, 30, 25], 1.5, -25, (x, y) => -9 + 9 * Math.exp(-(x * x + y * y) / 500));
const bowlJob = (): Job =>
  testJob(
    [
      { kind: 'level-roughing', assemblyId: 't2', values: { ap: 1, smallestOpening: 13 } },
      { kind: 'parallel-passes', assemblyId: 't3', values: { scallop: 0.05 } },
    ],
    1,
  );

const withValue = (job: Job, id: string, key: string, value: number): Job => ({
  ...job,
  steps: job.steps.map((s) => (s.id === id ? { ...s, values: { ...s.values, [key]: value } } : s)),
});
const freshOf = (session: Session): string[] =>
  session.snapshot.job.steps.map((s) => s.id).filter((id) => session.isFresh(id));

describe('calculating a workplan', () => {
  it('a 25 mm cutter leaves 33.53 mm² of steel in each corner of a square pocket, 5.178 mm thick on the diagonal', async () => {
    const half = 30;
    const job = testJob(
      [
        {
          kind: 'level-roughing',
          assemblyId: 't1',
          values: { sideAllowance: 0, floorAllowance: 0, ap: 2, ae: 9, smallestOpening: 30 },
        },
      ],
      0,
      { cell: 0.1 },
    );
    const session = await calculated(job, squarePocket(45, half, 4, -15));
    const { next, figures } = session.results.get('s1')!;
    const { after } = next;
    let cells = 0;
    let farthest = 0;
    for (let j = 0; j < after.ny; j++)
      for (let i = 0; i < after.nx; i++) {
        const x = after.x0 + (i + 0.5) * after.cell;
        const y = after.y0 + (j + 0.5) * after.cell;
        // the floor is level at -4; cells that stand higher inside the pocket are what is left
        if (Math.abs(x) > half || Math.abs(y) > half || after.heights[j * after.nx + i]! < -3.9) continue;
        cells++;
        farthest = Math.max(farthest, Math.hypot(half - Math.abs(x), half - Math.abs(y)));
      }
    const area = (cells * after.cell * after.cell) / 4;
    expect(Math.abs(area - (1 - Math.PI / 4) * 12.5 ** 2)).toBeLessThan(0.5);
    // thickness from the corner to the arc along the diagonal; cells of 0.1 mm
    const diagonal = (Math.SQRT2 - 1) * 12.5;
    let reach = 0;
    for (let d = 0; d < 8; d += 0.02) {
      const c = half - d / Math.SQRT2;
      const i = Math.floor((c - after.x0) / after.cell);
      const j = Math.floor((c - after.y0) / after.cell);
      if (after.heights[j * after.nx + i]! > -3.9) reach = d;
    }
    expect(Math.abs(reach - diagonal)).toBeLessThan(0.15);
    expect(figures.findings).toEqual([]);
  });

  it('opening and finishing a hill leaves nothing below the part, and steel no thicker than the scallop on it', async () => {
    const job = bowlJob();
    const session = await calculated(job, hill);
    const [rough, fine] = job.steps.map((s) => session.results.get(s.id)!);
    expect(rough!.figures.findings).toEqual([]);
    expect(fine!.figures.findings).toEqual([]);
    expect(rough!.figures.leftover.gouge).toBe(0);
    expect(fine!.figures.leftover.gouge).toBeLessThan(0.01);
    // a gentle hill: the side step on a slope of up to 45 degrees grows the scallop at most by 1 / cos²
    expect(fine!.figures.leftover.p99).toBeLessThan(0.05 * 2 + 0.02);
    expect(fine!.figures.leftover.p50).toBeLessThan(rough!.figures.leftover.p50);
  });

  it('the result is the same to the bit for any number of workers, in whatever order they finish', async () => {
    const job = bowlJob();
    const one = await calculated(job, bowl);
    const late: Caller = async (task, input, cancel) => {
      await new Promise((done) => setTimeout(done, Math.floor(Math.random() * 3)));
      return callHere(task, input, cancel);
    };
    const work = { ...workHere, crew: (cancel: CancelFlag) => crewOf([late, callHere, late], cancel) };
    const three = await calculated(job, bowl, { work });
    for (const step of job.steps) {
      const [a, b] = [one.results.get(step.id)!, three.results.get(step.id)!];
      expect(b.path.x).toEqual(a.path.x);
      expect(b.path.z).toEqual(a.path.z);
      expect(b.next).toEqual(a.next);
      expect(b.figures.removed).toBe(a.figures.removed);
    }
  });

  it('the steel at any motion is the steel of running the step up to it', async () => {
    const job = bowlJob();
    const session = await calculated(job, bowl);
    const result = session.results.get('s2')!;
    const last = result.path.x.length - 1;
    expect(session.steelAt('s2', last).heights).toEqual(result.steel.after.heights);
    expect(session.steelAt('s2', 0).heights).toEqual(result.steel.before.heights);
    const running = copyMap(result.steel.before);
    let done = 1;
    for (const share of [0.11, 0.4, 0.63, 0.98]) {
      const motion = Math.floor(last * share);
      machineBand(running, [0, running.ny], { ...result.body, shank: [], holder: [] }, result.path, [done, motion + 1]);
      done = motion + 1;
      session
        .steelAt('s2', motion)
        .heights.forEach((h, o) => expect(Math.abs(h - running.heights[o]!)).toBeLessThan(3e-5));
    }
  });

  it('the loupe shows the same steel on finer cells: never above the coarse map’s neighbours, never below the part', async () => {
    const job = bowlJob();
    const session = await calculated(job, bowl);
    const result = session.results.get('s2')!;
    const coarse = result.steel.after;
    const fine = session.loupe('s2', Infinity, { minX: -4.1, minY: -3.2, maxX: 5.3, maxY: 4.4 }, coarse.cell / 4);
    expect(fine.nx).toBe(Math.ceil(9.4 / fine.cell - 1e-6));
    for (let j = 0; j < fine.ny; j += 3)
      for (let i = 0; i < fine.nx; i += 3) {
        const x = fine.x0 + (i + 0.5) * fine.cell;
        const y = fine.y0 + (j + 0.5) * fine.cell;
        const ci = Math.floor((x - coarse.x0) / coarse.cell);
        const cj = Math.floor((y - coarse.y0) / coarse.cell);
        let [low, high] = [Infinity, -Infinity];
        for (let v = cj - 1; v <= cj + 1; v++)
          for (let u = ci - 1; u <= ci + 1; u++) {
            const h = coarse.heights[v * coarse.nx + u]!;
            low = Math.min(low, h);
            high = Math.max(high, h);
          }
        // a ridge or valley between the coarse cells' middles reaches beyond them by no more than they differ, and a scallop
        const room = high - low + 0.06;
        expect(fine.heights[j * fine.nx + i]).toBeGreaterThan(low - room);
        expect(fine.heights[j * fine.nx + i]).toBeLessThan(high + room);
      }
    const half = Math.floor(result.path.x.length / 2);
    const earlier = session.loupe('s2', half, { minX: -4.1, minY: -3.2, maxX: 5.3, maxY: 4.4 }, coarse.cell / 4);
    let standing = 0;
    earlier.heights.forEach((h, o) => {
      expect(h).toBeGreaterThanOrEqual(fine.heights[o]! - 1e-4);
      if (h > fine.heights[o]! + 0.01) standing++;
    });
    expect(standing).toBeGreaterThan(0);
    expect(() => new Session().loupe('s2', 0, { minX: 0, minY: 0, maxX: 1, maxY: 1 }, 0.1)).toThrow('no part');
  });

  it('a change makes its step and the later ones out of date, and only those are calculated again', async () => {
    const job = bowlJob();
    const session = await calculated(job, bowl);
    const first = session.results.get('s1');
    const scallop = withValue(job, 's2', 'scallop', 0.2);
    sessionOf(scallop, bowl, session);
    expect(freshOf(session)).toEqual(['s1']);
    await session.calculate(workHere);
    expect(session.results.get('s1')).toBe(first);
    expect(freshOf(session)).toEqual(['s1', 's2']);
    sessionOf(withValue(scallop, 's1', 'ap', 0.8), bowl, session);
    expect(freshOf(session)).toEqual([]);
    // what was calculated for a job that comes back by undo is there again
    sessionOf(scallop, bowl, session);
    expect(freshOf(session)).toEqual(['s1', 's2']);
    sessionOf(job, bowl, session);
    expect(freshOf(session)).toEqual(['s1', 's2']);
    expect(session.results.get('s2')!.figures.leftover.p99).toBeLessThan(0.15);
  });

  it('called-off work throws, keeps what was done before, and can be taken up again', async () => {
    const session = sessionOf(bowlJob(), bowl);
    const work = {
      ...workHere,
      onProgress: ({ stepId }: { stepId: string }) => {
        if (stepId === 's2') session.stop();
      },
    };
    await expect(session.calculate(work)).rejects.toMatchObject({ code: 'cancelled' });
    expect([...session.results.keys()]).toEqual(['s1']);
    await session.calculate(workHere);
    expect(freshOf(session)).toEqual(['s1', 's2']);
  });

  it('speed, feed and crossing height change times and feeds alone: path, steel and findings are those of before', async () => {
    const job = bowlJob();
    const session = await calculated(job, bowl);
    const before = job.steps.map((s) => session.results.get(s.id)!);
    const changed: Job = {
      ...job,
      setup: { ...job.setup, safeHeight: 25, machine: { ...job.setup.machine, acceleration: 500, rapid: 9000 } },
      crib: {
        ...job.crib,
        assemblies: job.crib.assemblies.map((a) => ({ ...a, n: 3000, fz: 0.05, number: a.number + 20 })),
      },
    };
    sessionOf(changed, bowl, session);
    expect(freshOf(session)).toEqual(['s1', 's2']);
    const alone = await calculated(changed, bowl);
    for (const [k, { id }] of job.steps.entries()) {
      const now = session.results.get(id)!;
      expect(now.motions).toBe(before[k]!.motions);
      expect(now.steel).toBe(before[k]!.steel);
      expect(now.times.at(-1)).toBeGreaterThan(2 * before[k]!.times.at(-1)!);
      // as if it had been calculated so from the beginning
      const { figures, path, times } = alone.results.get(id)!;
      expect(now.path).toEqual(path);
      expect(now.times).toEqual(times);
      expect({ ...now.figures, seconds: 0 }).toEqual({ ...figures, seconds: 0 });
      const top = Math.max(...path.z);
      expect(top).toBe(session.snapshot.step(id)!.safeZ);
      path.z.forEach((z, i) => expect(z === top || z === now.motions.z[i]).toBe(true));
    }
  });
});

describe('paths kept between visits', () => {
  it('tell how far a plan can be shown again, up to the first step that is another one now', async () => {
    const kept = new Map<string, never>();
    const cache = {
      get: (print: string) => Promise.resolve(kept.get(print)),
      put: (print: string, plan: unknown) => Promise.resolve(void kept.set(print, plan as never)),
    };
    const job = bowlJob();
    const visit = (): Session => sessionOf(job, bowl, new Session(cache));
    const first = visit();
    expect(await first.keptThrough()).toBe(-1);
    await first.calculate(workHere);
    const again = visit();
    expect(await again.keptThrough()).toBe(1);
    const scallop = withValue(job, 's2', 'scallop', 0.04);
    expect(await sessionOf(scallop, bowl, again).keptThrough()).toBe(0);
    expect(await sessionOf(withValue(scallop, 's1', 'ap', 0.9), bowl, again).keptThrough()).toBe(-1);
    await sessionOf(job, bowl, again).calculate(workHere);
    const [was, is] = [first, again].map((session) => session.results.get('s2')!.next.after.heights);
    expect(is).toEqual(was);
  });
});

describe('cells of the steel', () => {
  const plate = sheet([-80, -60, 80, 60], 40, -25, () => 0);
  const job = (scallop: number, cell: number | null): Job =>
    testJob([{ kind: 'parallel-passes', assemblyId: 't3', values: { scallop } }], 1, { cell });

  it('are of one size for all steps, whatever one of them does, and as the job says where it says so', () => {
    const { piece } = sessionOf(job(0.01, null), plate).snapshot;
    expect(160 * 120).toBeCloseTo(420_000 * piece.cell ** 2, 0);
    expect(sessionOf(job(0.0005, null), plate).snapshot.piece.cell).toBe(piece.cell);
    expect(sessionOf(job(0.0005, 0.3), plate).snapshot.piece.cell).toBe(0.3);
  });

  it('are half as wide for a step whose own passes lie closer than they could show, as if all had been run on those', async () => {
    const limits: Job['steps'][number]['limits'] = [
      {
        kind: 'within',
        source: 'a corner',
        side: 'on',
        offset: 0,
        points: [
          [60, 45],
          [72, 45],
          [72, 54],
          [60, 54],
        ],
      },
    ];
    const passes = job(0.0005, null).steps[0]!;
    const steps = [
      { ...passes, id: 's1', limits, values: { ...passes.values, scallop: 0.02, mostSteel: 4 } },
      { ...passes, id: 's2', limits, values: { ...passes.values, angleDeg: 90, mostSteel: 4 } },
      { ...passes, id: 's3', limits, values: { ...passes.values, angleDeg: 30, mostSteel: 4 } },
    ];
    const session = await calculated({ ...job(0.01, null), steps }, plate);
    const { cell } = session.snapshot.piece;
    const results = steps.map((s) => session.results.get(s.id)!);
    expect(results.map((r) => r.steel.after.cell)).toEqual([cell, cell / 2, cell / 2]);
    expect(results.map((r) => r.next.after.cell)).toEqual([cell, cell, cell]);
    for (const { stepId, steel } of results.slice(1)) {
      const { x0, y0, nx, ny } = steel.after;
      const window = { minX: x0, minY: y0, maxX: x0 + nx * (cell / 2), maxY: y0 + ny * (cell / 2) };
      const exact = session.loupe(stepId, Infinity, window, cell / 2);
      expect([exact.nx, exact.ny]).toEqual([nx, ny]);
      let off = 0;
      exact.heights.forEach((h, o) => (off = Math.max(off, Math.abs(h - steel.after.heights[o]!))));
      expect(off).toBeLessThan(1e-4);
    }
    expect(results[2]!.steel.before.heights).toEqual(results[1]!.steel.after.heights);
    expect(session.steelAt('s3', 40).cell).toBe(cell / 2);
  });
});

describe('findings', () => {
  it('a holder that is too low is found, with the stick-out that would clear it', async () => {
    const deep = sheet([-40, -40, 40, 40], 2, -60, (x, y) => (Math.hypot(x, y) < 22 ? -40 : 0));
    const crib = testCrib();
    const short = { ...crib, assemblies: crib.assemblies.map((a) => (a.id === 't2' ? { ...a, stickOut: 30 } : a)) };
    const session = await calculated(testJob([{ kind: 'level-roughing', assemblyId: 't2' }], 0, { crib: short }), deep);
    const { figures } = session.results.get('s1')!;
    const holder = figures.findings.find((f) => f.kind === 'holder')!;
    expect(holder.count).toBeGreaterThan(0);
    // the holder (radius 10 and more) reaches over the rim 22 mm from the middle while the tip is near -39.7
    expect(figures.neededStickOut).toBeGreaterThan(38);
    expect(figures.neededStickOut).toBeLessThanOrEqual(40.5);
    const long = {
      ...crib,
      assemblies: crib.assemblies.map((a) => (a.id === 't2' ? { ...a, stickOut: figures.neededStickOut + 0.01 } : a)),
    };
    const clear = await calculated(testJob([{ kind: 'level-roughing', assemblyId: 't2' }], 0, { crib: long }), deep);
    expect(clear.results.get('s1')!.figures.findings.filter((f) => f.kind === 'holder')).toEqual([]);
  });

  it('steel that reaches above the flutes is found as contact of the shank', async () => {
    const crib = testCrib();
    const stubby = { ...crib, cutters: crib.cutters.map((c) => (c.id === 'bull12' ? { ...c, APMX: 1 } : c)) };
    const job = testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { ap: 3 } }], 2, { crib: stubby });
    const session = await calculated(job, bowl);
    expect(session.results.get('s1')!.figures.findings.map((f) => f.kind)).toContain('shank');
  });

  it('a block that does not hold the part is refused in words, and no step counts as fresh then', async () => {
    const job = bowlJob();
    const session = await calculated(job, bowl);
    const small: Job = {
      ...job,
      blank: { kind: 'fixed', sizeX: 50, sizeY: 80, sizeZ: 60, below: 0, shiftX: 0, shiftY: 0 },
    };
    sessionOf(small, bowl, session);
    expect(session.snapshot.piece.problem).toMatch(/stands out of the block by 5.000 mm in X/);
    expect(freshOf(session)).toEqual([]);
    await expect(session.calculate(workHere)).rejects.toThrow(/stands out of the block/);
    sessionOf(job, bowl, session);
    expect(freshOf(session)).toEqual(['s1', 's2']);
  });
});
