import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cribOf, testCrib } from '../../test/shapes';
import { counterpart, differences, withTool } from './exchange';
import { cribSchema, toolsOf } from './library';
import { shapeOf } from './shape';

const shop = cribSchema.parse(
  cribOf({ a: ['flat', 10, 0, 20, 9, 40], b: ['ball', 6, 3, 12, 5, 40], c: ['bull', 12, 1, 20, 11, 60] }),
);

describe('between the shop’s crib and a job’s', () => {
  it('whatever is taken, and however often, the crib holds, and what was there is as it was', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(2), { maxLength: 6 }), (picks) => {
        let crib = cribSchema.parse(testCrib());
        const before = toolsOf(crib);
        for (const k of picks) {
          const tool = toolsOf(shop)[k]!;
          const next = withTool(crib, tool);
          const taken = toolsOf(next.crib).find((t) => t.assembly.id === next.id)!;
          expect(differences(taken, tool)).toEqual([]);
          expect(shapeOf(taken)).toEqual(shapeOf(tool));
          crib = cribSchema.parse(next.crib);
        }
        expect(crib.assemblies).toHaveLength(before.length + picks.length);
        for (const tool of before) expect(toolsOf(crib).find((t) => t.assembly.id === tool.assembly.id)).toEqual(tool);
      }),
    );
  });

  it('taken in place of one it keeps that one’s id, so that steps cut with it on', () => {
    const tool = toolsOf(shop)[1]!;
    const { crib, id } = withTool(cribSchema.parse(testCrib()), tool, 't2');
    expect(id).toBe('t2');
    const now = toolsOf(cribSchema.parse(crib)).find((t) => t.assembly.id === 't2')!;
    expect(differences(now, tool)).toEqual([]);
    expect(crib.assemblies).toHaveLength(testCrib().assemblies.length);
  });

  it('a difference is told with what it is here and there; speeds are a step’s affair', () => {
    const [, ball] = toolsOf(shop);
    const worn = {
      ...ball!,
      cutter: { ...ball!.cutter, DC: 5.98 },
      assembly: { ...ball!.assembly, stickOut: 44, n: 1, fz: 2 },
    };
    expect(differences(worn, ball!)).toEqual([
      { what: 'DC', here: '5.98', there: '6' },
      { what: 'stick-out', here: '44', there: '40' },
    ]);
    expect(counterpart(shop, worn)!.assembly.id).toBe('b');
  });
});
