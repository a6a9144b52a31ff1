import { kindOf } from '../strategy/registry';
import type { RevisionReport } from '../survey/revision';
import type { Job } from './job';

/** A step's height this near to a level face was taken from it, mm. */
export const TAKEN_MM = 0.011;

/** A height of a step that went with its face. */
export interface Followed {
  stepId: string;
  step: string;
  label: string;
  from: number;
  to: number;
}

/**
 * Moves the heights in a job's steps with the level faces that they agree with, when a new revision of the part or another
 * work zero moved those.
 *
 * @param zeroBefore height of the work zero in the laid frame before and after, mm
 */
export function followFaces(
  job: Job,
  levels: RevisionReport['levels'],
  zeroBefore: number,
  zeroAfter: number,
): { job: Job; followed: Followed[] } {
  const followed: Followed[] = [];
  const steps = job.steps.map((step) => {
    const values = { ...step.values };
    for (const field of kindOf(step.kind)?.fields ?? []) {
      const value = values[field.key];
      // what is bound goes with what it is bound to
      if (!field.height || typeof value !== 'number' || step.bound?.[field.key]) continue;
      const [level, ...others] = levels.filter((l) => Math.abs(l.from - zeroBefore - value) < TAKEN_MM);
      // of faces of one height that went apart it is not known which was meant
      if (!level || others.some((o) => Math.abs(o.to - level.to) > TAKEN_MM)) continue;
      const to = Math.round((level.to - zeroAfter) * 1e4) / 1e4;
      if (Math.abs(to - value) < 1e-6) continue;
      values[field.key] = to;
      followed.push({ stepId: step.id, step: step.name, label: field.label, from: value, to });
    }
    return { ...step, values };
  });
  return followed.length > 0 ? { job: { ...job, steps }, followed } : { job, followed };
}
