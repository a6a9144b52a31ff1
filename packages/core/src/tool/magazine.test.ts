import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib } from '../../test/shapes';
import { type Tool, toolsOf } from './library';
import { changedMagazine, type Loaded, madeOf, magazineChanges, magazineSchema, unattended } from './magazine';

const [first] = toolsOf(testCrib());
/** One of two different assemblies of a number. */
const toolOf = (number: number, isLong: boolean): Tool => ({
  ...first!,
  assembly: { ...first!.assembly, number, stickOut: isLong ? 80 : 60 },
});
const numbers = fc.uniqueArray(fc.integer({ min: 1, max: 9 }), { maxLength: 6 });
const tools = fc.tuple(numbers, fc.infiniteStream(fc.boolean())).map(([all, long]) => {
  return all.map((number) => toolOf(number, long.next().value as boolean));
});
const magazine = fc
  .record({ places: fc.integer({ min: 1, max: 7 }), tools, order: fc.infiniteStream(fc.nat()) })
  .map(({ places, tools: inIt, order }) => {
    const free = Array.from({ length: places }, (_, k) => k + 1);
    const loaded = inIt.slice(0, places).map((tool): Loaded => {
      const [place] = free.splice((order.next().value as number) % free.length, 1);
      return { place: place!, number: tool.assembly.number, made: madeOf(tool) };
    });
    return { places, loaded };
  });

describe('the magazine of a machine', () => {
  it('after the changes the job finds each of its tools once, or is told which find no place; fewer changes do not do', () => {
    fc.assert(
      fc.property(magazine, tools, (before, needed) => {
        const changes = magazineChanges(before, needed);
        const after = magazineSchema.parse(changedMagazine(before, changes));
        const there = needed.filter((t) =>
          after.loaded.some((l) => l.number === t.assembly.number && l.made === madeOf(t)),
        );
        expect(there).toHaveLength(needed.length - changes.lacking.length);
        expect(changes.lacking).toHaveLength(Math.max(0, needed.length - before.places));
        // what was right stays where it was
        for (const l of changes.ready) expect(after.loaded).toContainEqual(l);
        const missing = needed.length - changes.ready.length;
        expect(changes.in).toHaveLength(missing - changes.lacking.length);
        const others = changes.out.filter((l) => l.isOther).length;
        const free = before.places - before.loaded.length + others;
        expect(changes.out.length - others).toBe(
          Math.max(0, Math.min(missing, after.places - changes.ready.length) - free),
        );
        // and a second look finds nothing to do
        if (changes.lacking.length === 0)
          expect(magazineChanges(after, needed)).toMatchObject({ in: [], out: [], lacking: [] });
      }),
    );
  });

  it('the same number with another cutter, reach or stick-out is another tool', () => {
    const made = new Set(
      [{}, { APMX: 31 }, { DN: 5, LN: 40 }, { DN: 5, LN: 44 }, { ZEFP: 5 }, { name: 'another' }].map((change) =>
        madeOf({ ...first!, cutter: { ...first!.cutter, ...change } }),
      ),
    );
    expect(made.size).toBe(6);
    const before = { places: 3, loaded: [{ place: 2, number: 5, made: madeOf(toolOf(5, false)) }] };
    expect(magazineChanges(before, [toolOf(5, false)]).ready).toHaveLength(1);
    expect(magazineChanges(before, [toolOf(5, true)])).toMatchObject({
      ready: [],
      out: [{ place: 2, isOther: true }],
      in: [{ place: 1, number: 5 }],
    });
  });

  it('a place that holds two tools, a number that is two, and a place that is not there are refused', () => {
    const at = (place: number, number: number) => ({ place, number, made: 'x' });
    const is = (loaded: Loaded[]) => magazineSchema.safeParse({ places: 4, loaded }).success;
    expect(is([at(1, 1), at(4, 2)])).toBe(true);
    expect(is([at(1, 1), at(1, 2)])).toBe(false);
    expect(is([at(1, 1), at(2, 1)])).toBe(false);
    expect(is([at(5, 1)])).toBe(false);
  });

  it('what runs by itself: with a place for every tool all of it, else up to where a tool is put in or taken out by hand', () => {
    const run = fc.record({
      number: fc.integer({ min: 1, max: 5 }),
      seconds: fc.integer({ min: 1, max: 900 }),
      change: fc.integer({ min: 0, max: 20 }),
    });
    fc.assert(
      fc.property(
        fc.array(run, { minLength: 1, maxLength: 12 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 5 })),
        (runs, hands) => {
          const whole = runs.reduce((sum, r, k) => sum + r.seconds + (k > 0 ? r.change : 0), 0);
          expect(unattended(runs, new Set())).toEqual([{ first: 0, seconds: whole }]);
          const byHand = new Set(hands);
          const stretches = unattended(runs, byHand);
          const began = new Set(stretches.map((s) => s.first));
          // changes by hand are nobody's absence
          const changes = [...began].filter((k) => k > 0).reduce((sum, k) => sum + runs[k]!.change, 0);
          expect(stretches.reduce((sum, s) => sum + s.seconds, 0)).toBe(whole - changes);
          for (let k = 1; k < runs.length; k++) {
            const [from, to] = [runs[k - 1]!.number, runs[k]!.number];
            expect(began.has(k)).toBe(from !== to && (byHand.has(from) || byHand.has(to)));
          }
        },
      ),
    );
  });
});
