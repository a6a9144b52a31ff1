import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib } from '../../test/shapes';
import { toolsOf } from '../tool/library';
import { shapeOf, type ToolShape } from '../tool/shape';
import { beyondBound, houseOf, type HouseValues, houseValuesSchema, withHouseValue } from './houseValues';
import { kindOf, STEP_KINDS } from './registry';

const kind = kindOf('level-roughing')!;
const [flat25, bull12] = toolsOf(testCrib()).map(shapeOf) as [ToolShape, ToolShape];

describe("a shop's own values", () => {
  it('hold for their kind of step and cutter only; what is relative follows each cutter', () => {
    const shop = withHouseValue({}, kind.id, 'bull', 'ap', '0.2 DC');
    expect(houseOf(kind, bull12, shop)['ap']).toBeCloseTo(2.4, 9);
    expect(houseOf(kind, flat25, shop)).toEqual(kind.house(flat25));
    expect(houseOf(kindOf('rest-roughing')!, bull12, shop)).toEqual(kindOf('rest-roughing')!.house(bull12));
    const wider = { ...bull12, DC: 20 };
    expect(houseOf(kind, wider, shop)['ap']).toBeCloseTo(4, 9);
    expect(houseOf(kind, bull12, withHouseValue(shop, kind.id, 'bull', 'ap', undefined))).toEqual(kind.house(bull12));
  });

  it('a choice is kept as the word that it is', () => {
    const shop = withHouseValue({}, kind.id, 'bull', 'direction', 'conventional');
    expect(houseOf(kind, bull12, shop)['direction']).toBe('conventional');
  });

  it('whatever stands in the lists, a step begins with values that its kind takes', () => {
    const value = fc.oneof(fc.double(), fc.string(), fc.boolean(), fc.constant(null), fc.constant('0.3 DC'));
    const key = fc.oneof(fc.constantFrom(...kind.fields.map((f) => f.key)), fc.string());
    fc.assert(
      fc.property(fc.dictionary(key, value), (own) => {
        const shop: HouseValues = { [kind.id]: { bull: own } };
        expect(kind.check(houseOf(kind, bull12, shop))).toHaveProperty('values');
      }),
    );
    expect(houseValuesSchema.safeParse({ [kind.id]: { bull: { ap: '0.2 DC' } } }).success).toBe(true);
    expect(houseValuesSchema.safeParse({ [kind.id]: { spoon: { ap: 2 } } }).success).toBe(false);
  });

  it('nothing begins beyond what the cutter bears, and always with values that the kind takes', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STEP_KINDS),
        fc.double({ min: 0.001, max: 3, noNaN: true }),
        fc.double({ min: 0.001, max: 3, noNaN: true }),
        fc.double({ min: 0.1, max: 30, noNaN: true }),
        (kind, mostAp, mostAe, RMPX) => {
          const shape = { ...shapeOf(toolsOf(testCrib())[0]!), mostAp, mostAe, RMPX };
          const house = houseOf(kind, shape);
          expect(kind.check(house)).toHaveProperty('values');
          for (const field of kind.fields) {
            const most = field.boundBy && shape[field.boundBy];
            if (most === undefined || !('values' in kind.check({ ...house, [field.key]: most }))) continue;
            expect(beyondBound(field, house[field.key], shape)).toBeUndefined();
          }
        },
      ),
    );
  });
});
