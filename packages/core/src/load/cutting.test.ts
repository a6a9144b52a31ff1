import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { testCrib, testJob } from '../../test/shapes';
import { feedRate, spindleSpeed } from '../tool/library';
import { type CuttingInput, cuttingData } from './cuttingData';
import { stepLoad } from '../job/following';
import type { Extension } from '../tool/library';
import { overhangFactor, STIFFNESS } from './practice';
import {
  cuttingForce,
  effectiveDiameter,
  engagementAngle,
  largestChip,
  meanChip,
  STEEL_E,
  tipDeflection,
} from './quantities';
import { readValue } from '../tool/relative';

const job = testJob([]);
const bull = testCrib().cutters.find((c) => c.id === 'bull12')!;
const ball = testCrib().cutters.find((c) => c.id === 'ball8')!;
const input = (change: Partial<CuttingInput> = {}): CuttingInput => ({
  cutter: bull,
  stickOut: 36,
  material: job.material,
  machine: job.setup.machine,
  cut: 'rough',
  ae: 5,
  ap: 2,
  stiffness: 1,
  ...change,
});

describe('quantities of milling', () => {
  it('engagement angle: 36.87° at 0.1 DC, 66.42° at 0.3 DC, 90° at 0.5 DC (check 6: ISO 3002-3 quantities; geometry)', () => {
    expect(engagementAngle(1, 10)).toBeCloseTo(36.87, 2);
    expect(engagementAngle(3, 10)).toBeCloseTo(66.42, 2);
    expect(engagementAngle(5, 10)).toBeCloseTo(90, 9);
  });

  it('largest chip: 0.6 fz at ae 0.1 DC, fz from half the diameter up (check 7: geometry)', () => {
    expect(largestChip(0.1, engagementAngle(1, 10))).toBeCloseTo(0.06, 9);
    expect(largestChip(0.1, 120)).toBe(0.1);
  });

  it('speed 3183 1/min for DC 10 and vc 100; feed 636.6 mm/min for fz 0.05, z 4 (check 8: ISO 3002 quantities)', () => {
    expect(spindleSpeed(100, 10)).toBeCloseTo(3183.1, 1);
    expect(feedRate(0.05, 4, spindleSpeed(100, 10))).toBeCloseTo(636.6, 1);
  });

  it('cutting force after Kienzle: kc1.1 at a chip of 1 mm; C45 (2220, 0.14) in a chip of 0.1 (check 9, from memory)', () => {
    expect(cuttingForce(2220, 0.14, 1, 1)).toBe(2220);
    expect(cuttingForce(2220, 0.14, 2, 0.1)).toBeCloseTo(2 * 2220 * 0.1 ** 0.86, 9);
  });

  it('bending: 0.01415 mm for 100 N, L 50, d 10, E 600 GPa; L doubled 8 times, d halved 16 times (check 10: beam theory)', () => {
    const bar = (length: number, diameter: number): number => tipDeflection(100, [{ length, diameter }]);
    expect(bar(50, 10)).toBeCloseTo(0.01415, 5);
    expect(bar(100, 10) / bar(50, 10)).toBeCloseTo(8, 9);
    expect(bar(50, 5) / bar(50, 10)).toBeCloseTo(16, 9);
    // a fluted length of the same diameter changes nothing, a slimmer one bends more
    const flutes = (diameter: number): number =>
      tipDeflection(100, [
        { length: 20, diameter },
        { length: 30, diameter: 10 },
      ]);
    expect(flutes(10)).toBeCloseTo(bar(50, 10), 12);
    expect(flutes(8)).toBeGreaterThan(bar(50, 10));
    // steel gives way as the moduli
    expect(tipDeflection(100, [{ length: 50, diameter: 10, modulus: STEEL_E }]) / bar(50, 10)).toBeCloseTo(
      600 / 210,
      9,
    );
  });

  it('mean chip times arc is the area of the chip, and the mean lies below the largest', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.02, max: 0.98, noNaN: true }),
        fc.double({ min: 0.01, max: 0.3, noNaN: true }),
        (share, fz) => {
          const phi = engagementAngle(share * 10, 10);
          const mean = meanChip(fz, share * 10, 10, phi);
          expect(mean * 5 * ((phi * Math.PI) / 180)).toBeCloseTo(fz * share * 10, 9);
          expect(mean).toBeLessThanOrEqual(largestChip(fz, phi) + 1e-12);
        },
      ),
    );
  });

  it('effective diameter: of a ball the chord at ap, of any cutter DC from the corner up', () => {
    expect(effectiveDiameter(10, 5, 0.5)).toBeCloseTo(2 * Math.sqrt(0.5 * 9.5), 9);
    expect(effectiveDiameter(12, 1.5, 1.5)).toBe(12);
    expect(effectiveDiameter(12, 0, 0.1)).toBe(12);
  });
});

