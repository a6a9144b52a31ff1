import { BUILD, type ReadMesh } from '@esquisse/core';
import { withDatabase } from '../keeping/database';
import type { KeptMesh } from '../keeping/records';

/** Meshes kept between visits at most; the ones kept longest ago go first. */
const MOST_KEPT = 8;

/** Keeps a file's mesh beside it, so that the next visit need not read the file again. */
export interface MeshStore {
  get(key: string): Promise<ReadMesh | undefined>;
  put(key: string, read: ReadMesh): Promise<void>;
}

/** Meshes in the browser's database. What cannot be kept there is read again at the next visit. */
export const keptMeshes: MeshStore = {
  async get(key) {
    try {
      return (await withDatabase((database) => database.get('meshes', named(key))))?.read;
    } catch {
      return undefined;
    }
  },
  async put(key, read) {
    try {
      const kept: KeptMesh = { key: named(key), kept: Date.now(), read };
      await withDatabase(async (database) => {
        await database.put('meshes', kept);
        const keys = await database.getAllKeysFromIndex('meshes', 'kept');
        for (const old of keys.slice(0, Math.max(0, keys.length - MOST_KEPT))) await database.delete('meshes', old);
      });
    } catch {
      // a convenience only: the job itself is kept by the page, which tells when it cannot be
    }
  },
};

/** Another build may read the same file in another way. */
const named = (key: string): string => `${BUILD}:${key}`;
