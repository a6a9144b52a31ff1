import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startThreads } from '../packages/cli/src/crew';
import { CancelFlag } from '../packages/core/src/base/cancel';
import { crewOf } from '../packages/core/src/crew/crew';
import { calculateJob } from '../packages/core/src/evaluate/whole';
import { toolOf } from '../packages/core/src/tool/library';
import { cutterProfile } from '../packages/core/src/tool/shape';
import { type TriangleMesh, weld } from '../packages/core/src/geometry/mesh';
import { CutterDrop } from '../packages/core/src/tool/drop';
import { contactMesh } from '../packages/core/src/geometry/contactMesh';
import { readPart } from '../packages/core/src/part/read';
import type { Job } from '../packages/core/src/job/job';
import { readJob } from '../packages/core/src/job/jobFile';
import { release } from '../packages/core/src/release/release';
import type { Session } from '../packages/core/src/evaluate/session';
import { Reach } from '../packages/core/src/field/reach';
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
  const job = readJob(JSON.parse(readFileSync(`demo/jobs/${name}.json`, 'utf8')));
  const { mesh } = await readPart(`${name}.stl`, readFileSync(`demo/parts/${name}.stl`), 'mm', () =>
    Promise.reject(new Error('no STEP here')),
  );
  const steps = job.steps.filter((s) => s.kind.includes('roughing')).slice(0, 2);
  const { DC } = toolOf(job.crib, steps[0]!.assemblyId)!.cutter;
  steps[0] = { ...steps[0]!, values: { ...steps[0]!.values, smallestOpening: DC + 1 } };
  return { job: { ...job, steps }, mesh };
}

/** Surfaces with ribs, pegs, steps and spirals: what a hair of allowance does not forgive. */
const MADE_UP: readonly [string, (x: number, y: number) => number][] = [
  [
    'a spiral',
    (x, y) => {
      const r = Math.hypot(x, y);
      const wave = Math.sin(3 * Math.atan2(y, x) + r / 6) * (r - 8);
      return -14 + 13 * Math.tanh(wave / 9) * (r < 22 ? 1 : Math.max(0, 1 - (r - 22) / 7));
    },
  ],
  [
    'a spiral whose grooves run out at the border',
    (x, y) => {
      const r = Math.hypot(x, y);
      return -14 + 13 * Math.tanh((Math.sin(3 * Math.atan2(y, x) + r / 6) * (r - 8)) / 9);
    },
  ],
  [
    'dunes as far as the corners of the block',
    (x, y) => -12 + 9 * Math.sin(x / 8 + Math.sin(y / 11)) * Math.cos(y / 9 - 0.3),
  ],
  [
    'deep holes and open slots',
    (x, y) => {
      const holes = [
        [-20, -12, 5.2, -34],
        [18, 10, 4.6, -30],
        [0, 0, 8, -20],
        [-22, 14, 3.6, -12],
      ] as const;
      const hole = holes.find(([hx, hy, r]) => Math.hypot(x - hx, y - hy) < r);
      if (hole) return hole[3];
      if (Math.abs(y - 22) < 4.5) return -9;
      return Math.abs(x - 32) < 4.2 ? -14 + 0.1 * y : 0;
    },
  ],
  [
    'pegs in a box',
    (x, y) => {
      const pegs = [
        [-20, -12, 0, 4],
        [-9, 14, -6, 2.4],
        [8, -6, -3, 3],
        [24, 10, 0, 5],
        [22, -16, -11, 1.6],
      ] as const;
      const tops = pegs.map(([px, py, top, r]) => top - 9 * Math.max(0, Math.hypot(x - px, y - py) - r));
      const inside = Math.min(40 - Math.abs(x), 30 - Math.abs(y));
      return Math.max(-22 + 0.1 * x, ...tops, Math.min(0, -26 + 12 * Math.max(0, 8 - inside)));
    },
  ],
  [
    'slanting steps',
    (x, y) => {
      const t = Math.abs(0.8 * x + 0.6 * y);
      return -2 * Math.floor(t / 4.1) - 2.5 * Math.max(0, (t % 4.1) - 3.3);
    },
  ],
  [
    'a basin with a winding rib',
    (x, y) => {
      const r = Math.hypot(x / 1.3, y);
      const rib = 14 * Math.exp(-((y - 4 * Math.sin(x / 7)) ** 2) / 5);
      return r < 26 ? Math.max(-24 * Math.max(0, 1 - (r / 26) ** 4), -24 + rib) : 0;
    },
  ],
];

