import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, squarePocket, testJob } from '../../test/shapes';
import type { Point2 } from '../geometry/outline';
import { compareRevisions } from '../survey/revision';
import { followOutlines } from './followOutlines';
import type { Job, PlanLimit } from './job';

const square = (s: number): Point2[] => [
  [-s, -s],
  [s, -s],
  [s, s],
  [-s, s],
];

/** A step kept clear of the floor of a pocket, and held within a drawing. */
function jobFor(half: number): Job {
  const job = testJob([{ kind: 'level-roughing', assemblyId: 't2' }]);
  job.steps[0]!.limits = [
    { kind: 'clear', source: 'a face', points: square(half), distance: 1 },
    { kind: 'within', source: 'drawing.svg', points: square(half + 4), side: 'on', offset: 0 },
  ];
  return job;
}

describe('limits in plan follow the faces that they are the outline of', () => {
  it('a pocket that a new revision widens takes its outline along; a drawing stays', () => {
    fc.assert(
      fc.property(numberIn(-3, 3), (by) => {
        fc.pre(Math.abs(by) > 0.1);
        const before = meshOf(squarePocket(30, 20, 10, -20));
        const after = meshOf(squarePocket(30, 20 + by, 10, -20));
        const { pairs } = compareRevisions(before, after);
        const job = jobFor(20);
        const { job: moved, followed } = followOutlines(job, before, after, pairs);
        const [clear, drawing] = moved.steps[0]!.limits;
        expect(Math.max(...(clear as PlanLimit).points.flat().map(Math.abs))).toBeCloseTo(20 + by, 3);
        expect(drawing).toEqual(job.steps[0]!.limits[1]);
        expect(followed).toHaveLength(1);
        // its corners went farthest
        const farthest = by > 0 ? Math.SQRT2 * by : -by;
        expect(followed[0]!.by).toBeCloseTo(farthest, 2);
      }),
      { numRuns: 20 },
    );
  });

  it('nothing moves when nothing did, and what is not found again is told and stays', () => {
    const before = meshOf(squarePocket(30, 20, 10, -20));
    const job = jobFor(20);
    expect(followOutlines(job, before, before, compareRevisions(before, before).pairs)).toEqual({ job, followed: [] });
    const after = meshOf(squarePocket(30, 5, 10, -20));
    const lost = followOutlines(job, before, after, compareRevisions(before, after).pairs);
    expect(lost.job.steps[0]!.limits).toEqual(job.steps[0]!.limits);
    expect(lost.followed).toEqual([expect.objectContaining({ source: 'a face' })]);
    expect(lost.followed[0]!.by).toBeUndefined();
  });
});
