import type { LeftOut, PathCache, Toolpath } from '@esquisse/core';
import { openDatabase } from '../keeping/database';

/** Paths kept between visits at most; the ones kept longest ago go first. */
const MOST_KEPT = 40;

/** Worked-out paths in the browser's database, by the fingerprint of everything that they depend on. */
export const pathCache: PathCache = {
  async get(fingerprint) {
    const kept = await (await openDatabase()).get('paths', fingerprint);
    return kept && { path: shared(kept.path), leftOut: kept.leftOut };
  },
  async put(fingerprint, plan) {
    const database = await openDatabase();
    await database.put('paths', { fingerprint, kept: Date.now(), path: copied(plan.path), leftOut: plan.leftOut });
    const keys = await database.getAllKeysFromIndex('paths', 'kept');
    for (const key of keys.slice(0, Math.max(0, keys.length - MOST_KEPT))) await database.delete('paths', key);
  },
};

export interface KeptPath {
  fingerprint: string;
  kept: number;
  path: Toolpath;
  leftOut: LeftOut[];
}

/** Copies out of shared memory, which a database does not take. */
function copied(path: Toolpath): Toolpath {
  return { x: path.x.slice(), y: path.y.slice(), z: path.z.slice(), kind: path.kind.slice(), feed: path.feed.slice() };
}

function shared(path: Toolpath): Toolpath {
  const share = <T extends Float64Array | Float32Array | Uint8Array>(a: T): T => {
    const Kind = a.constructor as new (buffer: SharedArrayBuffer) => T;
    const out = new Kind(new SharedArrayBuffer(a.byteLength));
    out.set(a);
    return out;
  };
  return { x: share(path.x), y: share(path.y), z: share(path.z), kind: share(path.kind), feed: share(path.feed) };
}
