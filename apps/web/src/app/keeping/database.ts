import type { Job } from '@esquisse/core';
import { type DBSchema, type IDBPDatabase, openDB } from 'idb';
import type { KeptMesh } from '../engine/meshCache';
import type { KeptPath } from '../engine/pathCache';

/** A kept job with the moment of its last change. */
export interface KeptJob {
  id: string;
  changed: number;
  job: Job;
}

export interface KeptFile {
  jobId: string;
  path: string;
  bytes: Uint8Array;
}

interface Keeping extends DBSchema {
  jobs: { key: string; value: KeptJob; indexes: { changed: number } };
  files: { key: [string, string]; value: KeptFile; indexes: { jobId: string } };
  paths: { key: string; value: KeptPath; indexes: { kept: number } };
  meshes: { key: string; value: KeptMesh; indexes: { kept: number } };
  house: { key: string; value: unknown };
}

const VERSION = 3;
let opening: Promise<IDBPDatabase<Keeping>> | undefined;

/** The browser's database of jobs, their files, and worked-out paths. */
export function openDatabase(): Promise<IDBPDatabase<Keeping>> {
  opening ??= openDB<Keeping>('esquisse', VERSION, {
    upgrade(database, from) {
      if (from < 1) {
        database.createObjectStore('jobs', { keyPath: 'id' }).createIndex('changed', 'changed');
        database.createObjectStore('files', { keyPath: ['jobId', 'path'] }).createIndex('jobId', 'jobId');
        database.createObjectStore('paths', { keyPath: 'fingerprint' }).createIndex('kept', 'kept');
      }
      if (from < 2) database.createObjectStore('meshes', { keyPath: 'key' }).createIndex('kept', 'kept');
      if (from < 3) database.createObjectStore('house');
    },
  });
  return opening;
}

/** Keeps a job and its files in one transaction: both or neither. */
export async function keepJob(job: Job, files?: Readonly<Record<string, Uint8Array>>): Promise<void> {
  const database = await openDatabase();
  const transaction = database.transaction(['jobs', 'files'], 'readwrite');
  const work: Promise<unknown>[] = [transaction.objectStore('jobs').put({ id: job.id, changed: Date.now(), job })];
  for (const [path, bytes] of Object.entries(files ?? {}))
    work.push(transaction.objectStore('files').put({ jobId: job.id, path, bytes }));
  await Promise.all([...work, transaction.done]);
}

/** All kept jobs, the last changed first. */
export async function keptJobs(): Promise<KeptJob[]> {
  return (await (await openDatabase()).getAllFromIndex('jobs', 'changed')).reverse();
}

export async function keptFile(jobId: string, path: string): Promise<Uint8Array | undefined> {
  return (await (await openDatabase()).get('files', [jobId, path]))?.bytes;
}

export async function forgetJob(id: string): Promise<void> {
  const transaction = (await openDatabase()).transaction(['jobs', 'files'], 'readwrite');
  const files = transaction.objectStore('files');
  await transaction.objectStore('jobs').delete(id);
  for (const key of await files.index('jobId').getAllKeys(id)) await files.delete(key);
  await transaction.done;
}

const LISTS = 'lists';

/** The shop's own lists, as they were kept; undefined when none were. */
export async function keptHouse(): Promise<unknown> {
  return (await openDatabase()).get('house', LISTS);
}

export async function keepHouse(lists: unknown): Promise<void> {
  await (await openDatabase()).put('house', lists, LISTS);
}
