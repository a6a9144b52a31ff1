import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cribOf, type EndMill } from '../../test/shapes';
import { kindOf } from '../strategy/registry';
import { isMeant, type HoleChoice } from '../strategy/holes/choice';
import type { Hole } from '../survey/features';
import { shapeOf } from '../tool/shape';
import { groupsOf, HOLE_PURPOSES, type HolePurpose, proposeHoles, purposesFor } from './holes';

const drill = (DC: number, APMX: number): EndMill => ['drill', DC, 0, APMX, DC, 90, { SIG: 118 }];
const crib = cribOf({
  spot: ['spot', 12, 0, 20, 12, 40, { SIG: 90 }],
  d5: drill(5, 30),
  d68: drill(6.8, 30),
  d78: drill(7.8, 40),
  d78long: drill(7.8, 80),
  r8: ['reamer', 8, 0, 30, 7, 60],
  // tapping drills of ISO metric coarse (ISO 2306, from memory; check 30): M6 5.0, M8 6.8
  m6: ['tap', 6, 0, 20, 5, 40, { TP: 1 }],
  m8: ['tap', 8, 0, 20, 6, 40, { TP: 1.25 }],
  f6: ['flat', 6, 0, 20, 6, 40],
  f10: ['flat', 10, 0, 30, 10, 40],
});
const hole = (diameter: number, depth: number, more: Partial<Hole> = {}): Hole => ({
  x: 0,
  y: 0,
  diameter,
  facetDepth: 0,
  open: false,
  top: 0,
  bottom: -depth,
  through: false,
  pointed: true,
  triangles: [],
  ...more,
});
const likely = (...holes: Hole[]) =>
  proposeHoles(
    groupsOf(holes).map((group) => ({ group, purpose: purposesFor(group, crib)[0]! })),
    crib,
  );
const names = ({ steps }: ReturnType<typeof likely>): string[] =>
  steps.map((s) => `${s.name} T${s.tool.assembly.number}`);

describe('proposals for holes', () => {
  it('a blind hole of a tapping drill is threaded, a through hole of a reamer reamed, and a bore milled', () => {
    expect(names(likely(hole(5, 12), hole(6.8, 14)))).toEqual([
      'Spot T1',
      'Drill ⌀ 5 T2',
      'Drill ⌀ 6.8 T3',
      'Tap M6 T7',
      'Tap M8 T8',
    ]);
    expect(names(likely(hole(8, 20, { through: true })))).toEqual(['Spot T1', 'Drill ⌀ 7.8 T4', 'Ream ⌀ 8 T6']);
    expect(names(likely(hole(20, 9, { pointed: false })))).toEqual(['Mill ⌀ 20 T10']);
    const bored = hole(6.8, 18, { through: true, counterbore: { diameter: 11, depth: 6 } });
    expect(names(likely(bored))).toEqual(['Spot T1', 'Drill ⌀ 6.8 T3', 'Mill bore ⌀ 11 T9']);
  });

  it('takes the shortest drill that is long enough, and says what is missing', () => {
    expect(names(likely(hole(8, 50, { through: true })))).toContain('Drill ⌀ 7.8 T5');
    const deep = likely(hole(5, 45));
    expect(deep.missing).toEqual(['a drill of 5 mm with flutes of 45 mm or more']);
    expect(likely(hole(3.3, 4)).missing).toEqual(['a drill of 3.3 mm with flutes of 4 mm or more']);
  });

  it('what one cutter does with through and blind holes is one step, what it is to do with one of them means those alone', () => {
    const groups = groupsOf([hole(5, 12), hole(5, 20, { through: true }), hole(8, 9)]);
    const steps = (...purposes: HolePurpose[]) =>
      proposeHoles(
        groups.map((group, k) => ({ group, purpose: purposes[k]! })),
        crib,
      ).steps.map(({ name, values }) => `${name} ${values['which']} ${values['diameterFrom']} ${values['diameterTo']}`);
    expect(groups.map((g) => [g.diameter, g.through])).toEqual([
      [5, false],
      [5, true],
      [8, false],
    ]);
    expect(steps('threaded', 'drilled', 'left')).toEqual([
      'Spot all 4.98 5.02',
      'Drill ⌀ 5 all 4.98 5.02',
      'Tap M6 blind 4.98 5.02',
    ]);
    expect(steps('left', 'drilled', 'reamed')).toEqual([
      'Spot through 4.98 5.02',
      'Spot all 7.98 8.02',
      'Drill ⌀ 5 through 4.98 5.02',
      'Drill ⌀ 7.8 blind 7.98 8.02',
      'Ream ⌀ 8 blind 7.98 8.02',
    ]);
  });

  it('whatever the holes and their purposes: each step can be done by its cutter, has values of its kind, and means holes that there are', () => {
    const any = fc.record({
      diameter: fc.constantFrom(2, 3.3, 5, 6.8, 8, 11, 16, 25),
      depth: fc.integer({ min: 2, max: 60 }),
      through: fc.boolean(),
      counterbore: fc.option(fc.record({ diameter: fc.constantFrom(28, 34), depth: fc.constant(1) }), {
        nil: undefined,
      }),
    });
    fc.assert(
      fc.property(fc.array(fc.tuple(any, fc.constantFrom(...HOLE_PURPOSES)), { minLength: 1, maxLength: 8 }), (all) => {
        const holes = all.map(([h]) =>
          hole(h.diameter, h.depth, { through: h.through, ...(h.counterbore && { counterbore: h.counterbore }) }),
        );
        const groups = groupsOf(holes);
        expect(groups.reduce((sum, g) => sum + g.count, 0)).toBe(holes.length);
        const asked = groups.map((group, k) => ({ group, purpose: all[k % all.length]![1] }));
        expect(new Set(groups.map((g) => g.key)).size).toBe(groups.length);
        const { steps } = proposeHoles(asked, crib);
        for (const { kind, tool, values } of steps) {
          expect(kindOf(kind)!.refuses(shapeOf(tool))).toBeUndefined();
          expect(kindOf(kind)!.check(values)).toHaveProperty('values');
          const meant = holes.flatMap((h) => (h.counterbore ? [h, { ...h, ...h.counterbore, through: false }] : [h]));
          expect(meant.some((h) => isMeant(h, values as HoleChoice))).toBe(true);
        }
        // whatever a step makes of holes, it is for all that it means
        for (const { kind, tool, values } of steps)
          for (const { group, purpose } of asked) {
            if (!isMeant(group, values as HoleChoice)) continue;
            if (tool.cutter.kind === 'tap') expect(purpose).toBe('threaded');
            else if (tool.cutter.kind === 'reamer') expect(purpose).toBe('reamed');
            else if (kind === 'holes') expect(['drilled', 'reamed', 'threaded']).toContain(purpose);
            else expect(purpose).toBe('milled');
          }
        // nothing is threaded or reamed before it is drilled
        const at = (word: string): number[] => steps.flatMap((s, k) => (s.name.startsWith(word) ? [k] : []));
        expect(Math.max(-1, ...at('Drill'))).toBeLessThan(Math.min(99, ...at('Ream'), ...at('Tap')));
      }),
      { numRuns: 60 },
    );
  });
});
