import { EsquisseError, filesOf, flattened, type Job, jobFile, messageOf, type ModelFile } from '@esquisse/core';
import { type DBSchema, type IDBPDatabase, openDB } from 'idb';
import type { JobLook, KeptFile, KeptJob, KeptMesh, KeptPath, StoredJob } from './records';

interface Keeping extends DBSchema {
  jobs: { key: string; value: StoredJob; indexes: { changed: number } };
  files: { key: [string, string]; value: KeptFile; indexes: { jobId: string } };
  paths: { key: string; value: KeptPath; indexes: { kept: number } };
  meshes: { key: string; value: KeptMesh; indexes: { kept: number } };
  house: { key: string; value: unknown };
}

const VERSION = 4;
/** The database answers within this, or something holds it, ms. */
const ANSWERS_WITHIN_MS = 2500;
let opening: Promise<IDBPDatabase<Keeping>> | undefined;
/** It did not answer in time: whoever asks is told so at once, until it does. */
let isLate = false;
let isTryingAgain = false;

const HELD = 'another tab with an older page holds it: close the other tabs of this application';

/** The browser's database of jobs, their files, and planned paths. @throws EsquisseError `storage` when it cannot be opened */
export async function openDatabase(): Promise<IDBPDatabase<Keeping>> {
  if (isLate) {
    if (!isTryingAgain) void tryAgain();
    throw storageError(new Error(HELD));
  }
  opening ??= open().catch((error: unknown) => {
    opening = undefined;
    throw storageError(error);
  });
  try {
    return await inTime(opening);
  } catch (error) {
    isLate = error === LATE;
    throw isLate ? storageError(new Error(HELD)) : error;
  }
}

const LATE = new Error('late');

async function inTime<T>(work: Promise<T>): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(LATE), ANSWERS_WITHIN_MS);
  });
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}

async function tryAgain(): Promise<void> {
  isTryingAgain = true;
  try {
    opening = Promise.resolve(await inTime(open()));
    isLate = false;
  } catch {
    // it is tried again when somebody asks again
  } finally {
    isTryingAgain = false;
  }
}

async function open(): Promise<IDBPDatabase<Keeping>> {
  return openDB<Keeping>('esquisse', VERSION, {
    upgrade(database, from) {
      if (from < 1) {
        database.createObjectStore('jobs', { keyPath: 'id' }).createIndex('changed', 'changed');
        database.createObjectStore('files', { keyPath: ['jobId', 'path'] }).createIndex('jobId', 'jobId');
      }
      if (from < 2) database.createObjectStore('meshes', { keyPath: 'key' }).createIndex('kept', 'kept');
      if (from < 3) database.createObjectStore('house');
      // paths hold no feeds any more
      if (from >= 1 && from < 4) database.deleteObjectStore('paths');
      if (from < 4) database.createObjectStore('paths', { keyPath: 'fingerprint' }).createIndex('kept', 'kept');
    },
    blocking(_, __, event) {
      // a newer page wants to change it: this one gives way and opens it again when it needs it
      opening = undefined;
      (event.target as IDBDatabase).close();
    },
    terminated() {
      opening = undefined;
    },
  });
}

/**
 * Works with the database; one that was closed meanwhile, as a full disk does it, is opened again once.
 *
 * @throws EsquisseError `storage` in words that tell how to go on
 */
export async function withDatabase<T>(work: (database: IDBPDatabase<Keeping>) => Promise<T>): Promise<T> {
  const attempt = async (): Promise<T> => work(await openDatabase());
  try {
    return await attempt().catch(async (error: unknown) => {
      const { name } = error as { name?: string };
      if (name !== 'InvalidStateError' && name !== 'UnknownError' && name !== 'AbortError') throw error;
      const closed = await opening?.catch(() => undefined);
      opening = undefined;
      closed?.close();
      return attempt();
    });
  } catch (error) {
    throw storageError(error);
  }
}

