import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calculated, squarePocket, meshOf, testJob } from '../../test/shapes';
import { parseJob } from './job';
import { relationProblems, withRelations } from './relations';

const like = testJob([{ kind: 'level-roughing', assemblyId: 't1' }]);
const withStep = (change: object, job = like): typeof like =>
  parseJob({ ...job, steps: job.steps.map((s) => ({ ...s, ...change })) });
const withDc = (DC: number, job: typeof like): typeof like =>
  parseJob({
    ...job,
    crib: {
      ...job.crib,
      cutters: job.crib.cutters.map((c) => (c.id === job.crib.assemblies[0]!.cutterId ? { ...c, DC } : c)),
    },
  });

describe('relations', () => {
  it('follow the cutter: whatever its diameter, ae is that share of it; nothing else is touched', () => {
    fc.assert(
      fc.property(fc.integer({ min: 10, max: 60 }), fc.integer({ min: 1, max: 99 }), (DC, share) => {
        const job = withDc(DC, withStep({ relations: { ae: { expr: `${share / 100} DC` } } }));
        const [step] = withRelations(job).steps;
        expect(step!.values['ae']).toBeCloseTo((share * DC) / 100, 9);
        expect(step!.values).toEqual({ ...like.steps[0]!.values, ae: step!.values['ae'] });
        expect(step!.relations).toEqual(job.steps[0]!.relations);
      }),
    );
  });

  it('of another assembly are its own: a cutter changed from 16 to 12 moves them', () => {
    const of = (DC: number): number =>
      withRelations(withDc(DC, withStep({ relations: { ap: { expr: 'DC / 8' } } }))).steps[0]!.values['ap'] as number;
    expect([of(16), of(12)]).toEqual([2, 1.5]);
  });

  it('a number that stands alone is in the unit that it was typed in', () => {
    const job = withDc(20, withStep({ relations: { lift: { expr: '0.01 + 0.01 DC', unit: 'in' } } }));
    expect(withRelations(job).steps[0]!.values['lift']).toBeCloseTo(0.254 + 0.2, 9);
  });

  it('of limits and of the crib follow too: stick-out first, and steps by the cutter as it then is', () => {
    const limit = {
      kind: 'clear',
      source: 'x',
      points: [
        [0, 0],
        [9, 0],
        [0, 9],
      ],
      distance: 1,
      relations: { distance: { expr: 'DC / 2' } },
    };
    const job = withDc(20, withStep({ limits: [limit] }));
    const related = parseJob({
      ...job,
      crib: {
        ...job.crib,
        assemblies: job.crib.assemblies.map((a, i) =>
          i === 0 ? { ...a, relations: { stickOut: { expr: '3 DC' } } } : a,
        ),
      },
    });
    const out = withRelations(related);
    expect(out.steps[0]!.limits[0]).toMatchObject({ distance: 10 });
    expect(out.crib.assemblies[0]!.stickOut).toBe(60);
    expect(relationProblems(out)).toEqual([]);
  });

  it('nothing to work out leaves the very same job', () => {
    expect(withRelations(like)).toBe(like);
    const settled = withRelations(withStep({ relations: { ae: { expr: '0.4 DC' } } }));
    expect(withRelations(settled)).toBe(settled);
  });

  it('one that gives no value in range leaves the value, is told at its field, and nothing is calculated by it', async () => {
    const pocket = meshOf(squarePocket(30, 20, 10, -25));
    const good = withStep({ relations: { ae: { expr: '0.4 DC' } } });
    const session = await calculated(withRelations(good), pocket);
    expect(session.isFresh('s1')).toBe(true);
    const bad = withRelations(withStep({ relations: { ae: { expr: 'DC - 500' } } }));
    expect(bad.steps[0]!.values['ae']).toBe(like.steps[0]!.values['ae']);
    expect(relationProblems(bad)).toMatchObject([
      { ownerId: 's1', key: 'ae', message: expect.stringMatching(/^DC - 500 gives -\d+ mm: /) },
    ]);
    expect(relationProblems(withStep({ relations: { ae: { expr: '0.4 DX' } } }))[0]!.message).toMatch(
      /"DX" is not known here/,
    );
    await expect(calculated(bad, pocket)).rejects.toMatchObject({ place: 'ae' });
    session.take(bad, session.snapshot.piece);
    expect(session.isFresh('s1')).toBe(false);
  });
});
