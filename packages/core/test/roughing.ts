import { type Motion, type Toolpath } from '../src/path/toolpath';
import type { Job } from '../src/job/job';
import type { StepResult } from '../src/evaluate/result';
import { calculated, testCrib, testJob } from './shapes';

type Limits = Job['steps'][number]['limits'];

/** A part worked out with one step, on its own box as the block. */
export async function roughed(
  soup: number[],
  assemblyId: string,
  values: Record<string, unknown>,
  { above = 0, limits = [] as Limits, kind = 'level-roughing', crib = testCrib(), drilled = [] as Job['drilled'] } = {},
): Promise<StepResult> {
  const job = testJob([{ kind, assemblyId, values }], above, { cell: 0.2, crib, drilled });
  job.steps[0]!.limits = limits;
  return (await calculated(job, soup)).results.get('s1')!;
}

/** Highest steel above a height within a window. */
export function highestOver(
  { next: { after } }: StepResult,
  inside: (x: number, y: number) => number | undefined,
): number {
  let most = -Infinity;
  for (let o = 0; o < after.heights.length; o++) {
    const floor = inside(
      after.x0 + ((o % after.nx) + 0.5) * after.cell,
      after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell,
    );
    if (floor !== undefined) most = Math.max(most, after.heights[o]! - floor);
  }
  return most;
}

/** Every motion of a path with where it ends. */
export function each(path: Toolpath, see: (x: number, y: number, z: number, kind: Motion, k: number) => void): void {
  for (let k = 1; k < path.x.length; k++) see(path.x[k]!, path.y[k]!, path.z[k]!, path.kind[k]! as Motion, k);
}
