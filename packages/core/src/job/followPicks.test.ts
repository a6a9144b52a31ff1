import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket, testJob } from '../../test/shapes';
import { facesPicked, pickOfFace, togglePick } from '../survey/facePicks';
import { compareRevisions } from '../survey/revision';
import { middleOf } from '../survey/surface';
import { followFacePicks } from './followPicks';
import type { FaceLimit, Job } from './job';

const pocket = (depth: number) => meshOf(squarePocket(30, 20, depth, -25));
const floorOf = (mesh: ReturnType<typeof pocket>, depth: number): number =>
  [...Array(mesh.indices.length / 3).keys()].find((t) => Math.abs(middleOf(mesh, t)[2] + depth) < 1e-9)!;

function jobHeldBy(faces: FaceLimit['faces']): Job {
  const job = testJob([{ kind: 'parallel-passes', assemblyId: 't3', values: {} }], 0);
  job.steps[0]!.limits = [{ kind: 'faces', faces }];
  return job;
}

describe('picked faces', () => {
  it('go with their face where a new revision moves it, and stay where it does not', () => {
    fc.assert(
      fc.property(fc.double({ min: 4, max: 16, noNaN: true }), (depth) => {
        fc.pre(Math.abs(depth - 10) > 0.1);
        const [before, after] = [pocket(10), pocket(depth)];
        const job = jobHeldBy([pickOfFace(before, floorOf(before, 10))]);
        const { pairs } = compareRevisions(before, after);
        const { job: moved, followed } = followFacePicks(job, before, after, pairs);
        const [limit] = moved.steps[0]!.limits as FaceLimit[];
        const { marks, lost } = facesPicked(after, limit!.faces);
        expect(lost).toBe(0);
        marks.forEach((mark, t) => expect(mark).toBe(Number(Math.abs(middleOf(after, t)[2] + depth) < 1e-9)));
        expect(followed).toHaveLength(1);
        expect(followed[0]!.by).toBeCloseTo(Math.abs(depth - 10), 6);
        const same = compareRevisions(before, pocket(10)).pairs;
        expect(followFacePicks(job, before, pocket(10), same).job).toBe(job);
      }),
      { numRuns: 20 },
    );
  });

  it('of a face that is gone are told as lost, and not taken for another face at that place', () => {
    const before = pocket(10);
    const job = jobHeldBy([pickOfFace(before, floorOf(before, 10))]);
    const after = meshOf(squarePocket(30, 5, 4, -25));
    const { job: moved, followed } = followFacePicks(job, before, after, compareRevisions(before, after).pairs);
    const [limit] = moved.steps[0]!.limits as FaceLimit[];
    expect(facesPicked(after, limit!.faces).lost).toBe(1);
    // and the same file again does not bring it back by itself: it is to be picked
    expect(facesPicked(before, limit!.faces).lost).toBe(1);
    expect(followed).toEqual([{ stepId: 's1', step: job.steps[0]!.name, source: 'picked faces' }]);
  });

  it('a face picked twice is not picked, whichever of its triangles was meant', () => {
    const mesh = pocket(10);
    const floor = [...Array(mesh.indices.length / 3).keys()].filter((t) => Math.abs(middleOf(mesh, t)[2] + 10) < 1e-9);
    expect(floor).toHaveLength(2);
    const once = togglePick(mesh, [], floor[0]!);
    expect(togglePick(mesh, once, floor[1]!)).toEqual([]);
    expect(togglePick(mesh, once, 0)).toHaveLength(2);
  });
});
