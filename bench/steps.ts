/**
 * Times of the steps of a demo job on two threads, each step alone and the second time round, when all code is warm. Arguments:
 * a job's name (citrus-cavity when left out), the last step, and values of steps to be changed as JSON, such as
 * `{"2": {"threshold": 0.5}}`; with `kind` among them the step is of that kind and has these values only.
 */
import { readFileSync } from 'node:fs';
import { startThreads } from '../packages/cli/src/crew';
import { readPart } from '../packages/core/src/part/read';
import type { CancelFlag } from '../packages/core/src/base/cancel';
import { type Crew, crewOf } from '../packages/core/src/crew/crew';
import { Piece } from '../packages/core/src/evaluate/piece';
import type { Job } from '../packages/core/src/job/job';
import { readJob } from '../packages/core/src/job/jobFile';
import { Session } from '../packages/core/src/evaluate/session';

const ROUNDS = Number(process.env['ROUNDS'] ?? 3);

const [name = 'citrus-cavity', last = '2', changes = '{}'] = process.argv.slice(2);
const change = JSON.parse(changes) as Record<string, Record<string, unknown>>;
const file = JSON.parse(readFileSync(`demo/jobs/${name}.json`, 'utf8')) as {
  setups: { steps: { assemblyId: string; values: Record<string, unknown> }[] }[];
};
const setup = file.setups[0]!;
setup.steps = setup.steps.slice(0, Number(last)).map((step, k) => {
  const { assemblyId, kind, ...values } = change[String(k + 1)] ?? {};
  return {
    ...step,
    ...(assemblyId ? { assemblyId: String(assemblyId) } : {}),
    ...(kind ? { kind: String(kind), limits: [], values } : { values: { ...step.values, ...values } }),
  };
});
const job: Job = readJob(file);
const { mesh } = await readPart(`${name}.stl`, readFileSync(`demo/parts/${name}.stl`), 'mm', () =>
  Promise.reject(new Error('no STEP here')),
);

/** Spans in which each kind of task was under way, in s since the step was begun. */
interface Span {
  task: string;
  from: number;
  to: number;
}

/** A crew that writes down when its tasks were under way. */
function watched(crew: Crew, spans: Span[], started: () => number): Crew {
  const watch = async <T>(task: string, work: () => Promise<T>): Promise<T> => {
    const from = started();
    const result = await work();
    spans.push({ task, from, to: started() });
    return result;
  };
  return {
    ...crew,
    all: (task, inputs, onDone) => watch(task.name, () => crew.all(task, inputs, onDone)),
    inTurn: (task, inputs, take, onDone) => watch(task.name, () => crew.inTurn(task, inputs, take, onDone)),
  };
}

const workers = startThreads(2);
const crewFor = (cancel: CancelFlag): Crew => crewOf(workers.callers, cancel);
for (let round = 1; round <= ROUNDS; round++) {
  const session = new Session();
  session.take(job, Piece.of(job, { part: mesh, key: name }));
  // what stands above the part at the beginning is worked out while the bench shows it
  session.snapshot.piece.topsOn(session.snapshot.piece.cell);
  for (let k = 0; k < job.steps.length; k++) {
    const spans: Span[] = [];
    const begun = performance.now();
    const before = process.cpuUsage();
    const started = (): number => (performance.now() - begun) / 1000;
    await session.calculate(
      { crew: (cancel) => watched(crewFor(cancel), spans, started), onProgress: () => undefined },
      job.steps[k]!.id,
    );
    const { user, system } = process.cpuUsage(before);
    const { figures, path } = session.results.get(job.steps[k]!.id)!;
    console.log(
      `${round} ${job.steps[k]!.name.padEnd(18)} ${started().toFixed(2)} s  cpu ${((user + system) / 1e6).toFixed(2)} s  ${path.x.length} motions  program ${(figures.time / 60).toFixed(1)} min  ` +
        spans.map((s) => `${s.task} ${s.from.toFixed(2)}-${s.to.toFixed(2)}`).join('  '),
    );
  }
}
await workers.stop();
