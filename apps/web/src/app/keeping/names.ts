import type { Job } from '@esquisse/core';
import type { KeptJob } from './records';

/** An id that no other job has. */
export function newId(base: string): string {
  return `${base.slice(0, 40)}-${crypto.randomUUID().slice(0, 8)}`;
}

/** A job's name, with a number when jobs of that name are kept already. */
export function freeName(
  { name, setup }: { name: string; setup: Pick<Job['setup'], 'name'> },
  all: readonly KeptJob[],
): string {
  const taken = new Set(all.filter((k) => k.job.setup.name === setup.name).map((k) => k.job.name));
  let free = name;
  for (let n = 2; taken.has(free); n++) free = `${name} ${n}`;
  return free;
}
