import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { testJob } from '../../test/shapes';
import { followFaces } from './followFaces';

const job = testJob([
  { kind: 'level-roughing', assemblyId: 't2', values: { top: -2, bottom: -12.5 } },
  { kind: 'level-roughing', assemblyId: 't2', values: { bottom: -20 } },
]);

describe('heights of steps follow their faces', () => {
  it('a floor that a new revision lowers takes the height that was set from it along, and nothing else', () => {
    const { job: moved, followed } = followFaces(job, [{ from: 17.5, to: 15 }], 30, 30);
    expect(moved.steps[0]!.values).toMatchObject({ top: -2, bottom: -15 });
    expect(moved.steps[1]).toEqual(job.steps[1]);
    expect(followed).toEqual([expect.objectContaining({ stepId: 's1', from: -12.5, to: -15 })]);
  });

  it('a zero that moves by d moves every height that agrees with a level by -d; without levels nothing moves', () => {
    fc.assert(
      fc.property(numberIn(-40, 40), (d) => {
        const levels = [28, 17.5, 10].map((z) => ({ from: z, to: z }));
        const { values } = followFaces(job, levels, 30, 30 + d).job.steps[0]!;
        expect(values['top']).toBeCloseTo(-2 - d, 3);
        expect(values['bottom']).toBeCloseTo(-12.5 - d, 3);
      }),
    );
    expect(followFaces(job, [], 30, 25)).toEqual({ job, followed: [] });
    expect(followFaces(job, [{ from: 17.5, to: 17.5 }], 30, 30).job).toBe(job);
  });
});
