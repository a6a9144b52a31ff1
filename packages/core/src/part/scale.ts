import { z } from 'zod';
import type { TriangleMesh } from '../geometry/mesh';

/** A model is made at most so many times larger, or smaller. */
const MOST = 1000;

const factor = z
  .number()
  .refine((s) => Math.abs(s) >= 1 / MOST && Math.abs(s) <= MOST, `A factor lies between 1/${MOST} and ${MOST}.`);

/** By what a model is scaled along X, Y and Z of its file; a negative factor mirrors it. */
export const scaleSchema = z.tuple([factor, factor, factor]);
export type Scale = z.infer<typeof scaleSchema>;

/** As large as in its file. */
export const TRUE_SIZE: Scale = [1, 1, 1];

const made = new WeakMap<TriangleMesh, { readonly name: string; readonly mesh: TriangleMesh }>();

/**
 * A mesh scaled along the axes of its file, itself at its true size; mirrored by an odd number of negative factors, its triangles
 * are turned round so that they look out of the body. They keep their numbers. The same mesh for the same factors.
 */
export function scaledMesh(mesh: TriangleMesh, scale: Scale): TriangleMesh {
  if (scale.every((s) => s === 1)) return mesh;
  const name = scale.join();
  const known = made.get(mesh);
  if (known?.name === name) return known.mesh;
  const positions = mesh.positions.map((v, k) => v * scale[k % 3]!);
  const indices = mesh.indices.slice();
  if (scale[0] * scale[1] * scale[2] < 0)
    for (let t = 0; t < indices.length; t += 3) {
      const second = indices[t + 1]!;
      indices[t + 1] = indices[t + 2]!;
      indices[t + 2] = second;
    }
  const scaled = { ...mesh, positions, indices };
  made.set(mesh, { name, mesh: scaled });
  return scaled;
}