/** Roughing and rest roughing almost down to the surface, with fine stairs. */
async function almostBare(height: (x: number, y: number) => number): Promise<{ job: Job; mesh: TriangleMesh }> {
  const { job } = await demo('citrus-cavity');
  const close = { sideAllowance: 0.05, floorAllowance: 0.05, tolerance: 0.008 };
  const [first, second] = job.steps;
  const steps = [
    { ...first!, limits: [], values: { ...first!.values, ...close, stairs: 0.6 } },
    {
      ...second!,
      limits: [],
      assemblyId: 't4',
      values: { ...second!.values, ...close, threshold: 0.2, stairs: 0.3, order: 'level' },
    },
  ];
  return { job: { ...job, drilled: [], steps }, mesh: weld(sheet([-42, -32, 42, 32], 0.35, -40, height)).mesh };
}

const roughing = (): Job =>
  testJob([{ kind: 'level-roughing', assemblyId: 't2', values: { ap: 2, stairs: 1, smallestOpening: 13 } }], 1, {
    cell: 0.2,
  });

describe('after roughing no steel is left where the cutter could reach, but one stair', () => {
  const workers = startThreads(2);
  afterAll(() => workers.stop());
  const parts: [string, () => Promise<{ job: Job; mesh: TriangleMesh }>][] = [
    ...['citrus-cavity', 'citrus-core', 'trowel-grip', 'corner-check'].map(
      (name): [string, () => Promise<{ job: Job; mesh: TriangleMesh }>] => [name, () => demo(name)],
    ),
    ...PACKAGED.flatMap(([name, soup]): [string, () => Promise<{ job: Job; mesh: TriangleMesh }>][] => [
      [`${name} as a core`, () => Promise.resolve({ job: roughing(), mesh: weld([...soup]).mesh })],
      [`${name} as a cavity`, () => Promise.resolve({ job: roughing(), mesh: cavityOf(soup) })],
    ]),
    ...MADE_UP.map(([name, height]): [string, () => Promise<{ job: Job; mesh: TriangleMesh }>] => [
      name,
      () => almostBare(height),
    ]),
  ];
  for (const [name, make] of parts)
    describe(name, () => {
      const isOpen = name.endsWith('as a core');
      let job: Job;
      let session: Session;
      beforeAll(async () => {
        const made = await make();
        job = made.job;
        session = await calculateJob(job, { part: made.mesh, key: name }, workers.callers);
      }, 600_000);

      it('no gouge, no rapid or plunge through steel, no contact, and the text that is read back leaves the same steel', async () => {
        for (const step of job.steps) expect(session.results.get(step.id)!.figures.findings).toEqual([]);
        const released = await release(session, crewOf(workers.callers, new CancelFlag()));
        expect(released.verdicts.filter((v) => !v.ok)).toEqual([]);
      });

      it('the first step leaves at most a stair above the lowest that its cutter can reach', () => {
        const step = job.steps[0]!;
        const { next, figures, path } = session.results.get(step.id)!;
        const { after } = next;
        const { part } = session.snapshot.piece;
        const { sideAllowance, floorAllowance, ap } = step.values as Record<string, number>;
        const reach = new Reach({
          mesh: part,
          piece: cutterProfile(session.snapshot.steps[0]!.shape),
          side: sideAllowance!,
          floor: floorAllowance!,
        });
        const { minX, minY, maxX, maxY } = part.box;
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
