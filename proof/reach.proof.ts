import { afterAll, describe, expect, it } from 'vitest';
import { startThreads } from '../packages/cli/src/crew';
import { CancelFlag } from '../packages/core/src/base/cancel';
import { crewOf } from '../packages/core/src/crew/crew';
import type { Session } from '../packages/core/src/evaluate/session';
import { calculateJob } from '../packages/core/src/evaluate/whole';
import { ClosestPoint } from '../packages/core/src/geometry/closest';
import type { Job } from '../packages/core/src/job/job';
import { release } from '../packages/core/src/release/release';
import { cribOf, meshOf, sheet, type Soup, squarePocket, testJob } from '../packages/core/test/shapes';

/**
 * Parts that are nothing like the demo's, made to be hard on what reaches into them: deeper than the flutes are long,
 * with walls along the passes, with plateaus that an earlier cutter left. None may be refused, and what stays is told.
 */

const workers = startThreads(2);
afterAll(() => workers.stop());

type Steps = Parameters<typeof testJob>[0];

async function calculatedAndReleased(job: Job, soup: Soup): Promise<Session> {
  const session = await calculateJob(job, { part: meshOf(soup), key: 'proof' }, workers.callers);
  for (const step of job.steps) expect(session.results.get(step.id)!.figures.findings).toEqual([]);
  const released = await release(session, crewOf(workers.callers, new CancelFlag()));
  expect(released.verdicts.filter((v) => !v.ok)).toEqual([]);
  return session;
}

/** A slot, level in u and with walls of a slope, turned by an angle in plan. */
const slot =
  (angle: number, half: number, depth: number, slope: number) =>
  (x: number, y: number): number => {
    const v = y * Math.cos(angle) - x * Math.sin(angle);
    return -depth + Math.min(depth, Math.max(0, Math.abs(v) - half) * slope);
  };

/** A body that stands up from a level ground, with a rounded top edge. */
const roundedBody =
  (halfX: number, halfY: number, height: number, edge: number) =>
  (x: number, y: number): number => {
    const d = Math.hypot(Math.max(0, Math.abs(x) - halfX), Math.max(0, Math.abs(y) - halfY));
    return d < edge ? height - edge + Math.sqrt(edge * edge - d * d) : 0;
  };

describe('deeper than the flutes are long', () => {
  const parts: [string, Soup][] = [
    ['an upright square pocket of 38', squarePocket(40, 28, 38, -50)],
    ['a body of 34 on a level ground', sheet([-40, -40, 40, 40], 1, -12, roundedBody(14, 10, 34, 8))],
    ['a slot of 26 along 28.6°', sheet([-45, -35, 45, 35], 0.8, -40, slot(0.5, 12, 26, 3.2))],
    [
      'ribs of 22 with hardly any draft',
      sheet(
        [-30, -30, 30, 30],
        0.6,
        -40,
        (x) => -22 + Math.min(22, Math.max(0, Math.abs(((x + 30) % 15) - 7.5) - 4.2) * 9),
      ),
    ],
  ];
  const necks: [string, number][] = [
    ['a neck as thick as the cutter', 6],
    ['a neck with little relief', 5.6],
    ['a slim neck', 3],
  ];
  for (const [part, soup] of parts)
    for (const [name, neck] of necks)
      it(`${part}, ${name}: calculated and released`, async () => {
        const crib = cribOf({
          rough: ['bull', 12, 1.5, 24, 11.4, 60],
          rest: ['bull', 6, 0.5, 8, 5.6, 60],
          semi: ['ball', 8, 4, 16, 7.6, 60],
          fine: ['ball', 6, 3, 12, neck, 60],
        });
        const steps: Steps = [
          { kind: 'level-roughing', assemblyId: 'rough' },
          { kind: 'rest-roughing', assemblyId: 'rest' },
          {
            kind: 'parallel-passes',
            assemblyId: 'semi',
            values: { allowance: 0.15, scallop: 0.05, tolerance: 0.02, mostSteel: 3, angleDeg: 45 },
          },
          { kind: 'parallel-passes', assemblyId: 'fine', values: { scallop: 0.01 } },
        ];
        await calculatedAndReleased(testJob(steps, 1, { crib, cell: null }), soup);
      });
});

