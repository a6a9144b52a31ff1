import type { Job } from './job';

function blankBodies({ part, others }: Job): number {
  const roles = [...others.map((o) => o.role), ...Object.values(part?.roles ?? {})];
  return roles.filter((role) => role === 'blank').length;
}

/**
 * A job whose bodies were given other roles: when a body becomes the blank the work begins with it, as it is. What the blank
 * was before is not kept.
 */
export function withBodies(before: Job, change: (job: Job) => Job): Job {
  const after = change(before);
  const isNew = blankBodies(after) > blankBodies(before);
  return isNew && after.blank.kind !== 'body' ? { ...after, blank: { kind: 'body', allowance: 0 } } : after;
}
