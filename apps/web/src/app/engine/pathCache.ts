import { BUILD, type Motions, type PathCache } from '@esquisse/core';
import { withDatabase } from '../keeping/database';

/** Paths kept between visits at most; the ones kept longest ago go first. */
const MOST_KEPT = 40;

/** Planned paths in the browser's database, by the key of everything that they depend on, the build of the core included. */
export const pathCache: PathCache = {
  async get(key) {
    if (!BUILD) return undefined;
    try {
      const kept = await withDatabase((database) => database.get('paths', key));
      return (
        kept && {
          path: shared(kept.path),
          leftOut: kept.leftOut,
          notes: kept.notes ?? [],
          facetDepth: kept.facetDepth ?? 0,
          ...(kept.broken && { broken: kept.broken }),
        }
      );
    } catch {
      return undefined;
    }
  },
  async put(key, plan) {
    if (!BUILD) return;
    try {
      const { path, leftOut, notes = [], facetDepth = 0, broken } = plan;
      const kept = {
        fingerprint: key,
        kept: Date.now(),
        path: copied(path),
        leftOut: [...leftOut],
        notes: [...notes],
        facetDepth,
        ...(broken && { broken }),
      };
      await withDatabase(async (database) => {
        await database.put('paths', kept);
        const keys = await database.getAllKeysFromIndex('paths', 'kept');
        for (const old of keys.slice(0, Math.max(0, keys.length - MOST_KEPT))) await database.delete('paths', old);
      });
    } catch {
      // a convenience only: what is not kept is planned again
    }
  },
};

/** Copies out of shared memory, which a database does not take. */
function copied({ x, y, z, kind, ...spans }: Motions): Motions {
  return { x: x.slice(), y: y.slice(), z: z.slice(), kind: kind.slice(), ...spans };
}

function shared({ x, y, z, kind, ...spans }: Motions): Motions {
  const share = <T extends Float64Array | Uint8Array>(a: T): T => {
    const Kind = a.constructor as new (buffer: SharedArrayBuffer) => T;
    const out = new Kind(new SharedArrayBuffer(a.byteLength));
    out.set(a);
    return out;
  };
  return { x: share(x), y: share(y), z: share(z), kind: share(kind), ...spans };
}
