import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calculated, crewHere, meshOf, squarePocket, testCrib, testJob } from '../../test/shapes';
import { Motion } from '../path/toolpath';
import { POSTS } from '../post/definition';
import { writeProgram } from '../post/writer';
import { asText, postedSteps, release } from '../release/release';
import { toolOf } from '../tool/library';
import { coolantDoubt, houseCoolant } from './coolant';
import { cuttingData } from './cuttingData';
import { cuttingOf, stepCuttingSchema, STRENGTHS } from './stepCutting';

const tool = toolOf(testCrib(), 't1')!;
const { material, setup } = testJob([]);
const at = { cut: 'rough', ae: 3, ap: 0.8 } as const;
const conditions = { material, machine: setup.machine, stiffness: 1 };
const of = (cutting: object, machine = setup.machine): ReturnType<typeof cuttingOf> =>
  cuttingOf(stepCuttingSchema.parse(cutting), tool, at, { ...conditions, machine });

describe('speed and feeds of a step', () => {
  it('are those of the crib to begin with, and of its own cut when it asks for them', () => {
    expect(of({})).toMatchObject({ n: tool.assembly.n });
    expect(of({}).vf).toBeCloseTo(tool.assembly.fz * tool.cutter.ZEFP * tool.assembly.n, 6);
    const d = cuttingData({ cutter: tool.cutter, stickOut: tool.assembly.stickOut, ...conditions, ...at });
    const own = of({ from: 'cut' });
    expect(own.n).toBe(Math.round(d.n.value));
    expect(own.fz).toBeCloseTo(d.fz.value, 3);
  });

  it('either quantity of a pair gives the other: vf the feed per tooth, vc the speed (ISO 3002)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 50, max: 3000 }), fc.integer({ min: 40, max: 300 }), (vf, vc) => {
        const set = of({ own: { vf, vc } });
        expect(set.vf).toBe(vf);
        expect(set.fz * tool.cutter.ZEFP * set.n).toBeCloseTo(vf, 6);
        expect((Math.PI * set.Deff * set.n) / 1000).toBeCloseTo(vc, -1);
        expect(of({ own: { fz: set.fz, n: set.n } }).vf).toBeCloseTo(vf, 6);
      }),
    );
  });

  it('the other feeds are shares of the cutting one, each set alone without moving another', () => {
    const feeds = ['entry', 'plunge', 'link', 'back'] as const;
    const plain = of({});
    expect([plain.entry, plain.plunge, plain.link].map((f) => f / plain.vf)).toEqual([0.4, 0.4, 1]);
    const own = of({ from: 'cut' });
    expect([own.entry, own.plunge, own.link].map((f) => f / own.vf)).toEqual([0.4, 0.25, 1]);
    for (const key of feeds) {
      const set = of({ own: { [key]: 777, ...(key === 'link' ? { back: plain.back } : {}) } });
      for (const other of feeds) expect(set[other]).toBe(other === key ? 777 : plain[other]);
    }
  });

  it('from gentle to full nothing gets slower, and the usual one changes nothing', () => {
    for (const from of ['cut', 'crib']) {
      const all = STRENGTHS.map((_, strength) => of({ from, strength }));
      for (let i = 1; i < all.length; i++) {
        expect(all[i]!.n).toBeGreaterThanOrEqual(all[i - 1]!.n);
        expect(all[i]!.vf).toBeGreaterThan(all[i - 1]!.vf);
      }
      expect(all[2]).toEqual(of({ from }));
    }
  });

  it('the machine holds back what follows from a cut; what a person says is posted as it is', () => {
    const slow = { ...setup.machine, maxSpindle: 1000, maxFeed: 200 };
    expect(of({ from: 'cut' }, slow).n).toBe(1000);
    expect(of({ from: 'cut' }, slow).vf).toBeLessThanOrEqual(200.01);
    expect(of({ from: 'cut' }, slow).limit).toMatch(/spindle/);
    expect(of({ own: { n: 5000 } }, slow).n).toBe(5000);
    // a cutting speed is turned as fast as the spindle can, and that is said
    expect(of({ own: { vc: 400 } }, slow)).toMatchObject({ n: 1000, limit: expect.stringMatching(/spindle/) });
    expect(of({ own: { n: 5000 } }, slow).limit).toBeUndefined();
  });

  it('go to the motions that they are for: straight down, on a slope, in air, and straight up', async () => {
    const job = testJob([{ kind: 'level-roughing', assemblyId: 't1' }]);
    const own = { vf: 801, entry: 202, plunge: 103, link: 1504, back: 2005 };
    const steps = job.steps.map((s) => ({ ...s, cutting: { ...s.cutting, own } }));
    const session = await calculated({ ...job, steps }, meshOf(squarePocket(30, 20, 10, -25)));
    const { path } = session.results.get('s1')!;
    const seen = new Set<number>();
    for (let i = 1; i < path.x.length; i++) {
      if (path.kind[i] === Motion.rapid) continue;
      const [dx, dy, dz] = [path.x[i]! - path.x[i - 1]!, path.y[i]! - path.y[i - 1]!, path.z[i]! - path.z[i - 1]!];
      const isUpright = dx === 0 && dy === 0;
      const wanted =
        path.kind[i] === Motion.cut
          ? 801
          : path.kind[i] === Motion.entry
            ? isUpright && dz < 0
              ? 103
              : 202
            : isUpright && dz > 0
              ? 2005
              : 1504;
      expect(path.feed[i]).toBe(wanted);
      seen.add(wanted);
    }
    expect(seen.size).toBeGreaterThanOrEqual(3);
  });
});

