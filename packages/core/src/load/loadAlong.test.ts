import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { testCrib, testJob } from '../../test/shapes';
import type { Engagement } from '../simulate/engagement';
import { toolsOf } from '../tool/library';
import { cuttingData } from './cuttingData';
import { LOAD_QUANTITIES, LoadAlong, type LoadConditions, loadLimits } from './loadAlong';

const { material, setup } = testJob([]);
const { machine } = setup;
const tools = toolsOf(testCrib());

/** A stretch of a straight cut, by geometry. */
function straight(radius: number, ae: number, ap: number): Engagement {
  const angle = Math.acos(1 - ae / radius);
  const of = (value: number): Float32Array => Float32Array.of(value);
  return {
    motion: Uint32Array.of(1),
    share: of(1),
    length: of(1),
    area: of(ae * ap),
    surface: of(radius * angle * ap),
    angle: of(angle),
    width: of(ae),
    depth: of(ap),
    chip: of(angle < Math.PI / 2 ? Math.sin(angle) : 1),
  };
}

/** Edges aslant, and not evenly around the cutter. */
const shaped = tools.flatMap((tool) => [
  tool,
  { ...tool, cutter: { ...tool.cutter, FHA: 45, largestPitch: 380 / tool.cutter.ZEFP } },
]);

const cut = fc.record({
  tool: fc.constantFrom(...shaped.filter(({ cutter }) => cutter.RE < cutter.DC / 2)),
  width: fc.double({ min: 0.02, max: 1, noNaN: true }),
  depth: fc.double({ min: 1, max: 1.5, noNaN: true }),
  fz: fc.double({ min: 0.01, max: 0.3, noNaN: true }),
  n: fc.integer({ min: 500, max: 20_000 }),
});

describe('the load along a path', () => {
  it('of a straight cut is what the cutting data tell of it: two ways to the same figures', () => {
    fc.assert(
      fc.property(cut, ({ tool, width, depth, fz, n }) => {
        const { cutter, assembly, extensions } = tool;
        const ae = width * cutter.DC;
        const ap = Math.max(cutter.RE, depth);
        const boundless = { ...machine, power: 1e9, torque: 1e9, maxFeed: 1e9, maxSpindle: 1e9, minSpindle: 1e-9 };
        const data = cuttingData({
          ...{ cutter, stickOut: assembly.stickOut, extensions, material, machine: boundless, cut: 'rough', ae, ap },
          stiffness: 1,
          overrides: { n, fz },
        });
        const along = new LoadAlong(straight(cutter.DC / 2, ae, ap), { n, tool, material, machine });
        const load = along.at(0, data.vf.value);
        for (const [own, figure] of [
          [load.angle, data.phi],
          [load.chip, data.hex],
          [load.meanChip, data.hm],
          [load.force, data.Fc],
          [load.power, data.Pc],
          [load.torque, data.Mc],
          [load.bending, data.deflection],
        ] as const)
          expect(Math.abs(own / figure.value - 1)).toBeLessThan(1e-4);
      }),
    );
  });

  it('grows with the feed: chips in proportion, power less, and nothing of it moves angle, width or depth', () => {
    fc.assert(
      fc.property(cut, fc.double({ min: 1.05, max: 3, noNaN: true }), ({ tool, width, depth, n }, by) => {
        const along = new LoadAlong(straight(tool.cutter.DC / 2, width * tool.cutter.DC, depth), {
          ...{ n, tool, material, machine },
        });
        const [slow, fast] = [along.at(0, 400), along.at(0, 400 * by)];
        expect(fast.chip / slow.chip).toBeCloseTo(by, 6);
        expect(fast.power / slow.power).toBeCloseTo(by ** (1 - material.mc), 3);
        for (const same of ['angle', 'width', 'depth'] as const) expect(fast[same]).toBe(slow[same]);
        const all = along.all(Float32Array.of(0, 400));
        for (const { id } of LOAD_QUANTITIES) expect(all[id][0]).toBeCloseTo(slow[id], 3);
      }),
    );
  });

  it('has limits of the machine, and those of the assembly where it has its own', () => {
    const tool = tools[0]!;
    const at = (change: Partial<typeof tool.assembly>): LoadConditions => ({
      ...{ n: 8000, material, machine },
      tool: { ...tool, assembly: { ...tool.assembly, ...change } },
    });
    expect(loadLimits(at({}))).toMatchObject({ power: machine.power, torque: machine.torque, bending: 0.1 });
    expect(loadLimits(at({ mostBending: 0.03, mostChip: 0.07 }))).toMatchObject({ bending: 0.03, chip: 0.07 });
    expect(loadLimits(at({})).angle).toBeUndefined();
  });

  it('steeper edges share a deep cut among more teeth, and the edge after the largest pitch takes the thickest chip', () => {
    const plain = tools[0]!;
    const at = (change: object) => {
      const tool = { ...plain, cutter: { ...plain.cutter, ...change } };
      return new LoadAlong(straight(plain.cutter.DC / 2, 0.5, 8), { n: 3000, tool, material, machine }).at(0, 800);
    };
    expect(at({ FHA: 30 })).toEqual(at({}));
    expect(at({ FHA: 45 }).force).toBeLessThan(at({ FHA: 15 }).force);
    // power is a matter of volume alone
    expect(at({ FHA: 45 }).power).toBe(at({}).power);
    const { ZEFP } = plain.cutter;
    expect(at({ largestPitch: (1.1 * 360) / ZEFP }).chip / at({}).chip).toBeCloseTo(1.1, 6);
    const bears = { ...plain, cutter: { ...plain.cutter, mostAp: 1.2, mostAe: 3 } };
    expect(loadLimits({ n: 1, tool: bears, material, machine })).toMatchObject({ depth: 1.2, width: 3 });
  });
});
