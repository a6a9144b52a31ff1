import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { groupsOf, proposeHoles, purposesFor } from '../packages/core/src/proposals/holes';
import { Piece } from '../packages/core/src/evaluate/piece';
import { Session } from '../packages/core/src/evaluate/session';
import { release } from '../packages/core/src/release/release';
import { holesIn } from '../packages/core/src/survey/features';
import { surfaceOf } from '../packages/core/src/survey/surface';
import { blockOf, hole, modeller, numbers, soupOf } from '../packages/core/test/plates';
import { cribOf, crewHere, type EndMill, meshOf, testJob, workHere } from '../packages/core/test/shapes';

const drill = (DC: number, APMX: number): EndMill => ['drill', DC, 0, APMX, DC, APMX + 25, { SIG: 140 }];
const CRIB = cribOf({
  spot: ['spot', 12, 0, 20, 12, 40, { SIG: 90 }],
  d33: drill(3.3, 40),
  d5: drill(5, 50),
  d68: drill(6.8, 50),
  d78: drill(7.8, 60),
  d10: drill(10, 60),
  r8: ['reamer', 8, 0, 40, 7, 70],
  m6: ['tap', 6, 0, 30, 4, 55, { TP: 1 }],
  m8: ['tap', 8, 0, 30, 5.5, 55, { TP: 1.25 }],
  f6: ['flat', 6, 0, 26, 6, 45],
  b10: ['bull', 10, 1, 32, 10, 55],
  c90: ['chamfer', 12, 0, 14, 12, 40, { SIG: 90 }],
});
/** Holes that are drawn of these diameters, and bores over them. */
const DIAMETERS = [3.3, 5, 6.8, 8, 10, 14, 22];
const BORES = [0, 0, 16, 26];

describe('plates with holes by chance, made by what is proposed', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  /** A plate with holes on a grid, a step on one side, and a roof that may lean. */
  function plate(lean: number, next: () => number): { body: Manifold; milled: Manifold } {
    let body = blockOf(solids, [-60, -40, -24], [60, 40, 4]);
    body = body.subtract(
      blockOf(solids, [-120, -120, 0], [120, 120, 60])
        .rotate([lean, 0, 0])
        .translate([0, 0, lean > 0 ? 1 : 0]),
    );
    if (next() < 0.5) body = body.subtract(blockOf(solids, [30, -60, -4 - 8 * next()], [70, 60, 50]));
    const milled = body;
    for (const x of [-42, -14, 14, 44])
      for (const y of [-22, 22]) {
        if (next() < 0.2) continue;
        const d = DIAMETERS[Math.floor(next() * DIAMETERS.length)]!;
        const through = next() < 0.4;
        const bottom = through ? -60 : -13 - 6 * next();
        body = body.subtract(hole(solids, x + next(), y + next(), d / 2, bottom, through || next() < 0.3 ? 0 : 118));
        const bore = BORES[Math.floor(next() * BORES.length)]!;
        if (bore > d) body = body.subtract(hole(solids, x, y, bore / 2, -12.5));
      }
    return { body, milled };
  }

  for (let seed = 1; seed <= 16; seed++)
    it(`plate ${seed}: nothing is cut that should not be, and every program is released`, async () => {
      const next = numbers(7919 * seed);
      const lean = next() < 0.4 ? 4 * next() : 0;
      const isLevel = lean === 0;
      const { body, milled } = plate(lean, next);
      const soup = soupOf(body);
      const holes = holesIn(surfaceOf(meshOf(soup)));
      expect(holes.length).toBeGreaterThan(1);
      const asked = groupsOf(holes).map((group) => {
        const purposes = purposesFor(group, CRIB);
        return { group, purpose: purposes[Math.floor(next() * (purposes.length - 1))]! };
      });
      const { steps } = proposeHoles(asked, CRIB);
      const edges = {
        kind: 'chamfering',
        assemblyId: 'c90',
        values: { edges: 'sharp', width: 0.2 + 0.6 * next(), below: 0.5, face: 0 },
      };
      const job = testJob(
        [
          ...steps.map(({ kind, tool, values }) => ({ kind, assemblyId: tool.assembly.id, values })),
          // what stands beside a lower face is not milled here
          ...(isLevel ? [edges] : []),
        ],
        0,
        // all but the holes is milled already
        {
          crib: CRIB,
          cell: 0.2,
          blank: { kind: 'body', allowance: 0 },
          others: [{ file: 'milled.stl', role: 'blank', unit: 'mm', hash: '' }],
        },
      );
      const session = new Session();
      session.take(job, Piece.of(job, { part: meshOf(soup), blank: meshOf(soupOf(milled)), key: 'plate' }));
      await session.calculate(workHere);
      for (const { step } of session.snapshot.steps) {
        const { figures } = session.results.get(step.id)!;
        expect({ step: step.name, kind: step.kind, values: step.values, findings: figures.findings }).toMatchObject({
          findings: [],
        });
      }
      const { verdicts } = await release(session, crewHere());
      expect(verdicts.filter((v) => !v.ok)).toEqual([]);
    });
});
