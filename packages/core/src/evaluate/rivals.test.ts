import { beforeAll, describe, expect, it } from 'vitest';
import { calculated, crewHere, cribOf, sheet, testJob } from '../../test/shapes';
import { kindOf } from '../strategy/registry';
import type { Rivals } from './rivals';
import type { Session } from './session';

/** A pocket of 52 by 36 mm, 14 deep. */
const pocket = sheet([-32, -24, 32, 24], 1, -20, (x, y) => (Math.abs(x) < 26 && Math.abs(y) < 18 ? -14 : 0));
const job = testJob(
  [
    { kind: 'steady-roughing', assemblyId: 'mill', values: { ap: 14, sideAllowance: 0.7, stairs: null } },
    { kind: 'parallel-passes', assemblyId: 'ball', values: { scallop: 0.1, mostSteel: 9 } },
  ],
  0,
  { cell: 0.25, crib: cribOf({ mill: ['flat', 10, 0, 30, 9, 50], ball: ['ball', 8, 4, 20, 7, 45] }) },
);

describe('a step beside its rival kind', () => {
  let session: Session;
  let found: Rivals;
  beforeAll(async () => {
    session = await calculated(job, pocket);
    found = await session.rivals('s1', crewHere(), () => undefined);
  });

  it('is held against the same engagement: steady load stays below it, loops do not', () => {
    const { own, other, asked } = found;
    expect(asked).toBeCloseTo(50, 0);
    expect(own.kind).toBe('steady-roughing');
    expect(own.above).toBeLessThan(0.02);
    expect(own.p50).toBeLessThan(1.1 * asked);
    expect(other.above).toBeGreaterThan(0.5);
    expect(other.most).toBeGreaterThan(150);
    // all of the steel is gone either way, and neither touches what it must not
    expect([own.findings, other.findings]).toEqual([0, 0]);
    expect(own.way).toBeGreaterThan(0.98);
    expect(own.way).toBeLessThan(1.25);
  });

  it('carries over what means the same, begins with depth and width of its own, and changes nothing of the job', async () => {
    expect(found.values['sideAllowance']).toBe(0.7);
    expect(found.values['ap']).toBe(kindOf('level-roughing')!.house(session.snapshot.step('s1')!.shape)['ap']);
    expect(session.snapshot.job).toBe(job);
    expect(session.isFresh('s1')).toBe(true);
    expect(session.results.get('s1')!.figures.time).toBe(found.own.time);
    // taken, it comes to what was told
    const taken = await calculated(
      { ...job, steps: [{ ...job.steps[0]!, kind: found.other.kind, values: found.values }] },
      pocket,
    );
    expect(taken.results.get('s1')!.figures.time).toBeCloseTo(found.other.time, 6);
  });

  it('is refused where there is none, or where the step is not up to date', async () => {
    await expect(session.rivals('s2', crewHere(), () => undefined)).rejects.toThrow('no other kind');
    session.take(
      { ...job, steps: [{ ...job.steps[0]!, values: { ...job.steps[0]!.values, ap: 7 } }] },
      session.snapshot.piece,
    );
    await expect(session.rivals('s1', crewHere(), () => undefined)).rejects.toThrow('once the step is calculated');
  });
});
