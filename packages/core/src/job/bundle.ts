import { strFromU8, strToU8, zipSync } from 'fflate';
import { EsquisseError, messageOf } from '../base/errors';
import { unzipChecked } from '../part/zip';
import { filesOf, type Job, parseJob } from './job';

const JOB_FILE = 'job.json';

/** A whole job with its files by their path. */
export interface Bundle {
  job: Job;
  files: Record<string, Uint8Array>;
}

/** The whole job as one zip file: job.json and the files that it names. */
export function packBundle(bundle: Bundle): Uint8Array {
  const entries: Record<string, Uint8Array> = { [JOB_FILE]: strToU8(JSON.stringify(bundle.job, null, 2)) };
  for (const [path, bytes] of Object.entries(bundle.files)) entries[path] = bytes;
  return zipSync(entries, { level: 6 });
}

/**
 * Opens a job's zip file.
 *
 * @throws EsquisseError `file-kind`, `file-truncated`, `file-unreadable` or `job-invalid`, saying what is wrong and where
 */
export function openBundle(bytes: Uint8Array, name: string): Bundle {
  if (bytes.length < 4 || bytes[0] !== 0x50 || bytes[1] !== 0x4b)
    throw new EsquisseError('file-kind', `"${name}" is not a job file: it is not a zip file.`, name);
  let entries: Record<string, Uint8Array>;
  try {
    entries = unzipChecked(bytes);
  } catch (error) {
    throw new EsquisseError(
      'file-truncated',
      `"${name}" is damaged or was cut off at byte ${bytes.length} (${messageOf(error)}). Save or copy it again.`,
      `byte ${bytes.length}`,
    );
  }
  const text = entries[JOB_FILE];
  if (!text)
    throw new EsquisseError(
      'file-kind',
      `"${name}" is a zip file, but not a job: there is no ${JOB_FILE} in it.`,
      JOB_FILE,
    );
  const job = parseJob(parseJson(strFromU8(text), `${JOB_FILE} in "${name}"`), `${JOB_FILE} in "${name}"`);
  const files: Record<string, Uint8Array> = {};
  for (const [path, content] of Object.entries(entries))
    if (path !== JOB_FILE && !path.endsWith('/')) files[path] = content;
  for (const { file } of filesOf(job))
    if (!files[file]) throw new EsquisseError('file-unreadable', `"${name}" lacks the file ${file}.`, file);
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
