import type { Step } from '../src/job/job';
import { Motion } from '../src/path/toolpath';
import type { StepResult } from '../src/evaluate/result';
import { calculated, cribOf, type EndMill, type Soup, testJob } from './shapes';

/** Roughed by a bull-nose of 8 mm, and then finished: what the last step came to, and the part in the frame of the work zero. */
export async function finished(
  soup: Soup,
  steps: { kind: string; cutter: EndMill; values?: Record<string, unknown> }[],
  {
    skin = 0.3,
    cell = 0.2,
    limits = [],
    safe = false,
    gap = null,
  }: {
    skin?: number;
    cell?: number;
    limits?: Step['limits'];
    safe?: boolean | readonly boolean[];
    gap?: number | null;
  } = {},
) {
  const job = testJob(
    [
      {
        kind: 'level-roughing',
        assemblyId: 'rough',
        values: { sideAllowance: skin, floorAllowance: skin, stairs: 0.4 },
      },
      ...steps.map(({ kind, values }, k) => ({ kind, assemblyId: `finish${k}`, values: { mostSteel: 3, ...values } })),
    ],
    0,
    {
      cell,
      crib: cribOf({
        rough: ['bull', 8, 1, 22, 7.6, 40],
        ...Object.fromEntries(steps.map(({ cutter }, k) => [`finish${k}`, cutter])),
      }),
    },
  );
  for (const [k, step] of job.steps.slice(1).entries()) {
    step.limits = limits;
    step.travel = { ...step.travel, gap };
    if (typeof safe === 'boolean' ? safe : safe[k]) step.travel = { ...step.travel, reach: 'safe' };
  }
  const session = await calculated(job, soup);
  const results = steps.map((_, k) => session.results.get(`s${k + 2}`)!);
  return { result: results.at(-1)!, results, part: session.snapshot.piece.part, session };
}

/** A cut from one place of the tip to the next, mm. */
export interface Cut {
  readonly ax: number;
  readonly ay: number;
  readonly az: number;
  readonly x: number;
  readonly y: number;
  readonly z: number;
}
export const cuts = ({ path: { x, y, z, kind } }: StepResult): Cut[] =>
  [...x].flatMap((_, k) =>
    kind[k] === Motion.cut ? [{ ax: x[k - 1]!, ay: y[k - 1]!, az: z[k - 1]!, x: x[k]!, y: y[k]!, z: z[k]! }] : [],
  );

export const lengthOf = (all: readonly Cut[]): number =>
  all.reduce((sum, c) => sum + Math.hypot(c.x - c.ax, c.y - c.ay, c.z - c.az), 0);
