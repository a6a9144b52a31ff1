import '@angular/compiler';
import type { Job } from '@esquisse/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testJob } from '../../../../../packages/core/test/shapes';
import type { StepSummary } from '../engine/views';
import { clock } from '../shared/numbers';
import { timeBefore } from '../state/planTime';
import { stripBlocks } from './layout';

const summary = (stepId: string, time: number): StepSummary =>
  ({ stepId, motions: 2, figures: { time, findings: [] } }) as unknown as StepSummary;
const measured = (text: string): number => 7 * text.length;
const jobOf = (cutters: readonly string[]): Job =>
  testJob(cutters.map((assemblyId) => ({ kind: 'facing', assemblyId })));
const laid = (job: Job, times: readonly number[], room: number) =>
  stripBlocks(
    job,
    {
      summaries: times.map((t, k) => summary(`s${k + 1}`, t)),
      fresh: [],
      workingId: undefined,
      isTold: true,
      magazine: undefined,
    },
    room,
    measured,
  );

describe('the blocks of the strip', () => {
  it('fill their room one behind the other, none narrower than its words; wider ones are as wide as their times', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 1, max: 1e5, noNaN: true }), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 50, max: 20_000 }),
        (times, room) => {
          const blocks = laid(jobOf(times.map(() => 't1')), times, room);
          const needed = blocks.map(
            (b) => 20 + 7 * Math.max(`${b.number} ${b.name}`.length, b.cutter.length, (b.time + b.leaves).length),
          );
          let at = 0;
          blocks.forEach((b, k) => {
            expect(b.left).toBeCloseTo(at, 6);
            expect(b.width).toBeGreaterThanOrEqual(needed[k]! - 1e-9);
            at += b.width;
          });
          expect(at).toBeCloseTo(
            Math.max(
              room,
              needed.reduce((a, b) => a + b, 0),
            ),
            5,
          );
          const free = blocks.map((b, k) => ({ b, k })).filter(({ b, k }) => b.width > needed[k]! + 1e-6);
          for (const { b, k } of free)
            expect(b.width / times[k]!).toBeCloseTo(free[0]!.b.width / times[free[0]!.k]!, 6);
        },
      ),
    );
  });

  it('mark each change of cutter, whose seconds count in the time of the plan', () => {
    const job = jobOf(['t1', 't1', 't2', 't1']);
    const blocks = laid(job, [10, 10, 10, 10], 1000);
    const s = job.setup.machine.toolChange;
    expect(blocks.map((b) => b.change)).toEqual([undefined, undefined, s, s]);
    const calculated = [summary('s1', 10), summary('s2', 10), summary('s3', 10)];
    expect(timeBefore(job, calculated)).toBe(30 + s);
    expect(timeBefore(job, calculated, 's3')).toBe(20 + s);
  });

  it('tell how long nobody has to come to the machine, once all is calculated: to the first cutter without a place, and from it on', () => {
    const job = jobOf(['t1', 't2', 't2', 't1']);
    const s = job.setup.machine.toolChange;
    const state = {
      summaries: [1, 2, 3, 4].map((k) => summary(`s${k}`, 100 * k)),
      fresh: ['s1', 's2', 's3', 's4'],
      workingId: undefined,
      isTold: true,
      magazine: undefined,
    };
    const told = (change: object): unknown[] =>
      stripBlocks(job, { ...state, ...change }, 1000, measured).map((b) => [b.isByHand, b.unattended]);
    const none = [false, ''];
    expect(told({})).toEqual([[false, clock(1000 + 2 * s)], none, none, none]);
    expect(told({ magazine: { places: 1, loaded: [] } })).toEqual([
      [false, clock(100)],
      [true, clock(500)],
      none,
      [true, clock(400)],
    ]);
    expect(told({ fresh: ['s1'] })).toEqual([none, none, none, none]);
  });
});