/** What keeps the browser from keeping something, in words that tell how to go on. */
export function storageError(error: unknown): EsquisseError {
  if (error instanceof EsquisseError) return error;
  const { name } = error as { name?: string };
  const why =
    name === 'QuotaExceededError'
      ? 'it has no room left: delete jobs that are not needed, or free space on the disk'
      : name === 'SecurityError' || name === 'InvalidStateError'
        ? 'it keeps nothing in this window: a private window, or forbidden by its settings'
        : messageOf(error);
  return new EsquisseError('storage', `The browser cannot keep the job (${why}).`);
}

/** What is kept with a job: files by their hashes, and what is known of its keeping. */
export type KeepChange = Partial<Pick<KeptJob, 'saved' | 'demo'>> & { files?: Readonly<Record<string, Uint8Array>> };

/**
 * Keeps a job, and files with it, in one transaction: all or nothing. What is known of its keeping stays but for `change`.
 *
 * @returns hashes of files that the job names and that are not kept: a browser may give up what it kept, as after a full disk
 */
export function keepJob(job: Job, { files = {}, ...change }: KeepChange = {}): Promise<string[]> {
  return withDatabase(async (database) => {
    const transaction = database.transaction(['jobs', 'files'], 'readwrite', { durability: 'strict' });
    const jobs = transaction.objectStore('jobs');
    const before = await jobs.get(job.id);
    const file = jobFile(job);
    const kept = { ...before, changed: Date.now(), ...change, id: job.id, job: file };
    const work: Promise<unknown>[] = [
      jobs.put({ ...kept, isLookOfNow: isSame(before?.job, file) && kept.isLookOfNow }),
    ];
    for (const [path, bytes] of Object.entries(files))
      work.push(transaction.objectStore('files').put({ jobId: job.id, path, bytes }));
    const lacking: string[] = [];
    for (const { hash, file } of filesOf(job)) {
      const isKept = async (path: string): Promise<boolean> =>
        (await transaction.objectStore('files').getKey([job.id, path])) !== undefined;
      if (hash && !(await isKept(hash)) && !(await isKept(file))) lacking.push(hash);
    }
    await Promise.all([...work, transaction.done]);
    return lacking;
  });
}

/** Keeps files of a job by their hashes, whatever state the job is kept in. */
export function keepFiles(jobId: string, files: Readonly<Record<string, Uint8Array>>): Promise<void> {
  return withDatabase(async (database) => {
    const transaction = database.transaction('files', 'readwrite', { durability: 'strict' });
    const work = Object.entries(files).map(([path, bytes]) => transaction.store.put({ jobId, path, bytes }));
    await Promise.all([...work, transaction.done]);
  });
}

/** Notes that a job was saved to a file. */
export function noteSaved(id: string, saved: number): Promise<void> {
  return withDatabase(async (database) => {
    const transaction = database.transaction('jobs', 'readwrite');
    const before = await transaction.store.get(id);
    await Promise.all([before && transaction.store.put({ ...before, saved }), transaction.done]);
  });
}

