import '@angular/compiler';
import { cribSchema, STEP_KINDS, shapeOf, toolsOf } from '@esquisse/core';
import { describe, expect, it } from 'vitest';
import { firstCrib } from './firstCrib';

describe('the crib that a shop begins with', () => {
  const material = { name: 'C45', group: 'P' as const, kc11: 2220, mc: 0.14, hardness: 200, density: 7.85 };
  const machine = {
    name: 'Made up',
    travelX: 800,
    travelY: 600,
    travelZ: 500,
    minSpindle: 50,
    maxSpindle: 18000,
    power: 15,
    torque: 80,
    rapid: 20000,
    acceleration: 3000,
    toolChange: 8,
    maxFeed: 12000,
  };

  it('holds: sizes, clamping, numbers; about forty cutters, with which every kind of step can be done', () => {
    const crib = firstCrib(material, machine);
    expect(cribSchema.safeParse(crib).error?.issues).toBeUndefined();
    const tools = toolsOf(crib);
    expect(tools.length).toBeGreaterThanOrEqual(40);
    for (const kind of STEP_KINDS) expect(tools.some((t) => kind.refuses(shapeOf(t)) === undefined)).toBe(true);
    for (const { assembly, cutter } of tools) {
      expect(assembly.n).toBeLessThanOrEqual(machine.maxSpindle);
      expect(assembly.fz * cutter.ZEFP * assembly.n).toBeLessThanOrEqual(machine.maxFeed * 1.01);
    }
  });
});
