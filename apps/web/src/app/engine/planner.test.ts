import { type Job, writeStl } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { squarePocket, testJob } from '../../../../../packages/core/test/shapes';
import { Planner } from './planner';

const DEPTH = 10;
/** A plate of 30 mm with a pocket, as a file. */
const plate = (depth: number): Uint8Array => writeStl(Float64Array.from(squarePocket(60, 40, depth, -30)));

function aPlanner(): Planner {
  return new Planner({
    paths: { get: () => Promise.resolve(undefined), put: () => Promise.resolve() } as never,
    meshes: { get: () => Promise.resolve(undefined), put: () => Promise.resolve() },
    readStep: () => Promise.reject(new Error('no STEP here')),
    stopStep: () => undefined,
  });
}

describe('another revision of the part', () => {
  it('takes a height along that is bound to a floor, even when the zero was moved since the planner heard of the job', async () => {
    const planner = aPlanner();
    const before = await planner.read('plate.stl', plate(DEPTH), 'mm');
    const plain = testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { bottom: -DEPTH - 0.2 } }]);
    const at = before.box.maxZ - DEPTH;
    const job: Job = {
      ...plain,
      part: { ...plain.part!, file: 'plate.stl', hash: before.hash },
      steps: plain.steps.map((s) => ({ ...s, bound: { bottom: { to: 'place', what: 'floor', at } } })),
    };
    planner.take(job, 1);
    const after = await planner.read('plate.stl', plate(DEPTH + 3), 'mm');
    const { workZero } = job.setup;
    for (const z of [workZero.z, 'low' as const]) {
      const now = { ...job, setup: { ...job.setup, workZero: { ...workZero, z } } };
      const next = { ...now, part: { ...job.part!, hash: after.hash } };
      const { values, bound } = planner.revised(now, next).steps[0]!;
      expect(bound!['bottom']!.at).toBeCloseTo(at - 3, 6);
      // the zero is at the part's top or underside, and both stay
      expect(values['bottom']).toBeCloseTo(-DEPTH - 0.2 - 3, 4);
    }
  });
});
