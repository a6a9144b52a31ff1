import { describe, expect, it } from 'vitest';
import { lengthsTold } from '../../test/expected';
import { finished } from '../../test/finishing';
import { dome, saddle, sole, steppedBowl } from '../../test/grounds';
import { crewHere, type EndMill, type Soup } from '../../test/shapes';

const ball: EndMill = ['ball', 6, 3, 14, 5.6, 60];
const values = { scallop: 0.02, tolerance: 0.004 };
// other grounds: `proof/expected.proof.ts`
const grounds: [name: string, soup: Soup][] = [
  ['a saddle with a boss', saddle],
  ['a stepped bowl', steppedBowl],
];

describe('what a finishing step will come to', () => {
  it.each(grounds)(
    'over %s its length is told within 10 % and 20 mm, before it is planned',
    (_, soup) => lengthsTold(soup),
    120_000,
  );

  it.each([
    ['none', 1.35],
    ['between', 1.15],
  ])(
    'ridges of straight passes, more on slopes: %s, are told as they come out on slopes up to 68°',
    async (extra, within) => {
      const own = { ...values, extra, angleDeg: 30 };
      const { result, session } = await finished(sole, [{ kind: 'parallel-passes', cutter: ball, values: own }]);
      const told = (await session.expected('s2', crewHere()))!.ridges!;
      const real = result.figures.ridges!.all.p99;
      expect(told / real).toBeLessThan(within);
      expect(told / real).toBeGreaterThan(1 / within);
    },
  );

  it('nothing is told of a length that follows from steel which is not known', async () => {
    const { session } = await finished(dome, [{ kind: 'waterline', cutter: ball, values }]);
    expect((await session.expected('s1', crewHere()))?.length).toBeUndefined();
    expect((await session.expected('s1', crewHere()))?.levels?.count).toBeGreaterThan(3);
  });
});