describe('coolant', () => {
  it('is air on hard steel and for what cracks, flood else; flood there is doubted (common practice)', () => {
    expect(houseCoolant({ group: 'H' }, 'HC')).toBe('air');
    expect(houseCoolant({ group: 'P' }, 'BH')).toBe('air');
    expect(houseCoolant({ group: 'P' }, 'HC')).toBe('flood');
    expect(coolantDoubt('flood', { group: 'H' }, 'HC')).toMatch(/hard steel/);
    expect(coolantDoubt('air', { group: 'H' }, 'HC')).toBeUndefined();
    expect(coolantDoubt('flood', { group: 'P' }, 'HC')).toBeUndefined();
  });

  it('of each step is what the program switches on; off steps are in no program', async () => {
    const job = testJob(
      [0, 1, 2, 3].map((k) => ({
        kind: 'level-roughing',
        assemblyId: 't1',
        values: { sideAllowance: 1.5 - 0.4 * k, floorAllowance: 1.5 - 0.4 * k },
      })),
    );
    const kinds = ['flood', 'mist', 'none', 'air'] as const;
    const steps = job.steps.map((s, k) => ({
      ...s,
      coolant: kinds[k]!,
      enabled: k !== 1,
      note: k === 0 ? 'clamp (left) first' : '',
    }));
    const session = await calculated({ ...job, steps }, meshOf(squarePocket(30, 20, 10, -25)));
    const posted = postedSteps(session, session.snapshot);
    expect(posted.map((p) => p.at.step.id)).toEqual(['s1', 's3', 's4']);
    expect(posted.map((p) => [p.at.index, p.at.number])).toEqual([
      [0, 1],
      [1, 3],
      [2, 4],
    ]);
    const released = await release(session, crewHere());
    const modes = released.verdicts.find((v) => v.id === 'modes')!;
    expect(modes.ok).toBe(true);
    expect(modes.text).toContain('the control has no word for air: switch it on by hand');
    const { text } = writeProgram({ name: 'P', number: 1234, workOffset: 'G54' }, posted.map(asText), POSTS[0]!);
    const lines = text.split('\n');
    expect(lines.slice(0, 3)).toEqual(['%', 'O1234', '(P)']);
    expect(lines).toContain('(clamp  left  first)');
    expect(lines.filter((l) => /^M[789]$|coolant/.test(l))).toEqual(['M8', 'M9', '(coolant by hand: air)', 'M9']);
  });
});
