import type { TriangleMesh } from './mesh';
import { along, cross, dot, minus, unit, type Vec3 } from './vector';

/** At sharp edges a corner moves at most so many times as far as its facets. */
const MOST_MITRE = 3;
const ROUNDS = 40;

/** Triangles that are to be thicker, and by how much, mm. */
export interface Thicker {
  readonly marks: Uint8Array;
  readonly by: number;
}

/**
 * A mesh with some of its triangles laid over themselves a distance farther out: what a cutter must not go into when that much is
 * to stay on them. Each corner moves so that all of its own facets move by the distance at least (mitred); at the border the
 * upper layer ends free, and nothing is added beside it.
 *
 * @returns the mesh with the layers behind its own triangles, and of which of those each layer's triangle is one
 */
export function thickened(mesh: TriangleMesh, layers: readonly Thicker[]): { mesh: TriangleMesh; source: number[] } {
  const positions = [...mesh.positions];
  const indices = [...mesh.indices];
  const faceOf = [...mesh.faceOf];
  const source: number[] = [];
  for (const { marks, by } of layers) {
    const moved = new Map<number, number>();
    const normals = normalsOf(mesh, marks);
    for (let t = 0; t < marks.length; t++) {
      if (!marks[t]) continue;
      for (let h = 3 * t; h < 3 * t + 3; h++) {
        const v = mesh.indices[h]!;
        let number = moved.get(v);
        if (number === undefined) {
          number = positions.length / 3;
          moved.set(v, number);
          const way = mitre(normals.get(v)!);
          for (let axis = 0; axis < 3; axis++) positions.push(mesh.positions[3 * v + axis]! + by * way[axis]!);
        }
        indices.push(number);
      }
      faceOf.push(mesh.faceOf[t]!);
      source.push(t);
    }
  }
  const made = {
    positions: Float64Array.from(positions),
    indices: Uint32Array.from(indices),
    faceOf: Uint32Array.from(faceOf),
  };
  return { mesh: made, source };
}

/** Outward unit normals of the marked triangles around each vertex that they use. */
function normalsOf({ positions: p, indices }: TriangleMesh, marks: Uint8Array): Map<number, Vec3[]> {
  const around = new Map<number, Vec3[]>();
  for (let t = 0; t < marks.length; t++) {
    if (!marks[t]) continue;
    const [a, b, c] = [0, 1, 2].map((k): Vec3 => {
      const v = 3 * indices[3 * t + k]!;
      return [p[v]!, p[v + 1]!, p[v + 2]!];
    }) as [Vec3, Vec3, Vec3];
    const normal = unit(cross(minus(b, a), minus(c, a)));
    for (let h = 3 * t; h < 3 * t + 3; h++) {
      const known = around.get(indices[h]!);
      if (known) known.push(normal);
      else around.set(indices[h]!, [normal]);
    }
  }
  return around;
}

/**
 * The way along which a corner moves, so that n·way >= 1 for each of its facets: found by moving on to the plane of one that it
 * falls short of after another (Kaczmarz 1937, from memory).
 */
function mitre(normals: readonly Vec3[]): Vec3 {
  let way: Vec3 = [0, 0, 0];
  for (let k = 0; k < ROUNDS; k++)
    for (const n of normals) {
      const short = 1 - dot(n, way);
      if (short > 0) way = along(way, n, short);
    }
  const least = Math.min(...normals.map((n) => dot(n, way)));
  const length = Math.sqrt(dot(way, way));
  const scale = Math.min(1 / Math.max(least, 0.5), MOST_MITRE / length);
  return [scale * way[0], scale * way[1], scale * way[2]];
}
