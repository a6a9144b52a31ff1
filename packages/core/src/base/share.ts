/**
 * The later of two plain values with every part that is equal in the earlier one taken from there, so that what did not
 * change is held once however many states are kept.
 */
export function shared<T>(before: unknown, after: T): T {
  if (Object.is(before, after) || !isBranch(before) || !isBranch(after)) return after;
  if (Array.isArray(before) !== Array.isArray(after)) return after;
  const keys = Object.keys(after);
  const old = before as Readonly<Record<string, unknown>>;
  const out: Record<string, unknown> = {};
  let isSame = keys.length === Object.keys(before).length;
  for (const key of keys) {
    const value = (after as Readonly<Record<string, unknown>>)[key];
    out[key] = key in old ? shared(old[key], value) : value;
    isSame &&= key in old && Object.is(out[key], old[key]);
  }
  if (isSame) return before as T;
  return (Array.isArray(after) ? keys.map((key) => out[key]) : out) as T;
}

function isBranch(value: unknown): value is object {
  return typeof value === 'object' && value !== null;
}
