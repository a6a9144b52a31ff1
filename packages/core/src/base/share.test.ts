import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shared } from './share';

const plain = fc.jsonValue({ maxDepth: 4 });

/** All objects and arrays in a value. */
function branches(value: unknown): object[] {
  if (typeof value !== 'object' || value === null) return [];
  return [value, ...Object.values(value).flatMap(branches)];
}

describe('states that share what did not change', () => {
  it('are equal to what they were to be, whatever came before, and leave that as it was', () => {
    fc.assert(
      fc.property(plain, plain, (before, after) => {
        const was = structuredClone(before);
        expect(shared(before, after)).toEqual(after);
        expect(before).toEqual(was);
      }),
    );
  });

  it('an equal value is the earlier one itself', () => {
    fc.assert(
      fc.property(plain, (value) => {
        if (typeof value === 'object' && value !== null) expect(shared(value, structuredClone(value))).toBe(value);
      }),
    );
  });

  it('one changed leaf makes new only what holds it', () => {
    const tools = Array.from({ length: 300 }, (_, id) => ({ id, sizes: { DC: id, RE: [1, 2] } }));
    const before = { name: 'a', crib: { tools }, steps: [{ values: { ap: 2 } }] };
    const after = structuredClone(before);
    after.steps[0]!.values.ap = 3;
    const out = shared(before, after);
    expect(out).toEqual(after);
    expect(out.crib).toBe(before.crib);
    const old = new Set(branches(before));
    expect(branches(out).filter((b) => !old.has(b))).toHaveLength(4);
  });
});
