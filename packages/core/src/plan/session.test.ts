import { describe, expect, it } from 'vitest';
import { copyMap } from '../stock/heightMap';
import { machineBand } from '../stock/machining';
import { crewHere, meshOf, sheet, squarePocket, testCrib, testJob } from '../../test/shapes';
import { EsquisseError } from '../errors';
import { CancelFlag, callHere, crewOf } from './crew';
import { release } from './release';
import { PlanSession } from './session';
import type { Job } from './job';

async function worked(job: Job, soup: number[], crew = crewHere()): Promise<PlanSession> {
  const session = new PlanSession();
  session.piece.prepare(job, meshOf(soup), 'part');
  await session.evaluate(job, crew, () => undefined);
  return session;
}

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

describe('working out a plan', () => {
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
    const session = await worked(job, squarePocket(45, half, 4, -15));
    const { after, figures } = session.results.get('s1')!;
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
    const session = await worked(job, hill);
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
    const one = await worked(job, bowl);
    const late: typeof callHere = async (name, input, cancel) => {
      await new Promise((done) => setTimeout(done, Math.floor(Math.random() * 3)));
      return callHere(name, input, cancel);
    };
    const three = await worked(job, bowl, crewOf([late, callHere, late], new CancelFlag()));
    for (const step of job.steps) {
      const [a, b] = [one.results.get(step.id)!, three.results.get(step.id)!];
      expect(b.path.x).toEqual(a.path.x);
      expect(b.path.z).toEqual(a.path.z);
      expect(b.after.heights).toEqual(a.after.heights);
      expect(b.leftover).toEqual(a.leftover);
      expect(b.figures.removed).toBe(a.figures.removed);
    }
  });

  it('the steel at any motion is the steel of running the step up to it', async () => {
    const job = bowlJob();
    const session = await worked(job, bowl);
    const result = session.results.get('s2')!;
    const last = result.path.x.length - 1;
    expect(session.steelAt('s2', last).heights).toEqual(result.after.heights);
    expect(session.steelAt('s2', 0).heights).toEqual(result.before.heights);
    const running = copyMap(result.before);
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
    const session = await worked(job, bowl);
    const result = session.results.get('s2')!;
    const coarse = result.after;
    const fine = session.loupe(job, 's2', Infinity, { minX: -4.1, minY: -3.2, maxX: 5.3, maxY: 4.4 }, coarse.cell / 4);
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
    const earlier = session.loupe(job, 's2', half, { minX: -4.1, minY: -3.2, maxX: 5.3, maxY: 4.4 }, coarse.cell / 4);
    let standing = 0;
    earlier.heights.forEach((h, o) => {
      expect(h).toBeGreaterThanOrEqual(fine.heights[o]! - 1e-4);
      if (h > fine.heights[o]! + 0.01) standing++;
    });
    expect(standing).toBeGreaterThan(0);
    expect(() => new PlanSession().loupe(job, 's2', 0, { minX: 0, minY: 0, maxX: 1, maxY: 1 }, 0.1)).toThrow('no part');
  });

  it('a change makes its step and the later ones stale, and only those are worked out again', async () => {
    const job = bowlJob();
    const session = await worked(job, bowl);
    const first = session.results.get('s1');
    const changed: Job = {
      ...job,
      steps: job.steps.map((s, i) => (i === 1 ? { ...s, values: { ...s.values, scallop: 0.2 } } : s)),
    };
    expect([session.isFresh(changed, 0), session.isFresh(changed, 1)]).toEqual([true, false]);
    await session.evaluate(changed, crewHere(), () => undefined);
    expect(session.results.get('s1')).toBe(first);
    expect(session.isFresh(changed, 1)).toBe(true);
    const earlier: Job = {
      ...changed,
      steps: changed.steps.map((s, i) => (i === 0 ? { ...s, values: { ...s.values, ap: 0.8 } } : s)),
    };
    expect([session.isFresh(earlier, 0), session.isFresh(earlier, 1)]).toEqual([false, false]);
  });

  it('called-off work throws, keeps what was done before, and can be taken up again', async () => {
    const job = bowlJob();
    const session = new PlanSession();
    session.piece.prepare(job, meshOf(bowl), 'part');
    const cancel = new CancelFlag();
    await expect(
      session.evaluate(job, crewOf([callHere], cancel), ({ stepId }) => {
        if (stepId === 's2') cancel.cancel();
      }),
    ).rejects.toMatchObject({ code: 'cancelled' });
    expect([...session.results.keys()]).toEqual(['s1']);
    await session.evaluate(job, crewHere(), () => undefined);
    expect(session.isFresh(job, 1)).toBe(true);
  });
});

