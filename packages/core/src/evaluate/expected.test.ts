import { describe, expect, it } from 'vitest';
import { lengthsTold } from '../../test/expected';
import { cuts, finished, lengthOf } from '../../test/finishing';
import type { StepResult } from './result';
import { dome, saddle, sole, steppedBowl } from '../../test/grounds';
import { calculated, crewHere, cribOf, type EndMill, type Soup, testJob } from '../../test/shapes';

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

  it.each<[string, Soup]>([...grounds, ['half a ball on a plate', dome], ['a shoe sole', sole]])(
    'roughing %s: levels, length and minutes are told to a fifth, from some of its levels',
    async (_, soup) => {
      const { session } = await finished(soup, [{ kind: 'parallel-passes', cutter: ball, values: { scallop: 0.2 } }]);
      const { path, figures } = session.results.get('s1')!;
      const told = (await session.expected('s1', crewHere()))!;
      const length = lengthOf(cuts({ path } as StepResult));
      expect(Math.abs(told.length! - length), `${told.length} ${length}`).toBeLessThan(0.15 * length + 40);
      expect(Math.abs(told.time! - figures.time), `${told.time} ${figures.time}`).toBeLessThan(0.2 * figures.time + 10);
      expect(told.levels!.count).toBeGreaterThan(3);
    },
  );

  it.each([
    ['flats', { smallestFlat: 20 }],
    ['facing', { ae: 3, pattern: 'auto' }],
    ['facing', { ae: 3, pattern: 'lines', angleDeg: 30 }],
  ])('%s %o: its lines are told as they are cut, and drawn at their heights', async (kind, own) => {
    const job = testJob([{ kind, assemblyId: 'mill', values: { mostSteel: 5, ...own } }], 2, {
      cell: 0.2,
      crib: cribOf({ mill: ['flat', 6, 0, 20, 5.6, 60] }),
    });
    if (kind === 'facing') delete job.steps[0]!.values['mostSteel' as never];
    const session = await calculated(job, steppedBowl);
    const { path } = session.results.get('s1')!;
    const told = (await session.expected('s1', crewHere()))!;
    const length = lengthOf(cuts({ path } as StepResult));
    expect(Math.abs(told.length! - length), `${told.length} ${length}`).toBeLessThan(0.15 * length + 20);
    const heights = new Set([...path.z].map((z) => z.toFixed(3)));
    const lines = told.sketch!.lines;
    expect(lines.length).toBeGreaterThan(6 * 4);
    for (let k = 2; k < lines.length; k += 3) expect(heights.has(lines[k]!.toFixed(3))).toBe(true);
  });

  it('nothing is told of a length that follows from steel which is not known', async () => {
    const { session } = await finished(dome, [{ kind: 'level-roughing', cutter: ['bull', 8, 1, 16, 7.5, 60] }]);
    const [first, second] = session.snapshot.steps;
    expect((await session.expected(second!.step.id, crewHere()))?.length).toBeGreaterThanOrEqual(0);
    const { job, piece } = session.snapshot;
    const values = { ...first!.step.values, ap: 0.9 };
    session.take({ ...job, steps: job.steps.map((step, k) => (k === 0 ? { ...step, values } : step)) }, piece);
    expect((await session.expected(second!.step.id, crewHere()))?.length).toBeUndefined();
  });
});
