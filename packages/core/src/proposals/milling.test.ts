import fc from 'fast-check';
import type { ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { blockOf, hole, modeller, soupOf } from '../../test/plates';
import { cribOf, type EndMill, meshOf } from '../../test/shapes';
import { contactMesh } from '../geometry/contactMesh';
import { surfaceOf } from '../survey/surface';
import { surveyOf } from '../survey/survey';
import { foundOn, type MilledPart, proposeEdges, proposeMilling } from './milling';
import { leavesMuch } from './reached';
import { cuttersFor, withCutter } from './step';

const MILLS: Record<string, EndMill> = {
  b20: ['bull', 20, 2, 30, 19, 60],
  b10: ['bull', 10, 1, 20, 9.5, 50],
  f12: ['flat', 12, 0, 26, 11.5, 50],
  f6: ['flat', 6, 0, 12, 5.8, 30],
  f4: ['flat', 4, 0, 12, 3.8, 30],
  k6: ['ball', 6, 3, 12, 5.6, 40],
  c90: ['chamfer', 10, 0, 12, 10, 40, { SIG: 90 }],
};
const names = ({ steps }: ReturnType<typeof proposeMilling>): string[] =>
  steps.map(({ name, tool }) => `${name} T${tool.assembly.number}`);

describe('proposals for milling', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  function partOf(body: ReturnType<typeof blockOf>, above = 1): MilledPart {
    const mesh = meshOf(soupOf(body));
    const survey = surveyOf(surfaceOf(mesh), contactMesh(mesh));
    return { survey, above, underside: survey.box.minZ };
  }
  /** A plate with a pocket whose corners are round. */
  function pocketed(radius: number): ReturnType<typeof blockOf> {
    const corner = (x: number, y: number) => solids.Manifold.cylinder(20, radius, radius, 64).translate([x, y, -8]);
    const at = [-20 + radius, 20 - radius].flatMap((x) => [-15 + radius, 15 - radius].map((y) => corner(x, y)));
    return blockOf(solids, [-40, -30, -20], [40, 30, 0]).subtract(solids.Manifold.hull(at));
  }

  it('opens up from wide to narrow until the corners are reached, and leaves corners to a cutter that fits them', () => {
    const crib = cribOf(MILLS);
    const part = partOf(pocketed(3.5));
    expect(part.survey.corners.round!.radius).toBeCloseTo(3.5, 2);
    expect(names(proposeMilling(part, crib))).toEqual([
      'Face the top T1',
      'Open up T1',
      'Open up, ⌀ 12 T3',
      'Open up, ⌀ 6 T4',
      'Floors T3',
      'Walls T3',
      'Corners T4',
    ]);
    // for tight corners no cutter that would leave narrow places to nobody
    expect(names(proposeMilling(partOf(pocketed(2.2)), crib)).slice(-3)).toEqual([
      'Floors T4',
      'Walls T4',
      'Corners T5',
    ]);
    // round as the widest cutter is: nothing is left in them
    expect(names(proposeMilling(partOf(pocketed(10.6), 0), crib))).toEqual(['Open up T1', 'Floors T3', 'Walls T3']);
    expect(foundOn(part).map((f) => f.name)).toEqual([
      'Steel over the part',
      'Floors under walls',
      'Tightest corner of upright walls',
    ]);
  });

  it('says what the crib lacks: a cutter for the corners, one that stands out far enough, a ball, a point', () => {
    const wide = Object.fromEntries(Object.entries(MILLS).filter(([id]) => !['f6', 'f4', 'k6', 'c90'].includes(id)));
    expect(proposeMilling(partOf(pocketed(3.5)), cribOf(wide)).missing).toEqual([
      'a flat end mill of 6.64 mm or less for inside corners',
    ]);
    const short = { f12: ['flat', 12, 0, 7, 12, 7.5] } as Record<string, EndMill>;
    expect(proposeMilling(partOf(pocketed(3.5)), cribOf(short)).missing).toEqual([
      'an end mill that stands out 10 mm or more',
      'a flat end mill that stands out 10 mm or more',
    ]);
    const roof = solids.Manifold.hull([
      blockOf(solids, [-20, -20, -10], [20, 20, -6]),
      blockOf(solids, [-20, -8, -6], [20, 8, -1]),
    ]);
    expect(proposeMilling(partOf(roof), cribOf(wide)).missing).toEqual(['a ball cutter that stands out 6 mm or more']);
    expect(names(proposeMilling(partOf(roof), cribOf(MILLS)))).toContain('Finish what is not level T6');
    const chamfered = solids.Manifold.hull([
      blockOf(solids, [-20, -20, -10], [20, 20, -1]),
      blockOf(solids, [-19, -19, -10], [19, 19, 0]),
    ]);
    expect(proposeEdges(partOf(chamfered), cribOf(wide)).missing).toEqual(['a chamfer cutter of 90°']);
    const { steps } = proposeEdges(partOf(chamfered), cribOf(MILLS));
    expect(steps.map(({ name, isExtra = false }) => [name, isExtra])).toEqual([
      ['Chamfers of 45°', false],
      ['Break sharp edges', true],
    ]);
  });

  it('points and bores of holes are no corners and no ground of a part', () => {
    const body = blockOf(solids, [-30, -20, -20], [30, 20, 0])
      .subtract(hole(solids, -12, 0, 2.5, -12, 118))
      .subtract(hole(solids, 12, 0, 4, -60))
      .subtract(hole(solids, 12, 0, 7, -5));
    const part = partOf(body, 0);
    expect(part.survey.tightness.bends).toEqual([]);
    expect(part.survey.corners).toMatchObject({ sharp: 0 });
    expect(part.survey.corners.round).toBeUndefined();
    expect(names(proposeMilling(part, cribOf(MILLS)))).not.toContain('Finish what is not level T6');
  });

  it('another cutter takes its own house values, and keeps what the proposal asks for', () => {
    const crib = cribOf(MILLS);
    const corners = proposeMilling(partOf(pocketed(3.5)), crib).steps.at(-1)!;
    const other = cuttersFor('profile', crib).find((t) => t.cutter.kind === 'ball')!;
    const changed = withCutter(corners, other);
    expect(changed.values).toMatchObject({ which: 'all', restOf: 'f12', ap: 12 });
    expect(cuttersFor('profile', crib).some((t) => t.cutter.kind === 'chamfer')).toBe(false);
  });

  it('a slot leaves much to a cutter that is wider, or that has no room to go down in it, and nothing to others', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 6, max: 24, noNaN: true }),
        fc.double({ min: 2, max: 40, noNaN: true }),
        fc.boolean(),
        (width, DC, isOpen) => {
          fc.pre(Math.abs(width - DC) > 0.4 && Math.abs(width - 1.4 * DC) > 0.4);
          const half = width / 2;
          // round at its ends: no corner holds steel
          const end = (x: number, from: number) =>
            Array.from({ length: 65 }, (_, k) => {
              const a = from - (Math.PI * k) / 64;
              return [x + half * Math.cos(a), half * Math.sin(a)];
            });
          const outer = [-80, -40, 80, -40, 80, 40, -80, 40];
          const closed = [...end(40, Math.PI / 2), ...end(-40, -Math.PI / 2)].flat();
          const open = [-80, -40, 80, -40, 80, -half, ...end(-40, -Math.PI / 2).flat(), 80, half, 80, 40, -80, 40];
          const walls = isOpen ? [Float64Array.from(open)] : [Float64Array.from(outer), Float64Array.from(closed)];
          expect(leavesMuch(walls, DC)).toBe(isOpen ? DC > width : 1.4 * DC > width);
        },
      ),
    );
  });
});