/** Notes what a job looks like, if it is kept as it was when it was looked at. */
export function noteLook(job: Job, look: JobLook): Promise<void> {
  return withDatabase(async (database) => {
    const transaction = database.transaction('jobs', 'readwrite');
    const kept = await transaction.store.get(job.id);
    if (kept && isSame(kept.job, jobFile(job))) {
      const picture = look.picture || (kept.look?.picture ?? '');
      await transaction.store.put({ ...kept, look: { ...look, picture }, isLookOfNow: true });
    }
    await transaction.done;
  });
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** A job as it was kept by this page or an older one; undefined when a newer one kept it. Its values are not checked. */
function keptOf(stored: StoredJob | undefined): KeptJob | undefined {
  if (!stored) return undefined;
  try {
    return { ...stored, job: flattened(stored.job) as unknown as Job };
  } catch {
    return undefined;
  }
}

/** A kept job with all that its files hold. */
export interface WholeJob {
  readonly kept: KeptJob;
  readonly files: readonly KeptFile[];
}

/** Keeps a whole job, unless one of its id is kept already. */
export function addJob({ kept, files }: WholeJob): Promise<void> {
  return withDatabase(async (database) => {
    const transaction = database.transaction(['jobs', 'files'], 'readwrite', { durability: 'strict' });
    const jobs = transaction.objectStore('jobs');
    const work: Promise<unknown>[] = [];
    if (!(await jobs.getKey(kept.id))) {
      work.push(jobs.put({ ...kept, job: jobFile(kept.job) }));
      for (const file of files) work.push(transaction.objectStore('files').put({ ...file, jobId: kept.id }));
    }
    await Promise.all([...work, transaction.done]);
  });
}

/** A job as it is kept, with its files. */
export function wholeJob(id: string): Promise<WholeJob | undefined> {
  return withDatabase(async (database) => {
    const transaction = database.transaction(['jobs', 'files']);
    const kept = keptOf(await transaction.objectStore('jobs').get(id));
    const files = await transaction.objectStore('files').index('jobId').getAll(id);
    return kept && { kept, files };
  });
}

/** Changes a kept job, whoever else changes it. @throws whatever `change` throws; nothing is changed then */
export function changeKept(id: string, change: (job: Job) => Job): Promise<void> {
  return withDatabase(async (database) => {
    const transaction = database.transaction('jobs', 'readwrite', { durability: 'strict' });
    const kept = keptOf(await transaction.store.get(id));
    if (kept) {
      const job = jobFile(change(kept.job));
      await transaction.store.put({ ...kept, job, changed: Date.now(), demo: undefined, isLookOfNow: false });
    }
    await transaction.done;
  });
}

/** Deletes a job with its files, and gives all that was deleted; undefined when it was not kept. */
export function takeOut(id: string): Promise<WholeJob | undefined> {
  return withDatabase(async (database) => {
    const transaction = database.transaction(['jobs', 'files'], 'readwrite');
    const [jobs, store] = [transaction.objectStore('jobs'), transaction.objectStore('files')];
    const kept = keptOf(await jobs.get(id));
    const files = await store.index('jobId').getAll(id);
    // what cannot be given back is not deleted
    const work = kept ? [jobs.delete(id), ...files.map(({ path }) => store.delete([id, path]))] : [];
    await Promise.all([...work, transaction.done]);
    return kept && { kept, files };
  });
}

/** All kept jobs, the last changed first. */
export function keptJobs(): Promise<KeptJob[]> {
  return withDatabase(async (database) =>
    (await database.getAllFromIndex('jobs', 'changed')).reverse().flatMap((stored) => keptOf(stored) ?? []),
  );
}

export function keptJob(id: string): Promise<KeptJob | undefined> {
  return withDatabase(async (database) => keptOf(await database.get('jobs', id)));
}

/** What a file of a job holds. */
export function keptFile(jobId: string, { hash, file }: ModelFile): Promise<Uint8Array | undefined> {
  return withDatabase(async (database) => {
    const found =
      (hash && (await database.get('files', [jobId, hash]))) || (await database.get('files', [jobId, file]));
    return found?.bytes;
  });
}

/** Gives up files that a job does not name: earlier ones of jobs whose undo is gone. */
export function dropOldFiles(job: Job): Promise<void> {
  return withDatabase(async (database) => {
    const named = new Set(filesOf(job).flatMap(({ file, hash }) => (hash ? [hash] : [file])));
    const transaction = database.transaction('files', 'readwrite');
    for (const key of await transaction.store.index('jobId').getAllKeys(job.id))
      if (!named.has(key[1])) await transaction.store.delete(key);
    await transaction.done;
  });
}

const LISTS = 'lists';

/** The shop's own lists, as they were kept; undefined when none were. */
export function keptHouse(): Promise<unknown> {
  return withDatabase((database) => database.get('house', LISTS));
}

export function keepHouse(lists: unknown): Promise<void> {
  return withDatabase(async (database) => {
    await database.put('house', lists, LISTS);
  });
}