describe('walls along the passes', () => {
  const SCALLOP = 0.01;
  for (const angleDeg of [0, 37, 90])
    it(`at ${angleDeg}° what stays on them is told, nearly all of it, and where it is said to be it is`, async () => {
      const soup = sheet([-30, -30, 30, 30], 0.5, -24, slot((angleDeg / 180) * Math.PI, 9, 14, 7));
      const crib = cribOf({ rough: ['bull', 8, 1, 20, 7.6, 40], fine: ['ball', 6, 3, 18, 5.6, 40] });
      const job = testJob(
        [
          { kind: 'level-roughing', assemblyId: 'rough' },
          { kind: 'parallel-passes', assemblyId: 'fine', values: { scallop: SCALLOP, angleDeg } },
        ],
        1,
        { crib, cell: null },
      );
      const session = await calculatedAndReleased(job, soup);
      const { unfinished } = session.results.get('s2')!.figures;
      const { after } = session.results.get('s2')!.next;
      const nearest = new ClosestPoint(session.snapshot.piece.part);
      // told by nothing but the nearest point of the part, cell by cell: on the walls, far from the part's own border
      let stays = 0;
      let thickest = 0;
      for (let j = 0; j < after.ny; j++)
        for (let i = 0; i < after.nx; i++) {
          const x = after.x0 + (i + 0.5) * after.cell;
          const y = after.y0 + (j + 0.5) * after.cell;
          if (Math.hypot(x, y) > 20) continue;
          const distance = nearest.distance(x, y, after.heights[j * after.nx + i]!);
          if (distance > 0.15) stays += after.cell ** 2;
          thickest = Math.max(thickest, distance);
        }
      const bands = unfinished!.bands.filter((b) => b.from >= 75);
      expect(thickest).toBeGreaterThan(0.15);
      expect(stays).toBeGreaterThan(0);
      expect(bands.reduce((sum, b) => sum + b.area, 0)).toBeGreaterThan(stays);
      expect(bands.reduce((most, b) => Math.max(most, b.thickest), 0)).toBeGreaterThan(0.9 * thickest);
      expect(unfinished!.places.length).toBeGreaterThan(0);
      for (const { x, y, z, thickest: thick } of unfinished!.places) {
        expect(thick).toBeGreaterThan(unfinished!.most);
        expect(nearest.distance(x, y, z)).toBeCloseTo(thick, 4);
      }
    });
});

describe('plateaus that an earlier cutter left', () => {
  /** Stairs as high as the link's lowering and less, and wider than the cutter: what a cutter may be set down on. */
  const terraces =
    (rise: number, wide: number, turn: number) =>
    (x: number, y: number): number => {
      const u = x * Math.cos(turn) + y * Math.sin(turn);
      const v = y * Math.cos(turn) - x * Math.sin(turn);
      return -18 + rise * Math.floor(Math.abs(u) / wide) + (Math.abs(v) > 20 ? 6 : 0);
    };
  for (const [rise, wide, turn] of [
    [0.165, 9, 0],
    [0.3, 8.5, 0.4],
    [0.5, 11, 1.1],
    [1.2, 9.5, 0.7],
  ] as const)
    it(`stairs of ${rise} mm, ${wide} mm wide: no cutter that does not cut over its centre is set down on one`, async () => {
      const soup = sheet([-40, -30, 40, 30], 0.8, -32, terraces(rise, wide, turn));
      const crib = cribOf({ rough: ['bull', 16, 2, 24, 15.4, 50], rest: ['flat', 8, 0, 20, 7.6, 40] });
      const steps: Steps = [
        { kind: 'level-roughing', assemblyId: 'rough', values: { sideAllowance: 0.3, floorAllowance: 0.2 } },
        { kind: 'rest-roughing', assemblyId: 'rest', values: { sideAllowance: 0.3, floorAllowance: 0.05, ap: 0.5 } },
      ];
      await calculatedAndReleased(testJob(steps, 2, { crib, cell: null }), soup);
    });
});
