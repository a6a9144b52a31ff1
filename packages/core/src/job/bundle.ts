import { strFromU8, strToU8, zipSync } from 'fflate';
import { EsquisseError, messageOf } from '../base/errors';
import { Zip } from '../part/zip';
import { filesOf, type Job } from './job';
import { jobFile, readJob } from './jobFile';

const JOB_FILE = 'job.json';

/** A job's own description larger than this is none: 5,000 tools take 1.5 MB. */
const LARGEST_JOB = 64 * 2 ** 20;

/** A whole job with its files by their name. */
export interface Bundle {
  job: Job;
  files: ReadonlyMap<string, Uint8Array>;
}

/** The whole job as one zip file: job.json and the files that it names. */
export function packBundle({ job, files }: Bundle): Uint8Array {
  const entries = new Map([[JOB_FILE, strToU8(JSON.stringify(jobFile(job), null, 2))], ...files]);
  return zipSync(Object.fromEntries(entries), { level: 6 });
}

/**
 * Opens a job's zip file. Only what the job names is unpacked.
 *
 * @throws EsquisseError `file-kind`, `file-truncated`, `file-unreadable`, `memory` or `job-invalid`, saying what is wrong and where
 */
export function openBundle(bytes: Uint8Array, name: string): Bundle {
  if (bytes.length < 4 || bytes[0] !== 0x50 || bytes[1] !== 0x4b)
    throw new EsquisseError('file-kind', `"${name}" is not a job file: it is not a zip file.`, name);
  const zip = new Zip(bytes, `"${name}"`);
  const text = zip.read(JOB_FILE, LARGEST_JOB);
  if (!text)
    throw new EsquisseError(
      'file-kind',
      `"${name}" is a zip file, but not a job: there is no ${JOB_FILE} in it.`,
      JOB_FILE,
    );
  const job = readJob(parseJson(strFromU8(text), `${JOB_FILE} in "${name}"`), `${JOB_FILE} in "${name}"`);
  const files = new Map<string, Uint8Array>();
  for (const { file } of filesOf(job)) {
    const content = zip.read(file);
    if (!content) throw new EsquisseError('file-unreadable', `"${name}" lacks the file ${file}.`, file);
    files.set(file, content);
  }
  return { job, files };
}

/** @throws EsquisseError `file-unreadable` with the place of the first fault */
export function parseJson(text: string, source: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new EsquisseError('file-unreadable', `${source} is not readable JSON: ${messageOf(error)}.`, source);
  }
}
