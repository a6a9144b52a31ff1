import { edgePairs } from '../geometry/edgePairs';
import { facetsOfMesh, type TriangleMesh } from '../geometry/mesh';

/** Facets that turn by more than this along an edge meet at a sharp edge: degrees. */
export const SHARP_DEG = 25;

/** A mesh with what the survey asks of it: normals and areas of triangles, and which triangles are neighbours. */
export interface Surface {
  mesh: TriangleMesh;
  count: number;
  /** Unit normal of each triangle. */
  normals: Float64Array;
  /** mm². */
  areas: Float64Array;
  /** For edge 3 t + e the same edge at the neighbour, -1 at an open or ambiguous one. */
  twin: Int32Array;
  /** For edge 3 t + e: how much the surface turns there, radians; positive where it is hollow, 0 at open edges. */
  turn: Float32Array;
}

/** Prepares a laid mesh for the survey. */
export function surfaceOf(mesh: TriangleMesh): Surface {
  const { positions: p, indices } = mesh;
  const count = indices.length / 3;
  const { normals, areas } = facetsOfMesh(mesh);
  const pair = edgePairs(indices, p.length / 3);
  const twin = new Int32Array(3 * count).fill(-1);
  for (let h = 0; h < 3 * count; h++) {
    const other = pair[h]!;
    if (other < 0) continue;
    twin[h] = other;
    twin[other] = h;
  }
  const turn = new Float32Array(3 * count);
  for (let h = 0; h < 3 * count; h++) {
    const other = twin[h]!;
    if (other < h) continue;
    const t = (h / 3) | 0;
    const s = (other / 3) | 0;
    const cos =
      normals[3 * t]! * normals[3 * s]! +
      normals[3 * t + 1]! * normals[3 * s + 1]! +
      normals[3 * t + 2]! * normals[3 * s + 2]!;
    const angle = Math.acos(Math.min(1, Math.max(-1, cos)));
    // hollow where the neighbour's far corner stands above this triangle's plane
    const far = 3 * indices[3 * s + ((other + 2) % 3)]!;
    const near = 3 * indices[h]!;
    const above =
      (p[far]! - p[near]!) * normals[3 * t]! +
      (p[far + 1]! - p[near + 1]!) * normals[3 * t + 1]! +
      (p[far + 2]! - p[near + 2]!) * normals[3 * t + 2]!;
    turn[h] = turn[other] = above > 0 ? angle : -angle;
  }
  return { mesh, count, normals, areas, twin, turn };
}

/** Corner numbers of an edge 3 t + e. */
export function endsOf(mesh: TriangleMesh, h: number): [number, number] {
  return [mesh.indices[h]!, mesh.indices[h % 3 === 2 ? h - 2 : h + 1]!];
}

/**
 * Faces of the part: as the file has them, or, for a mesh without faces, grown over edges that turn by less than
 * {@link SHARP_DEG}. Numbers from 0 for each triangle.
 */
export function facesOf(surface: Surface): { faceOf: Uint32Array; count: number; fromFile: boolean } {
  const { mesh, count } = surface;
  const fromFile = new Map<number, number>();
  for (const f of mesh.faceOf) if (!fromFile.has(f)) fromFile.set(f, fromFile.size);
  if (fromFile.size > 1)
    return { faceOf: Uint32Array.from(mesh.faceOf, (f) => fromFile.get(f)!), count: fromFile.size, fromFile: true };
  const limit = (SHARP_DEG * Math.PI) / 180;
  return { ...grow(surface, count, (h) => Math.abs(surface.turn[h]!) < limit), fromFile: false };
}

/** Groups of triangles joined over the edges for which `joins` holds. */
export function grow(
  surface: Surface,
  count: number,
  joins: (edge: number, from: number, to: number) => boolean,
): { faceOf: Uint32Array; count: number } {
  const faceOf = new Uint32Array(count).fill(0xffffffff);
  const waiting: number[] = [];
  let faces = 0;
  for (let seed = 0; seed < count; seed++) {
    if (faceOf[seed] !== 0xffffffff) continue;
    faceOf[seed] = faces;
    waiting.push(seed);
    while (waiting.length > 0) {
      const t = waiting.pop()!;
      for (let e = 0; e < 3; e++) {
        const other = surface.twin[3 * t + e]!;
        if (other < 0) continue;
        const s = (other / 3) | 0;
        if (faceOf[s] !== 0xffffffff || !joins(3 * t + e, t, s)) continue;
        faceOf[s] = faces;
        waiting.push(s);
      }
    }
    faces++;
  }
  return { faceOf, count: faces };
}

/** Middle of a triangle, mm. */
export function middleOf({ positions: p, indices }: TriangleMesh, t: number): [number, number, number] {
  const a = 3 * indices[3 * t]!;
  const b = 3 * indices[3 * t + 1]!;
  const c = 3 * indices[3 * t + 2]!;
  return [
    (p[a]! + p[b]! + p[c]!) / 3,
    (p[a + 1]! + p[b + 1]! + p[c + 1]!) / 3,
    (p[a + 2]! + p[b + 2]! + p[c + 2]!) / 3,
  ];
}
