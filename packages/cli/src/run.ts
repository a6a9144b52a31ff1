import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import {
  type Bundle,
  calculateJob,
  CancelFlag,
  crewOf,
  EsquisseError,
  filesOf,
  type Job,
  jobReport,
  meshesOfJob,
  meshFingerprint,
  messageOf,
  openBundle,
  parseJson,
  type ReadMesh,
  readJob,
  readPart,
  release,
  type Session,
  steelSoup,
  toolList,
  toolOf,
  writeStl,
} from '@esquisse/core';
import { startWorkers } from './crew';
import { readStepFile } from './stepReader';

/** Stock meshes are written with at most about this many terraces. */
const MOST_TERRACES = 1_000_000;

export interface RunOptions {
  job: string;
  out: string;
  /** Work out and post steps 1 to this one only. */
  step?: number;
  workers?: number;
}

/**
 * Works out a job and writes program, meshes, report and tool list into a folder.
 *
 * @returns whether nothing was found that must not happen
 * @throws EsquisseError for bad input; nothing is written then
 */
export async function run(options: RunOptions): Promise<boolean> {
  const bundle = readJobFile(options.job);
  const job = { ...bundle.job };
  if (options.step !== undefined) {
    if (options.step > job.steps.length)
      throw new EsquisseError('value-invalid', `There is no step ${options.step}: the job has ${job.steps.length}.`);
    job.steps = job.steps.slice(0, options.step);
  }
  if (!job.part) throw new EsquisseError('job-invalid', 'The job has no part.', 'part');
  if (job.steps.length === 0) throw new EsquisseError('job-invalid', 'The job has no step.', 'steps');
  const reads = new Map<string, ReadMesh>();
  for (const { file, unit } of filesOf(job))
    reads.set(file, await readPart(file, bundle.files.get(file)!, unit, readStepFile));
  const { part, blank, fixtures } = meshesOfJob(job, ({ file }) => reads.get(file));
  const key = [part, blank, ...fixtures].map((m) => (m ? meshFingerprint(m) : '-')).join();
  const { callers, stop } = startWorkers(options.workers);
  try {
    const session = await calculateJob(job, { part, blank, fixtures, key }, callers);
    const { piece } = session.snapshot;
    const released = await release(session, crewOf(callers, new CancelFlag()));
    const { out } = options;
    mkdirSync(out, { recursive: true });
    const stride = Math.max(1, Math.ceil(Math.sqrt(piece.steel.heights.length / MOST_TERRACES)));
    const last = session.results.get(job.steps[job.steps.length - 1]!.id)!;
    const tools = job.crib.assemblies.map((a) => toolOf(job.crib, a.id)!);
    writeFileSync(join(out, released.fileName), released.text);
    writeFileSync(join(out, 'part.stl'), writeStl(piece.part.triangles));
    writeFileSync(
      join(out, 'stock-before.stl'),
      writeStl(isBox(job) ? blockSoup(session) : steelSoup(piece.steel, stride)),
    );
    writeFileSync(join(out, 'stock-after.stl'), writeStl(steelSoup(last.next.after, stride)));
    writeFileSync(join(out, 'tools.json'), JSON.stringify(toolList(tools), null, 2));
    writeFileSync(join(out, 'report.json'), JSON.stringify(jobReport(session, released), null, 2));
    for (const verdict of released.verdicts)
      console.log(`${verdict.ok ? 'yes' : 'NO '}  ${verdict.title}: ${verdict.text}`);
    return released.ok;
  } finally {
    await stop();
  }
}

const isBox = (job: Job): boolean =>
  job.drilled.length === 0 && (job.blank.kind === 'offset' || job.blank.kind === 'fixed');

/** The blank as twelve triangles. */
function blockSoup(session: Session): number[] {
  const { minX, minY, minZ, maxX, maxY, maxZ } = session.snapshot.piece.box;
  const unit = steelSoup({ x0: 0, y0: 0, cell: 1, nx: 1, ny: 1, floor: 0, heights: Float32Array.of(1) });
  const low = [minX, minY, minZ];
  const size = [maxX - minX, maxY - minY, maxZ - minZ];
  return unit.map((v, i) => low[i % 3]! + v * size[i % 3]!);
}

function readJobFile(path: string): Bundle {
  const bytes = readBytes(path, `The job "${path}"`);
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) return openBundle(bytes, path);
  const job = readJob(parseJson(new TextDecoder().decode(bytes), `"${path}"`), `"${path}"`);
  const files = new Map<string, Uint8Array>();
  for (const { file } of filesOf(job))
    files.set(file, readBytes(resolve(dirname(path), file), `The file "${file}" named in "${path}"`));
  return { job, files };
}

function readBytes(path: string, what: string): Uint8Array {
  try {
    return new Uint8Array(readFileSync(path));
  } catch (error) {
    throw new EsquisseError('file-unreadable', `${what} cannot be read: ${messageOf(error)}.`, path);
  }
}