describe('cutting data', () => {
  it('the figures agree with one another, and each gives formula, values and source', () => {
    const d = cuttingData(input());
    expect(d.vf.value).toBeCloseTo(d.fz.value * bull.ZEFP * d.n.value, 6);
    expect(d.Mc.value).toBeCloseTo((d.Pc.value * 1000) / ((2 * Math.PI * d.n.value) / 60), 1);
    // Power is force times speed: the mean force of the teeth in the cut at vc
    expect(d.Pc.value / ((d.Fc.value * d.vc.value) / 60_000)).toBeGreaterThan(0.5);
    expect(d.Pc.value / ((d.Fc.value * d.vc.value) / 60_000)).toBeLessThan(1.01);
    for (const figure of Object.values(d)) expect(figure.formula && figure.put && figure.source).toBeTruthy();
  });

  it('never more than the machine can do, and it says which limit binds', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 12, noNaN: true }),
        fc.double({ min: 0.1, max: 20, noNaN: true }),
        fc.double({ min: 0.1, max: 20, noNaN: true }),
        fc.double({ min: 0.5, max: 60, noNaN: true }),
        (ae, ap, power, torque) => {
          const machine = { ...job.setup.machine, power, torque };
          const d = cuttingData(input({ ae, ap, machine }));
          expect(d.n.value).toBeLessThanOrEqual(machine.maxSpindle);
          expect(d.vf.value).toBeLessThanOrEqual(machine.maxFeed * (1 + 1e-9));
          expect(d.Pc.value).toBeLessThanOrEqual(power * (1 + 1e-6));
          expect(d.Mc.value).toBeLessThanOrEqual(torque * (1 + 1e-6));
        },
      ),
    );
    const slow = { ...job.setup.machine, maxSpindle: 2000 };
    expect(cuttingData(input({ machine: slow })).n.limit).toMatch(/2000 1\/min hold it back/);
    expect(cuttingData(input({ machine: { ...job.setup.machine, power: 0.1 } })).fz.limit).toMatch(/0.1 kW/);
  });

  it('more side step, longer stick-out and a softer set-up each ask for less feed; a ball near its tip turns faster', () => {
    const fz = (change: Partial<CuttingInput>): number => cuttingData(input(change)).fz.value;
    expect(fz({ ae: 1 })).toBeGreaterThan(fz({ ae: 5 }));
    expect(fz({ stickOut: 80 })).toBeLessThan(fz({ stickOut: 36 }));
    for (let k = 1; k < STIFFNESS.length; k++) expect(fz({ stiffness: k })).toBeLessThan(fz({ stiffness: k - 1 }));
    expect(overhangFactor(30, 10)).toBe(1);
    const wide = { ...job.setup.machine, maxSpindle: 200_000 };
    const n = (ap: number): number =>
      cuttingData(input({ cutter: ball, ae: 0.3, ap, cut: 'finish', machine: wide })).n.value;
    expect(n(0.2)).toBeGreaterThan(n(2));
  });

  it('harder steel and plainer cutting material turn slower, an extension asks for less feed and bends more', () => {
    const d = (change: Partial<CuttingInput>) => cuttingData(input(change));
    const material = job.material;
    const vc = (hardness: number): number => d({ material: { ...material, hardness } }).vc.value;
    expect(vc(200)).toBeGreaterThan(vc(300));
    expect(vc(300)).toBeGreaterThan(vc(400));
    // the table stands for one hardness of each group
    expect(vc(300)).toBeCloseTo(d({}).vc.value, 9);
    const plain = { ...bull, grade: 'HSS' as const };
    expect(d({ cutter: plain }).vc.value).toBeLessThan(0.3 * d({}).vc.value);
    expect(d({ cutter: plain }).vc.put).toContain('HSS');
    const extension: Extension = {
      id: 'e',
      name: 'Extension',
      DCONWS: 12,
      clampFrom: null,
      DCONMS: 20,
      stack: [{ bottomDiameter: 18, topDiameter: 20, length: 60 }],
    };
    expect(d({ extensions: [extension] }).fz.value).toBeLessThan(d({}).fz.value);
    expect(d({ extensions: [extension] }).deflection.value / d({ extensions: [extension] }).Fc.value).toBeGreaterThan(
      d({}).deflection.value / d({}).Fc.value,
    );
  });

  it('an override holds, is marked, and the rest follows from it', () => {
    const d = cuttingData(input({ overrides: { vc: 100 } }));
    expect(d.vc.value).toBeCloseTo(100, 6);
    expect(d.vc.overridden).toBe(true);
    expect(d.n.overridden).toBe(false);
    expect(cuttingData(input({ overrides: { n: 1500 } })).vc.value).toBeCloseTo((Math.PI * 12 * 1500) / 1000, 6);
  });
});

