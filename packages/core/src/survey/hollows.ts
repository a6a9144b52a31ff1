import { ROOMY_MM } from './rolling';
import { endsOf, grow, type Surface } from './surface';
import type { Neighbours } from './vertices';

/** An edge that turns less than this belongs to a plane: degrees. */
export const PLANE_DEG = 1;

/** Triangles that belong to a bend: an edge of theirs turns, not sharply, and much for how wide the triangle is. */
export function curvedTriangles({ mesh, count, turn, areas }: Surface, sharpTurn: number): Uint8Array {
  const p = mesh.positions;
  const least = (PLANE_DEG * Math.PI) / 180;
  const out = new Uint8Array(count);
  for (let h = 0; h < 3 * count; h++) {
    const a = Math.abs(turn[h]!);
    if (a <= least || a >= sharpTurn) continue;
    const [i, j] = endsOf(mesh, h);
    const length = Math.hypot(p[3 * i]! - p[3 * j]!, p[3 * i + 1]! - p[3 * j + 1]!, p[3 * i + 2]! - p[3 * j + 2]!);
    const t = (h / 3) | 0;
    if (areas[t]! / length / Math.sin(a / 2) < 4 * ROOMY_MM) out[t] = 1;
  }
  return out;
}

/** A plane smaller than this between bends is a facet of theirs, mm². */
const PLANE_AREA_MM2 = 20;

/**
 * Planes of a surface: triangles joined over edges that hardly turn, none of them leaning by more than {@link PLANE_DEG}
 * to another. Their numbers from 0 for each triangle, -1 elsewhere.
 */
export function planesOf(surface: Surface, curved: Uint8Array): Int32Array {
  const { count, turn, normals, areas } = surface;
  const least = (PLANE_DEG * Math.PI) / 180;
  const { faceOf, count: faces } = grow(
    surface,
    count,
    (h, from, to) => !curved[from] && !curved[to] && Math.abs(turn[h]!) < least,
  );
  const seed = new Int32Array(faces).fill(-1);
  const area = new Float64Array(faces);
  for (let t = 0; t < count; t++) {
    const f = faceOf[t]!;
    if (seed[f]! < 0) seed[f] = t;
    const s = 3 * seed[f]!;
    const cos =
      normals[3 * t]! * normals[s]! + normals[3 * t + 1]! * normals[s + 1]! + normals[3 * t + 2]! * normals[s + 2]!;
    area[f]! += curved[t] || cos < Math.cos(least) ? -Infinity : areas[t]!;
  }
  return Int32Array.from(faceOf, (f) => (area[f]! > PLANE_AREA_MM2 ? f : -1));
}

/**
 * Vertices all of whose triangles are bent and of one face: there the mean of the facets' normals is the surface's own,
 * while beside a plane it leans over.
 */
export function insideBends({ mesh, count }: Surface, faceOf: Uint32Array, curved: Uint8Array): Uint8Array {
  const vertices = mesh.positions.length / 3;
  const inside = new Uint8Array(vertices).fill(1);
  const face = new Int32Array(vertices).fill(-1);
  for (let t = 0; t < count; t++)
    for (let c = 0; c < 3; c++) {
      const v = mesh.indices[3 * t + c]!;
      if (!curved[t] || (face[v]! >= 0 && face[v] !== faceOf[t])) inside[v] = 0;
      face[v] = faceOf[t]!;
    }
  return inside;
}

/** Smallest radius in which an edge between two places inside a bend turns hollow, for each vertex, mm; else Infinity. */
export function hollowRadii({ mesh, count }: Surface, normal: Float64Array, inside: Uint8Array): Float32Array {
  const p = mesh.positions;
  const out = new Float32Array(p.length / 3).fill(Infinity);
  for (let h = 0; h < 3 * count; h++) {
    const [i, j] = endsOf(mesh, h);
    if (!inside[i] || !inside[j]) continue;
    const dx = p[3 * j]! - p[3 * i]!;
    const dy = p[3 * j + 1]! - p[3 * i + 1]!;
    const dz = p[3 * j + 2]! - p[3 * i + 2]!;
    const bend =
      -(
        (normal[3 * j]! - normal[3 * i]!) * dx +
        (normal[3 * j + 1]! - normal[3 * i + 1]!) * dy +
        (normal[3 * j + 2]! - normal[3 * i + 2]!) * dz
      ) /
      (dx * dx + dy * dy + dz * dz);
    if (bend <= 1e-4) continue;
    if (1 / bend < out[i]!) out[i] = 1 / bend;
    if (1 / bend < out[j]!) out[j] = 1 / bend;
  }
  return out;
}

/** The middle one of the bends at a vertex and those beside it; Infinity beside a sharp edge and where there is none. */
export function middleBend(
  { starts, around }: Neighbours,
  hollow: Float32Array,
  onSharp: Uint8Array,
  v: number,
): number {
  const all = hollow[v]! < Infinity ? [hollow[v]!] : [];
  for (let k = starts[v]!; k < starts[v + 1]!; k++) {
    const w = around[k]!;
    if (onSharp[w]) return Infinity;
    if (hollow[w]! < 4 * ROOMY_MM) all.push(hollow[w]!);
  }
  all.sort((a, b) => a - b);
  return all[all.length >> 1] ?? Infinity;
}
