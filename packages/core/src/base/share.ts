/**
 * The later of two plain values with every part that is equal in the earlier one taken from there, so that what did not
 * change is held once however many states are kept.
 */
export function shared<T>(before: unknown, after: T): T {
  if (Object.is(before, after) || !isBranch(before) || !isBranch(after)) return after;
  if (Array.isArray(before) !== Array.isArray(after)) return after;
  const keys = Object.keys(after);
  const old = before as Readonly<Record<string, unknown>>;
  let isSame = keys.length === Object.keys(before).length;
  const entries = keys.map((key): [string, unknown] => {
    const value = (after as Readonly<Record<string, unknown>>)[key];
    const isKnown = Object.hasOwn(old, key);
    const part = isKnown ? shared(old[key], value) : value;
    isSame &&= isKnown && Object.is(part, old[key]);
    return [key, part];
  });
  if (isSame) return before as T;
  return (Array.isArray(after) ? entries.map(([, part]) => part) : Object.fromEntries(entries)) as T;
}

function isBranch(value: unknown): value is object {
  return typeof value === 'object' && value !== null;
}