describe('load of a step', () => {
  const tool = { assembly: testCrib().assemblies[1]!, cutter: bull, extensions: [], holder: testCrib().holders[0]! };

  it('grows with depth and side step, and is warned of beyond what machine or cutter bear', () => {
    const light = stepLoad(job, tool, { ae: 2, ap: 0.5 }, tool.assembly);
    const heavy = stepLoad(job, tool, { ae: 5, ap: 2 }, tool.assembly);
    expect(heavy.power).toBeGreaterThan(light.power);
    expect(heavy.deflection).toBeGreaterThan(light.deflection);
    expect(light.warning).toBeUndefined();
    const weak = { ...job, setup: { ...job.setup, machine: { ...job.setup.machine, power: 0.2 } } };
    expect(stepLoad(weak, tool, { ae: 6, ap: 6 }, tool.assembly).warning).toMatch(/kW, the spindle has 0.2/);
    const long = { ...tool, assembly: { ...tool.assembly, stickOut: 150 } };
    expect(stepLoad(job, long, { ae: 6, ap: 6 }, long.assembly).warning).toMatch(/bends the cutter/);
  });
});

describe('values relative to a value', () => {
  const symbols = { DC: 16, APMX: 24 };
  const value = (text: string): number => {
    const typed = readValue(text, symbols);
    if ('problem' in typed) throw new Error(typed.problem);
    return typed.value;
  };

  it('a factor and a symbol, per cent, units, brackets, comma or point', () => {
    expect(value('0.3 DC')).toBe(4.8);
    expect(value('1 APMX')).toBe(24);
    expect(value('50 % DC')).toBe(8);
    expect(value('50% DC')).toBe(8);
    expect(value('2 in')).toBe(50.8);
    expect(value('12,5 mm')).toBe(12.5);
    expect(value('(APMX - 4) / 2')).toBe(10);
    expect(value('2(DC + 1)')).toBe(34);
    expect(value('\u22123')).toBe(-3);
    expect(value('25 %')).toBe(0.25);
  });

  it('plain numbers with comma or point and their unit', () => {
    expect([' 1,5 ', '.25', '-3 mm', '\u22122', '10°'].map(value)).toEqual([1.5, 0.25, -3, -2, 10]);
    for (const text of ['', 'x', '1.2.3', '5 kg', 'Infinity']) expect('problem' in readValue(text)).toBe(true);
  });

  it('typed in inches: a number is inches alone or beside a length, and a plain factor before one', () => {
    const inches = (text: string): number => {
      const typed = readValue(text, symbols, 25.4);
      return 'problem' in typed ? NaN : typed.value;
    };
    expect(['0.5', '-1', '0.25 in', '5 mm', '0.3 DC', '50 % DC', 'APMX / 2', '(1 + 1) DC'].map(inches)).toEqual([
      12.7, -25.4, 6.35, 5, 4.8, 8, 12, 32,
    ]);
    expect(inches('DC + 0.1')).toBeCloseTo(18.54, 9);
    expect(inches('1 - 10 mm')).toBeCloseTo(15.4, 9);
    expect(inches('2 (DC - 0.5)')).toBeCloseTo(6.6, 9);
    fc.assert(
      fc.property(numberIn(-99, 99), (k) => {
        const text = k.toFixed(5);
        expect(inches(text)).toBeCloseTo(value(`${text} in`), 9);
      }),
    );
  });

  it('any factor of any symbol is their product', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 999, noNaN: true }), (k) => {
        const factor = Number(k.toFixed(4));
        expect(value(`${factor} DC`)).toBeCloseTo(factor * 16, 6);
        expect(value(`${factor} % APMX`)).toBeCloseTo((factor / 100) * 24, 6);
      }),
    );
  });

  it('everything else is refused with what is wrong and where', () => {
    const problem = (text: string): string => (readValue(text, symbols) as { problem: string }).problem;
    expect(problem('0.3 DX')).toMatch(/"DX" is not known here; there are DC, APMX/);
    expect(problem('3 +')).toMatch(/cannot be read/);
    expect(problem('DC.constructor')).toMatch(/Only numbers/);
    expect(problem('alert(1)')).toBeTruthy();
    expect(problem('constructor')).toMatch(/not known/);
    expect(problem('1 / 0')).toMatch(/no finite value/);
    fc.assert(
      fc.property(fc.string(), (text) => {
        const typed = readValue(text, symbols);
        expect('problem' in typed ? typed.problem.length > 0 : Number.isFinite(typed.value)).toBe(true);
      }),
    );
  });
});
