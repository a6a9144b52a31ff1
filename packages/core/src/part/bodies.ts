import { partOf, type TriangleMesh } from '../geometry/mesh';

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
  const marks = Uint8Array.from(mesh.faceOf, (face) =>
    Number(bodies.some((b) => face >= b.firstFace && face < b.endFace)),
  );
  if (!marks.includes(1)) return undefined;
  return marks.includes(0) ? partOf(mesh, marks) : mesh;
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
