import { type Job, kindOf, type Step } from '@esquisse/core';

/** What is told of the parts of a job that are not steps. */
const WORDS: Partial<Record<keyof Job, string>> = {
  part: 'part',
  others: 'blank and fixture files',
  blank: 'blank',
  drilled: 'pre-drilled holes',
  crib: 'crib',
  material: 'material',
  setup: 'setup',
  name: 'name of the job',
};

/** What is told of the parts of a step that are not values of its kind. */
const STEP_WORDS: Partial<Record<keyof Step, string>> = {
  name: 'name of the step',
  enabled: 'step on or off',
  note: 'note of the step',
  group: 'heading of the step',
  cutting: 'speed and feeds',
  coolant: 'coolant',
  travel: 'travel',
  kind: 'kind of the step',
};

/** What differs between two neighbouring states of a job, in a few words. */
export function changeWords(before: Job, after: Job): string {
  if (before.steps !== after.steps) {
    const words = stepWords(before.steps, after.steps);
    if (words) return words;
  }
  const keys = (Object.keys(WORDS) as (keyof Job)[]).filter((key) => before[key] !== after[key]);
  return keys.length > 0 ? WORDS[keys[0]!]! : 'the last change';
}

function stepWords(before: readonly Step[], after: readonly Step[]): string | undefined {
  const had = new Map(before.map((s) => [s.id, s]));
  const has = new Map(after.map((s) => [s.id, s]));
  const added = after.find((s) => !had.has(s.id));
  if (added) return `step "${added.name}" added`;
  const removed = before.find((s) => !has.has(s.id));
  if (removed) return `step "${removed.name}" removed`;
  if (before.some((s, k) => s.id !== after[k]!.id)) return 'order of the steps';
  const changed = after.find((s) => had.get(s.id) !== s);
  if (!changed) return undefined;
  const was = had.get(changed.id)!;
  if (was.assemblyId !== changed.assemblyId) return 'cutter';
  if (was.limits !== changed.limits) return 'limits';
  for (const [what, words] of Object.entries(STEP_WORDS))
    if (was[what as keyof Step] !== changed[what as keyof Step]) return words;
  const key = Object.keys(changed.values).find((k) => was.values[k] !== changed.values[k]);
  return kindOf(changed.kind)?.fields.find((f) => f.key === key)?.label;
}