describe('paths kept between visits', () => {
  it('tell how far a plan can be shown again, up to the first step that is another one now', async () => {
    const kept = new Map<string, never>();
    const cache = {
      get: (print: string) => Promise.resolve(kept.get(print)),
      put: (print: string, plan: unknown) => Promise.resolve(void kept.set(print, plan as never)),
    };
    const visit = (): PlanSession => {
      const session = new PlanSession(cache);
      session.piece.prepare(bowlJob(), meshOf(bowl), 'part');
      return session;
    };
    const first = visit();
    expect(await first.keptThrough(bowlJob())).toBe(-1);
    await first.evaluate(bowlJob(), crewHere(), () => undefined);
    const again = visit();
    expect(await again.keptThrough(bowlJob())).toBe(1);
    const job = bowlJob();
    job.steps[1]!.values['scallop'] = 0.04;
    expect(await again.keptThrough(job)).toBe(0);
    job.steps[0]!.values['ap'] = 0.9;
    expect(await again.keptThrough(job)).toBe(-1);
    await again.evaluate(bowlJob(), crewHere(), () => undefined);
    const [was, is] = [first, again].map((session) => session.results.get('s2')!.after.heights);
    expect(is).toEqual(was);
  });
});

describe('cells of the steel', () => {
  const cellWith = (scallop: number, cell: number | null = null): number => {
    const session = new PlanSession();
    const job = testJob([{ kind: 'parallel-passes', assemblyId: 't3', values: { scallop } }], 1, { cell });
    session.piece.prepare(job, meshOf(sheet([-80, -60, 80, 60], 40, -25, () => 0)), 'part');
    return session.piece.fullBlock.cell;
  };

  it('are half as wide where passes lie closer than they could show, and as the job says where it says so', () => {
    // ball of R 4: passes sqrt(8 R h) apart, 0.57 mm at 0.01 mm and 0.13 mm at 0.0005 mm
    const wide = cellWith(0.01);
    expect(160 * 120).toBeCloseTo(420_000 * wide * wide, 0);
    expect(cellWith(0.0005)).toBeCloseTo(wide / 2, 12);
    expect(cellWith(0.0005, 0.3)).toBe(0.3);
  });
});

describe('findings', () => {
  it('a holder that is too low is found, with the stick-out that would clear it', async () => {
    const deep = sheet([-40, -40, 40, 40], 2, -60, (x, y) => (Math.hypot(x, y) < 22 ? -40 : 0));
    const crib = testCrib();
    const short = { ...crib, assemblies: crib.assemblies.map((a) => (a.id === 't2' ? { ...a, stickOut: 30 } : a)) };
    const session = await worked(testJob([{ kind: 'level-roughing', assemblyId: 't2' }], 0, { crib: short }), deep);
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
    const clear = await worked(testJob([{ kind: 'level-roughing', assemblyId: 't2' }], 0, { crib: long }), deep);
    expect(clear.results.get('s1')!.figures.findings.filter((f) => f.kind === 'holder')).toEqual([]);
  });

  it('steel that reaches above the flutes is found as contact of the shank', async () => {
    const crib = testCrib();
    const stubby = { ...crib, cutters: crib.cutters.map((c) => (c.id === 'bull12' ? { ...c, APMX: 1 } : c)) };
    const job = testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { ap: 3 } }], 2, { crib: stubby });
    const session = await worked(job, bowl);
    expect(session.results.get('s1')!.figures.findings.map((f) => f.kind)).toContain('shank');
  });

  it('a block that does not hold the part is refused in words, and no step counts as fresh then', async () => {
    const job = bowlJob();
    const session = await worked(job, bowl);
    const small: Job = {
      ...job,
      blank: { kind: 'fixed', sizeX: 50, sizeY: 80, sizeZ: 60, below: 0, shiftX: 0, shiftY: 0 },
    };
    expect(() => session.piece.prepare(small, meshOf(bowl), 'part')).toThrowError(
      /stands out of the block by 5.000 mm in X/,
    );
    expect(session.isFresh(small, 0)).toBe(false);
    session.piece.prepare(job, meshOf(bowl), 'part');
    expect(session.isFresh(job, 0)).toBe(true);
  });
});

describe('release', () => {
  it('says yes to what was worked out, and the read-back steel equals the planned', async () => {
    const job = bowlJob();
    const session = await worked(job, bowl);
    const released = await release(job, session, crewHere());
    expect(released.verdicts.filter((v) => !v.ok)).toEqual([]);
    expect(released.fileName).toBe('program-first-side.nc');
    expect(released.text).toContain('T2 M6');
  });

  it('says no, and where, when a step has a finding', async () => {
    const crib = testCrib();
    const stubby = { ...crib, cutters: crib.cutters.map((c) => (c.id === 'bull12' ? { ...c, APMX: 1 } : c)) };
    const job = testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { ap: 3 } }], 2, { crib: stubby });
    const released = await release(job, await worked(job, bowl), crewHere());
    expect(released.ok).toBe(false);
    expect(released.verdicts[0]).toMatchObject({ id: 'findings', ok: false, at: { stepId: 's1' } });
  });

  it('refuses a plan with a stale step', async () => {
    const job = bowlJob();
    const session = await worked(job, bowl);
    const changed: Job = { ...job, steps: job.steps.map((s) => ({ ...s, values: { ...s.values, scallop: 0.3 } })) };
    await expect(release(changed, session, crewHere())).rejects.toBeInstanceOf(EsquisseError);
  });
});
