import type { StepKind, Values } from './kind';

/** Whether a value goes over from a kind of step to another: it means the same in both. */
export function isCarried(to: StepKind, from: StepKind | undefined, house: Values, key: string): boolean {
  const own = [to, from].flatMap((kind) => kind?.fields.filter((f) => f.own).map((f) => f.key) ?? []);
  return key in house && !own.includes(key);
}

/** Values of another kind of step: its house values, with all that means the same in both and holds there. */
export function carriedValues(to: StepKind, from: StepKind | undefined, house: Values, old: Values): Values {
  const values: Record<string, Values[string]> = { ...house };
  for (const [key, value] of Object.entries(old))
    if (isCarried(to, from, house, key) && 'values' in to.check({ ...values, [key]: value })) values[key] = value;
  return values;
}
