import '@angular/compiler';
import { advisedStickOut, type StepFigures } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { cribOf, testJob } from '../../../../../packages/core/test/shapes';
import { reachWays, withDivided, withLonger, withSafe } from './reachWays';

const job = testJob(
  [
    { kind: 'level-roughing', assemblyId: 'rough' },
    { kind: 'waterline', assemblyId: 'short' },
  ],
  0,
  { crib: cribOf({ rough: ['bull', 8, 1, 22, 7.6, 40], short: ['ball', 6, 3, 12, 5.6, 22] }) },
);
const [rough, finish] = [job.steps[0]!, job.steps[1]!];
/** A path of 100 mm: a quarter of it wants up to 10 mm, half of it 20, and the rest 30. */
const reach = Array.from({ length: 30 }, (_, k) => ({ 9: 25, 19: 50, 29: 25 })[k] ?? 0);
const figures = { time: 600, neededStickOut: 30, reach } as unknown as StepFigures;

describe('ways out where a holder is too low', () => {
  it('a wall of 49.9 mm is done by a cutter that stands out 55', () => {
    expect(advisedStickOut(49.9)).toBe(55);
  });

  it('what the assembly clears is told by its share of the length, and a longer one by its margin', () => {
    const ways = reachWays(job, finish, figures)!;
    expect(ways.share).toBeCloseTo(0.75, 9);
    expect(ways.safeTime).toBeCloseTo(450, 9);
    expect(ways.longer).toMatchObject({ stickOut: 35 });
    const longer = withLonger(job, finish, ways.longer!);
    expect(longer.crib.assemblies.find((a) => a.id === 'short')!.stickOut).toBe(35);
  });

  it('a shank that touches is not helped by standing out farther', () => {
    const ways = reachWays(job, finish, { ...figures, neededStickOut: 15, reach: reach.slice(0, 15) })!;
    expect(ways).toMatchObject({ isHolder: false, longer: undefined });
  });

  it('a finishing step is divided: it keeps to what clears, its like takes what edges, shank and holder left', () => {
    const ways = reachWays(job, finish, figures)!;
    const divided = withDivided(job, finish, ways.longer!, {})!;
    const [, first, second] = divided.job.steps;
    expect(first!.travel.reach).toBe('safe');
    expect(second).toMatchObject({ id: divided.stepId, kind: 'waterline' });
    expect(second!.travel.reach).toBe('whole');
    expect(second!.values).toMatchObject({ restOf: 'short', restBy: 'assembly', scallop: finish.values['scallop'] });
    const made = divided.job.crib.assemblies.find((a) => a.id === second!.assemblyId)!;
    expect(made).toMatchObject({ stickOut: 35, cutterId: 'cutter-short' });
    expect(job.crib.assemblies.map((a) => a.number)).not.toContain(made.number);
  });

  it('a roughing step gets a rest roughing behind it, with its allowances', () => {
    const ways = reachWays(job, rough, { ...figures, neededStickOut: 60, reach: [] })!;
    const second = withDivided(job, rough, ways.longer!, {})!.job.steps[1]!;
    expect(second.kind).toBe('rest-roughing');
    expect(second.values['sideAllowance']).toBe(rough.values['sideAllowance']);
  });

  it('all of it is planned again when that is wanted', () => {
    const safe = withSafe(job, 's2', true);
    expect(safe.steps[1]!.travel.reach).toBe('safe');
    expect(withSafe(safe, 's2', false).steps[1]!.travel.reach).toBe('whole');
  });
});
