import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib, testJob } from '../../test/shapes';
import type { Values } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import { toolOf } from '../tool/library';
import { shapeOf } from '../tool/shape';
import { stepCutting, stepLoad } from './following';
import { cutKeys, sameLoad } from './sameLoad';

const tool = toolOf(testCrib(), 't1')!;
const { DC, APMX } = tool.cutter;
const job = testJob([{ kind: 'level-roughing', assemblyId: 't1' }]);
const kind = kindOf('level-roughing')!;
const at = (ap: number, ae: number): Values => ({ ...job.steps[0]!.values, ap, ae });

/** Speed is rounded to whole turns, and feed per tooth to 0.0001 mm of some hundredths. */
const ROUNDED = 1.005;

/** Chip volume, cm³/min, and power, kW, of a step with other values. */
function loads(values: Values, from: 'cut' | 'crib'): Record<'volume' | 'power', number> {
  const step = { ...job.steps[0]!, values, cutting: { ...job.steps[0]!.cutting, from } };
  const cut = kind.bind(values).cut(shapeOf(tool));
  const cutting = stepCutting(job, step, tool);
  return { volume: (cut.ae * cut.ap * cutting.vf) / 1000, power: stepLoad(job, tool, cut, cutting).power };
}

describe('depth and width of one load', () => {
  it('a width that is proposed for a depth has the chip volume, or the power, of the cut it is held against, and no wider one has', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0.05, max: 0.9, noNaN: true }),
        fc.double({ min: 0.05, max: 0.9, noNaN: true }),
        fc.constantFrom('ae' as const, 'ap' as const),
        fc.constantFrom('cut' as const, 'crib' as const),
        (deep, width, otherWidth, key, from) => {
          const like = at(0.4 * APMX, width * DC);
          const own = at(deep * APMX, otherWidth * DC);
          const step = { ...job.steps[0]!, values: own, cutting: { ...job.steps[0]!.cutting, from } };
          const wanted = loads(like, from);
          const most = key === 'ae' ? DC : APMX;
          for (const { keeps, value, load } of sameLoad(job, step, tool, key, like)) {
            expect(load).toBeCloseTo(
              Math.min(wanted[keeps], keeps === 'power' ? job.setup.machine.power : Infinity),
              9,
            );
            expect(loads({ ...own, [key]: value }, from)[keeps]).toBeLessThanOrEqual(load * ROUNDED);
            if (value < most - 0.01)
              expect(loads({ ...own, [key]: value + 0.011 }, from)[keeps]).toBeGreaterThan(load / ROUNDED);
          }
        },
      ),
    );
  });

  it('half the depth gives more than twice the width at one power: the chip is thicker, and thick chips take less', () => {
    const like = at(2, 0.1 * DC);
    const step = {
      ...job.steps[0]!,
      values: at(1, 0.1 * DC),
      cutting: { ...job.steps[0]!.cutting, from: 'crib' as const },
    };
    const [volume, power] = sameLoad(job, step, tool, 'ae', like);
    expect(volume).toMatchObject({ keeps: 'volume' });
    expect(volume!.value).toBeCloseTo(0.2 * DC, 2);
    expect(power!.value).toBeGreaterThan(0.205 * DC);
  });

  it('nothing goes beyond flutes and diameter, what the cutter bears, and what the spindle gives', () => {
    const like = at(APMX, 0.9 * DC);
    const step = { ...job.steps[0]!, values: at(0.5, 0.1 * DC) };
    expect(sameLoad(job, step, tool, 'ae', like).map((p) => p.value)).toEqual([DC, DC]);
    const borne = { ...tool, cutter: { ...tool.cutter, mostAe: 0.3 * DC } };
    for (const { value } of sameLoad(job, step, borne, 'ae', like)) expect(value).toBeLessThanOrEqual(0.3 * DC);
    const weak = { ...job, setup: { ...job.setup, machine: { ...job.setup.machine, power: 0.05 } } };
    const held = sameLoad(weak, step, tool, 'ae', like).find((p) => p.keeps === 'power');
    expect(held?.load).toBe(0.05);
    expect(held!.value).toBeLessThan(DC);
  });

  it('nothing is proposed where the value has that load already, and none for kinds without depth and width', () => {
    expect(sameLoad(job, { ...job.steps[0]!, values: at(2, 3) }, tool, 'ae', at(2, 3))).toEqual([]);
    expect(sameLoad(job, { ...job.steps[0]!, values: at(2, 3) }, tool, 'stairs', at(1, 3))).toEqual([]);
    expect(cutKeys(kindOf('parallel-passes')!)).toBeUndefined();
  });
});
