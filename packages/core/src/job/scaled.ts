import type { Scale } from '../part/scale';
import type { Job } from './job';

/** A job with its part scaled otherwise, and a work zero that was picked on the part where its place is then. */
export function withScale(job: Job, scale: Scale): Job {
  if (!job.part) return job;
  const before = job.part.scale;
  const { workZero } = job.setup;
  const at = workZero.at.map((v, k) => (v * scale[k]!) / before[k]!) as [number, number, number];
  const setup = workZero.of === 'picked' ? { ...job.setup, workZero: { ...workZero, at } } : job.setup;
  return { ...job, setup, part: { ...job.part, scale } };
}
