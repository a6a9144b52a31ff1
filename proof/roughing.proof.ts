import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startThreads } from '../packages/cli/src/crew';
import { cutterProfile, toolOf } from '../packages/core/src/cutter/library';
import { type TriangleMesh, weld } from '../packages/core/src/geometry/mesh';
import { CutterDrop } from '../packages/core/src/cutter/drop';
import { contactMesh } from '../packages/core/src/geometry/contactMesh';
import { readPart } from '../packages/core/src/part/read';
import { type Job, parseJob } from '../packages/core/src/plan/job';
import { release } from '../packages/core/src/plan/release';
import { PlanSession } from '../packages/core/src/plan/session';
import { Reach } from '../packages/core/src/region/reach';
import { PACKAGED } from '../packages/core/test/packaged';
import { sheet, testJob } from '../packages/core/test/shapes';

/** Cells in a row that are looked at: each stands for its neighbours. */
const STRIDE = 3;
/** Beside a place that the step says it left out steel may stand, mm. */
const LEFT_OUT_MM = 12;
/** What rounding, the cells of the steel and the search for the lowest place may take, mm. */
const SLACK_MM = 0.12;

/** Steel may stand as high as the cutter reaches this far beside it: path tolerance and cells, mm. */
const BESIDE_MM = 0.25;
const AROUND = 12;

/** The negative of an open mesh: a block whose top is as deep as the mesh is high there. */
function cavityOf(soup: readonly number[]): TriangleMesh {
  const { mesh } = weld([...soup]);
  const { box } = contactMesh(mesh);
  const ray = new CutterDrop(contactMesh(mesh), { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
  const edge = 8;
  const depth = box.maxZ - box.minZ;
  return weld(
    sheet([box.minX - edge, box.minY - edge, box.maxX + edge, box.maxY + edge], 0.5, -depth - 10, (x, y) => {
      const z = ray.at(x, y);
      return z === -Infinity ? 0 : box.minZ - z;
    }),
  ).mesh;
}

async function demo(name: string): Promise<{ job: Job; mesh: TriangleMesh }> {
  const job = parseJob(JSON.parse(readFileSync(`demo/jobs/${name}.json`, 'utf8')));
  const { mesh } = await readPart(`${name}.stl`, readFileSync(`demo/parts/${name}.stl`), 'mm', () =>
    Promise.reject(new Error('no STEP here')),
  );
  const steps = job.steps.filter((s) => s.kind.includes('roughing')).slice(0, 2);
  const { DC } = toolOf(job.crib, steps[0]!.assemblyId)!.cutter;
  steps[0] = { ...steps[0]!, values: { ...steps[0]!.values, smallestOpening: DC + 1 } };
  return { job: { ...job, steps }, mesh };
}

const roughing = (): Job =>
  testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { ap: 2, stairs: 1, smallestOpening: 13 } }], 1, {
    cell: 0.2,
  });

describe('after roughing no steel is left where the cutter could reach, but one stair', () => {
  const crew = startThreads(2);
  afterAll(() => crew.stop());
  const parts: [string, () => Promise<{ job: Job; mesh: TriangleMesh }>][] = [
    ...['citrus-cavity', 'citrus-core', 'trowel-grip', 'corner-check'].map(
      (name): [string, () => Promise<{ job: Job; mesh: TriangleMesh }>] => [name, () => demo(name)],
    ),
    ...PACKAGED.flatMap(([name, soup]): [string, () => Promise<{ job: Job; mesh: TriangleMesh }>][] => [
      [`${name} as a core`, () => Promise.resolve({ job: roughing(), mesh: weld([...soup]).mesh })],
      [`${name} as a cavity`, () => Promise.resolve({ job: roughing(), mesh: cavityOf(soup) })],
    ]),
  ];
  for (const [name, make] of parts)
    describe(name, () => {
      const isOpen = name.endsWith('as a core');
      let job: Job;
      const session = new PlanSession();
      beforeAll(async () => {
        const made = await make();
        job = made.job;
        session.prepare(job, made.mesh, name);
        await session.evaluate(job, crew, () => undefined);
      }, 600_000);

      it('no gouge, no rapid or plunge through steel, no contact, and the text that is read back leaves the same steel', async () => {
        for (const step of job.steps) expect(session.results.get(step.id)!.figures.findings).toEqual([]);
        const released = await release(job, session, crew);
        expect(released.verdicts.filter((v) => !v.ok)).toEqual([]);
      });

      it('the first step leaves at most a stair above the lowest that its cutter can reach', () => {
        const step = job.steps[0]!;
        const { after, tool, figures, path } = session.results.get(step.id)!;
        const { sideAllowance, floorAllowance, ap } = step.values as Record<string, number>;
        const reach = new Reach({
          mesh: session.machinedPart,
          piece: cutterProfile(tool.cutter),
          side: sideAllowance!,
          floor: floorAllowance!,
        });
        const { minX, minY, maxX, maxY } = session.machinedPart.box;
        // beside an open mesh nothing tells how deep to go: as deep as the deepest place that it is touched at
        const deepest = isOpen ? path.z.reduce((low, z) => Math.min(low, z), Infinity) : -Infinity;
        let most = { over: -Infinity, x: 0, y: 0, z: 0, low: 0 };
        let cells = 0;
        for (let j = 0; j < after.ny; j += STRIDE)
          for (let i = 0; i < after.nx; i += STRIDE) {
            const x = after.x0 + (i + 0.5) * after.cell;
            const y = after.y0 + (j + 0.5) * after.cell;
            if (x < minX || x > maxX || y < minY || y > maxY) continue;
            if (figures.leftOut.some((l) => Math.hypot(l.x - x, l.y - y) < LEFT_OUT_MM)) continue;
            cells++;
            const z = after.heights[j * after.nx + i]!;
            let low = Math.max(after.floor, deepest, reach.lowest(x, y));
            // beside an upright wall a hair to the side is the whole height
            for (let k = 0; k < AROUND && z - low > ap!; k++) {
              const a = (2 * Math.PI * k) / AROUND;
              low = Math.max(low, reach.lowest(x + BESIDE_MM * Math.cos(a), y + BESIDE_MM * Math.sin(a)));
            }
            if (z - low > most.over) most = { over: z - low, x, y, z, low };
          }
        expect(cells).toBeGreaterThan(500);
        expect(most.over).toBeLessThan(ap! + SLACK_MM);
      });
    });
});
