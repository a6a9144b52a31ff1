/**
 * Times until it is known what a step of a demo job will come to, with its pattern: first, and after other values are typed.
 * Arguments: a job's name (citrus-cavity when left out).
 */
import { readFileSync } from 'node:fs';
import { startThreads } from '../packages/cli/src/crew';
import { CancelFlag } from '../packages/core/src/base/cancel';
import { crewOf } from '../packages/core/src/crew/crew';
import { Piece } from '../packages/core/src/evaluate/piece';
import { Session } from '../packages/core/src/evaluate/session';
import type { Job } from '../packages/core/src/job/job';
import { readJob } from '../packages/core/src/job/jobFile';
import { readPart } from '../packages/core/src/part/read';
import { houseOf } from '../packages/core/src/strategy/houseValues';
import { kindOf } from '../packages/core/src/strategy/registry';
import { toolOf } from '../packages/core/src/tool/library';
import { shapeOf } from '../packages/core/src/tool/shape';

const [name = 'citrus-cavity'] = process.argv.slice(2);
const job: Job = readJob(JSON.parse(readFileSync(`demo/jobs/${name}.json`, 'utf8')));
const { mesh } = await readPart(`${name}.stl`, readFileSync(`demo/parts/${name}.stl`), 'mm', () =>
  Promise.reject(new Error('no STEP here')),
);
const workers = startThreads(2);
const session = new Session();
const meshes = { part: mesh, key: name };
let piece: Piece | undefined;
const last = job.steps.at(-1)!;

/** What is typed one after another, by kind of step; each is timed. */
const TYPED: Record<string, readonly object[]> = {
  'parallel-passes': [{}, { scallop: 0.02 }, { angleDeg: 30 }, { allowance: 0.1 }],
  waterline: [{}, { scallop: 0.02 }, { allowance: 0.1 }],
  'slope-split': [{}, { scallop: 0.02 }, { fromSlopeDeg: 50 }],
  'even-scallop': [{}, { scallop: 0.02 }],
  'level-roughing': [{}, { ap: 1.5 }, { ae: 5 }, { sideAllowance: 0.6 }],
  'steady-roughing': [{}, { ae: 2 }],
};
for (const [kind, typed] of Object.entries(TYPED)) {
  const tool = toolOf(job.crib, kind.includes('roughing') ? job.steps[0]!.assemblyId : last.assemblyId)!;
  const values = houseOf(kindOf(kind)!, shapeOf(tool));
  const times: string[] = [];
  let sofar = {};
  for (const change of typed) {
    sofar = { ...sofar, ...change };
    const step = {
      ...last,
      id: 'new',
      kind,
      assemblyId: tool.assembly.id,
      limits: [],
      values: { ...values, ...sofar },
    };
    const next = { ...job, steps: [step] };
    const started = performance.now();
    piece = Piece.of(next, meshes, piece);
    session.take(next, piece);
    const found = await session.expected('new', crewOf(workers.callers, new CancelFlag()));
    times.push(`${Object.keys(change).join() || 'first'} ${((performance.now() - started) / 1000).toFixed(2)}`);
    if (!found) times.push('nothing told');
  }
  console.log(kind.padEnd(18), times.join('  '));
}
await workers.stop?.();
process.exit(0);
