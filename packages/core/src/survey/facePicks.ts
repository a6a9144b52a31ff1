import { z } from 'zod';
import type { TriangleMesh } from '../geometry/mesh';
import { distanceToTriangle } from '../geometry/nearest';
import { cross, dot, minus, type Vec3 } from '../geometry/vector';
import type { FacePair } from './revision';
import { facesOf, middleOf, surfaceOf } from './surface';

/** A picked face is found again where the part passes within this of its place, mm: what another tessellation may be off. */
const FOUND_MM = 0.05;

/** A face of the part that was picked: a place inside it, in the frame of the part's file, mm. */
export const facePickSchema = z.object({
  at: z.tuple([z.number(), z.number(), z.number()]),
  /** The face was gone in a revision of the part: it is to be picked again. */
  lost: z.literal(true).optional(),
});
export type FacePick = z.infer<typeof facePickSchema>;

const faces = new WeakMap<TriangleMesh, Uint32Array>();

/** Face number of each triangle of a mesh. */
function faceNumbers(mesh: TriangleMesh): Uint32Array {
  const known = faces.get(mesh);
  if (known) return known;
  const { faceOf } = facesOf(surfaceOf(mesh));
  faces.set(mesh, faceOf);
  return faceOf;
}

/** How picked faces are found on a part. */
export interface FoundFaces {
  /** 1 for each triangle that belongs to one of them. */
  readonly marks: Uint8Array;
  /** How many of the picks are not there. */
  readonly lost: number;
}

/** The triangles of picked faces. @param mesh of the part, in the frame of its file */
export function facesPicked(mesh: TriangleMesh, picks: readonly FacePick[]): FoundFaces {
  const numbers = faceNumbers(mesh);
  const wanted = new Set<number>();
  let lost = 0;
  for (const pick of picks) {
    const triangle = pick.lost ? undefined : triangleAt(mesh, pick.at);
    if (triangle === undefined) lost++;
    else wanted.add(numbers[triangle]!);
  }
  return { marks: Uint8Array.from(numbers, (face) => Number(wanted.has(face))), lost };
}

/** The pick of the face that holds a triangle: the middle of its largest triangle. */
export function pickOfFace(mesh: TriangleMesh, triangle: number): FacePick {
  const numbers = faceNumbers(mesh);
  const own: number[] = [];
  numbers.forEach((face, t) => {
    if (face === numbers[triangle]) own.push(t);
  });
  return { at: largestMiddle(mesh, own) };
}

/** Picks with that of a triangle's face added, or taken away when it is among them. */
export function togglePick(mesh: TriangleMesh, picks: readonly FacePick[], triangle: number): FacePick[] {
  const numbers = faceNumbers(mesh);
  const rest = picks.filter(({ at, lost }) => {
    const found = lost ? undefined : triangleAt(mesh, at);
    return found === undefined || numbers[found] !== numbers[triangle];
  });
  return rest.length < picks.length ? rest : [...rest, pickOfFace(mesh, triangle)];
}

/** Picks with all faces that hold one of these triangles. */
export function addPicks(
  mesh: TriangleMesh,
  picks: readonly FacePick[],
  triangles: readonly number[],
): readonly FacePick[] {
  const numbers = faceNumbers(mesh);
  const { marks } = facesPicked(mesh, picks);
  const known = new Set<number>();
  marks.forEach((mark, t) => {
    if (mark) known.add(numbers[t]!);
  });
  const added = triangles.flatMap((t): FacePick[] => {
    if (known.has(numbers[t]!)) return [];
    known.add(numbers[t]!);
    return [pickOfFace(mesh, t)];
  });
  return [...picks, ...added];
}

/** Picks as they are on a new revision of the part: those of moved faces moved, those of gone ones marked. */
export function followPicks(
  picks: readonly FacePick[],
  before: TriangleMesh,
  after: TriangleMesh,
  pairs: readonly FacePair[],
): readonly FacePick[] {
  const next = picks.map((pick): FacePick => {
    const was = pick.lost ? undefined : triangleAt(before, pick.at);
    if (was === undefined) return pick;
    const own = pairs.find((pair) => pair.before.includes(was));
    if (own?.same) return pick;
    return own && own.after.length > 0 ? { at: largestMiddle(after, own.after) } : { ...pick, lost: true };
  });
  return next.some((pick, k) => pick !== picks[k]) ? next : picks;
}

function largestMiddle(mesh: TriangleMesh, triangles: readonly number[]): [number, number, number] {
  let [best, most] = [triangles[0]!, -1];
  for (const t of triangles) {
    const [a, b, c] = cornersOf(mesh, t);
    const n = cross(minus(b, a), minus(c, a));
    const area = dot(n, n);
    if (area > most) [best, most] = [t, area];
  }
  return middleOf(mesh, best);
}

function cornersOf({ positions: p, indices }: TriangleMesh, t: number): [Vec3, Vec3, Vec3] {
  const at = (corner: number): Vec3 => {
    const v = 3 * indices[3 * t + corner]!;
    return [p[v]!, p[v + 1]!, p[v + 2]!];
  };
  return [at(0), at(1), at(2)];
}

/** The triangle that passes nearest to a place, if it is near enough. */
function triangleAt(mesh: TriangleMesh, place: Readonly<Vec3>): number | undefined {
  const { positions: p, indices } = mesh;
  let found: number | undefined;
  let best = FOUND_MM;
  for (let t = 0; t < indices.length / 3; t++) {
    const [a, b, c] = [3 * indices[3 * t]!, 3 * indices[3 * t + 1]!, 3 * indices[3 * t + 2]!];
    let isFar = false;
    for (let axis = 0; axis < 3 && !isFar; axis++) {
      const [u, v, w] = [p[a + axis]!, p[b + axis]!, p[c + axis]!];
      isFar = Math.min(u, v, w) > place[axis]! + best || Math.max(u, v, w) < place[axis]! - best;
    }
    if (isFar) continue;
    const d = distanceToTriangle(place, cornersOf(mesh, t));
    if (d < best) [found, best] = [t, d];
  }
  return found;
}
