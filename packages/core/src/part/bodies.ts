import type { TriangleMesh } from '../geometry/mesh';

/** What a body of a file is in the job. */
export const BODY_ROLES = ['part', 'blank', 'fixture', 'ignored'] as const;
export type BodyRole = (typeof BODY_ROLES)[number];

/** One of several bodies in a file: the numbers of its faces, from `firstFace` to `endFace` exclusive. */
export interface Body3 {
  name: string;
  firstFace: number;
  endFace: number;
}

/** The triangles of chosen bodies as a mesh of their own; undefined when they have none. */
export function meshOfBodies(mesh: TriangleMesh, bodies: readonly Body3[]): TriangleMesh | undefined {
  const kept: number[] = [];
  for (let t = 0; t < mesh.faceOf.length; t++) {
    const face = mesh.faceOf[t]!;
    if (bodies.some((b) => face >= b.firstFace && face < b.endFace)) kept.push(t);
  }
  if (kept.length === 0) return undefined;
  if (kept.length === mesh.faceOf.length) return mesh;
  const renumber = new Int32Array(mesh.positions.length / 3).fill(-1);
  const positions: number[] = [];
  const indices = new Uint32Array(kept.length * 3);
  const faceOf = new Uint32Array(kept.length);
  kept.forEach((t, k) => {
    faceOf[k] = mesh.faceOf[t]!;
    for (let c = 0; c < 3; c++) {
      const v = mesh.indices[3 * t + c]!;
      if (renumber[v]! < 0) {
        renumber[v] = positions.length / 3;
        positions.push(mesh.positions[3 * v]!, mesh.positions[3 * v + 1]!, mesh.positions[3 * v + 2]!);
      }
      indices[3 * k + c] = renumber[v]!;
    }
  });
  return { positions: Float64Array.from(positions), indices, faceOf };
}

/** The meshes of a file by what its bodies are. A body that the job says nothing about is part. */
export function meshesByRole(
  read: { mesh: TriangleMesh; bodies?: readonly Body3[] },
  roles: Readonly<Record<string, BodyRole>>,
): Partial<Record<BodyRole, TriangleMesh>> {
  const bodies = read.bodies ?? [];
  if (bodies.length < 2) {
    const only = roles['0'] ?? 'part';
    return { [only]: read.mesh };
  }
  const out: Partial<Record<BodyRole, TriangleMesh>> = {};
  for (const role of BODY_ROLES) {
    const mesh = meshOfBodies(
      read.mesh,
      bodies.filter((_, k) => (roles[String(k)] ?? 'part') === role),
    );
    if (mesh) out[role] = mesh;
  }
  return out;
}
