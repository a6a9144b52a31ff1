import type { Machine } from '../load/machine';
import type { Material } from '../load/material';
import type { BodyRole } from '../part/bodies';
import { kindOf } from '../strategy/registry';
import type { Crib } from '../tool/library';
import { withBodies } from './bodies';
import { type Job, parseJob, type Step } from './job';

/** What a new job begins with. */
export interface Beginning {
  readonly id: string;
  readonly name: string;
  /** File of the part, and what it holds. */
  readonly part: { readonly file: string; readonly hash: string };
  /** Further files: blanks and fixtures, in the frame of the part. */
  readonly others?: readonly { readonly file: string; readonly hash: string; readonly role: BodyRole }[];
  readonly material: Material;
  readonly machine: Machine;
  /** Name of a post definition. */
  readonly post: string;
  readonly crib: Crib;
  /** Taken with their values; heights and limits were those of another part. */
  readonly steps: readonly Step[];
}

/** Name of a new job's setup. */
export const FIRST_SETUP = 'setup 1';
/** Steel above a part that was not machined yet, mm: what facing takes off (common practice). */
const ABOVE_MM = 1;
/** Height above the block at which the cutter crosses freely, mm (common practice). */
const CROSSING_MM = 20;

/** A job that nobody has worked at yet: the part as in its file, in a box of its size, zero on top of the middle. */
export function newJob({ id, name, part, others = [], material, machine, post, crib, steps }: Beginning): Job {
  const alone = parseJob(
    {
      id,
      name,
      material,
      part,
      blank: { kind: 'offset', minX: 0, maxX: 0, minY: 0, maxY: 0, minZ: 0, maxZ: ABOVE_MM },
      setup: {
        name: FIRST_SETUP,
        workZero: { of: 'block', x: 'middle', y: 'middle', z: 'high' },
        workOffset: 'G54',
        safeHeight: CROSSING_MM,
        machine,
        post,
      },
      crib,
      steps: steps.map(freed),
    },
    'The new job',
  );
  return withBodies(alone, (job) => parseJob({ ...job, others }, 'The new job'));
}

/** A step without what held it to the part that it was made for. */
function freed(step: Step): Step {
  const heights = (kindOf(step.kind)?.fields ?? []).filter((f) => f.height).map((f) => [f.key, null] as const);
  return { ...step, values: { ...step.values, ...Object.fromEntries(heights) }, bound: undefined, limits: [] };
}
