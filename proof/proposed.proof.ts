import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { Piece } from '../packages/core/src/evaluate/piece';
import { Session } from '../packages/core/src/evaluate/session';
import { contactMesh } from '../packages/core/src/geometry/contactMesh';
import { groupsOf, proposeHoles, purposesFor } from '../packages/core/src/proposals/holes';
import { proposeEdges, proposeMilling } from '../packages/core/src/proposals/milling';
import { release } from '../packages/core/src/release/release';
import { surfaceOf } from '../packages/core/src/survey/surface';
import { surveyOf } from '../packages/core/src/survey/survey';
import { blockOf, hole, modeller, numbers, soupOf } from '../packages/core/test/plates';
import { cribOf, crewHere, type EndMill, meshOf, testJob, workHere } from '../packages/core/test/shapes';

const drill = (DC: number, APMX: number): EndMill => ['drill', DC, 0, APMX, DC, APMX + 25, { SIG: 118 }];
const CRIB = cribOf({
  b16: ['bull', 16, 1, 32, 15.6, 60],
  b8: ['bull', 8, 0.5, 20, 7.6, 45],
  f10: ['flat', 10, 0, 30, 9.6, 50],
  f6: ['flat', 6, 0, 26, 5.8, 45, { centreCutting: true }],
  spot: ['spot', 12, 0, 20, 12, 40, { SIG: 90 }],
  d5: drill(5, 50),
  d68: drill(6.8, 50),
  d10: drill(10, 60),
  m6: ['tap', 6, 0, 30, 4, 55, { TP: 1 }],
  c90: ['chamfer', 12, 0, 14, 12, 40, { SIG: 90 }],
});

/** Of cells over level ground and beside walls so many are as drawn. */
const DONE_SHARE = 0.99;
const DONE_MM = 0.02;

describe('parts with pockets, islands, steps, chamfers and holes by chance, made by what is proposed', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  /** An upright block with rounded corners. */
  function rounded(x0: number, y0: number, x1: number, y1: number, low: number, high: number, r: number): Manifold {
    const corners = [x0 + r, x1 - r].flatMap((x) =>
      [y0 + r, y1 - r].map((y) => solids.Manifold.cylinder(high - low, r, r, 64).translate([x, y, low])),
    );
    return solids.Manifold.hull(corners);
  }

  function part(next: () => number): Manifold {
    const [x, y, low] = [45 + 20 * next(), 32 + 12 * next(), -14 - 10 * next()];
    let body = rounded(-x, -y, x, y, low, 0, 4 + 6 * next());
    const chamfer = next() < 0.5 ? 0.8 + next() : 0;
    if (chamfer > 0) {
      const r = 4 + 6 * next();
      body = solids.Manifold.hull([
        rounded(-x, -y, x, y, low, -chamfer, r),
        rounded(-x + chamfer, -y + chamfer, x - chamfer, y - chamfer, low, 0, r - chamfer),
      ]);
    }
    // a closed pocket, mostly with an island
    const r = 3.3 + 4 * next();
    const depth = 3 + 7 * next();
    let pocket = rounded(-x + 9, -y + 9, -4 - 4 * next(), y - 9, -depth, 10, r);
    if (next() < 0.6) pocket = pocket.subtract(rounded(-x + 21, -6, -x + 21 + 5 + 4 * next(), 4, -depth - 1, 10, 2));
    body = body.subtract(pocket);
    // a step or an open pocket on the other side
    if (next() < 0.7)
      body = body.subtract(rounded(x - 14 - 6 * next(), -y + 12 * next() - 30, x + 30, y + 20, -2 - 6 * next(), 10, 4));
    else body = body.subtract(rounded(6, -y - 20, 18 + 6 * next(), 6, -4 - 5 * next(), 10, 4.5));
    if (next() < 0.7) body = body.subtract(hole(solids, 2 + next(), y - 9, 2.5, low + 4, 118));
    if (next() < 0.7) body = body.subtract(hole(solids, 2 + next(), -y + 9.5, 5, -90));
    return body;
  }

  for (let seed = 1; seed <= 12; seed++)
    it(`part ${seed}: floors and walls come out as drawn, nothing is cut that should not be, and the program is released`, async () => {
      const next = numbers(104729 * seed);
      const body = part(next);
      const mesh = meshOf(soupOf(body));
      const survey = surveyOf(surfaceOf(mesh), contactMesh(mesh));
      const { minX, minY, minZ, maxX, maxY } = survey.box;
      const above = next() < 0.5 ? 0 : 1 + next();
      const raw = blockOf(solids, [minX - 1.2, minY - 1.2, minZ], [maxX + 1.2, maxY + 1.2, above]);
      const asked = groupsOf(survey.holes).map((group) => ({ group, purpose: purposesFor(group, CRIB)[0]! }));
      const milled = { survey, above, underside: minZ };
      const all = [proposeMilling(milled, CRIB), proposeHoles(asked, CRIB), proposeEdges(milled, CRIB)];
      expect(all.flatMap((p) => p.missing)).toEqual([]);
      const steps = all.flatMap((p) => p.steps).filter((s) => !s.isExtra);
      const job = testJob(
        steps.map(({ kind, tool, values }) => ({ kind, assemblyId: tool.assembly.id, values })),
        0,
        {
          crib: CRIB,
          cell: 0.15,
          blank: { kind: 'body', allowance: 0 },
          others: [{ file: 'b.stl', role: 'blank' }],
        } as object,
      );
      const session = new Session();
      session.take(job, Piece.of(job, { part: mesh, blank: meshOf(soupOf(raw)), key: 'part' }));
      await session.calculate(workHere);
      for (const { step } of session.snapshot.steps) {
        const { figures } = session.results.get(step.id)!;
        expect({ step: step.kind, findings: figures.findings }).toMatchObject({ findings: [] });
      }
      const { verdicts } = await release(session, crewHere());
      expect(verdicts.filter((v) => !v.ok)).toEqual([]);
      const { leftover } = session.results.get(session.snapshot.steps.at(-1)!.step.id)!.next;
      const own = leftover.filter((l) => !Number.isNaN(l));
      const done = own.filter((l) => Math.abs(l) <= DONE_MM).length / own.length;
      expect(done).toBeGreaterThan(DONE_SHARE);
    });
});
