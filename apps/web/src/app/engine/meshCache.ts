import { Fingerprint, type ReadMesh } from '@esquisse/core';
import { openDatabase } from '../keeping/database';

/** Raised whenever reading a file gives another mesh than before. */
const READER = 3;
/** Meshes kept between visits at most; the ones kept longest ago go first. */
const MOST_KEPT = 8;

export interface KeptMesh {
  key: string;
  kept: number;
  read: ReadMesh;
}

/** Tells a part's file from others, with the unit it is read in. */
export function fileKey(fileName: string, bytes: Uint8Array, unit: string): string {
  return `${READER}:${fileName.split('.').pop()!.toLowerCase()}:${unit}:${bytes.length}:${new Fingerprint().add(bytes).toString()}`;
}

export async function keptMesh(key: string): Promise<ReadMesh | undefined> {
  return (await (await openDatabase()).get('meshes', key))?.read;
}

/** Keeps a file's mesh beside it, so that the next visit need not read the file again. */
export async function keepMesh(key: string, read: ReadMesh): Promise<void> {
  const database = await openDatabase();
  await database.put('meshes', { key, kept: Date.now(), read });
  const keys = await database.getAllKeysFromIndex('meshes', 'kept');
  for (const old of keys.slice(0, Math.max(0, keys.length - MOST_KEPT))) await database.delete('meshes', old);
}
