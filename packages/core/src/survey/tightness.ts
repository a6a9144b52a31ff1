import type { Cancel } from '../base/cancel';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Vec3 } from '../geometry/vector';
import { AGREES, type Found, peaksOf, type Place } from './bendPeaks';
import { curvedTriangles, hollowRadii, insideBends, middleBend, PLANE_DEG, planesOf } from './hollows';
import { ROOMY_MM } from './rolling';
import { RoomFinder } from './room';
import { endsOf, type Surface, SHARP_DEG } from './surface';
import { neighboursOf, vertexNormals } from './vertices';

/** How much room there is at the part's surface. */
export interface Tightness {
  /**
   * Radius (mm) of the largest ball that touches from outside at each corner of each triangle, three a triangle, at most
   * {@link ROOMY_MM}; on planes the middle one of many places of the plane.
   */
  radius: Float32Array;
  /** Inside radii that the part's smooth hollows have, smallest first. */
  bends: Place[];
  /** Smallest distance between two walls that face each other. */
  gap?: Place;
  /** Sharp inside edges: their length, a place on the longest one, and their ends in the laid frame, six numbers each. */
  sharp: { length: number; triangles: number[]; at?: Vec3; edges: Float32Array };
}

/**
 * Inside radii of a laid part: from the curvature of smooth hollows (how the normals turn along the edges inside a bend,
 * which is exact on a circle), and from balls rolled over the surface until something else is in their way (shrinking balls after
 * Ma, Bae & Choi 2012, from memory).
 *
 * @param faceOf face number of each triangle
 * @param contact the same mesh, for nearest points
 * @param besides triangles whose radius is no inside radius, since holes are drilled
 */
export function tightnessOf(
  surface: Surface,
  faceOf: Uint32Array,
  contact: ContactMesh,
  besides: ReadonlySet<number> = new Set(),
  cancel?: Cancel,
): Tightness {
  const { mesh, count, twin, turn, areas } = surface;
  const { positions: p, indices } = mesh;
  const sharpTurn = (SHARP_DEG * Math.PI) / 180;
  const { onSharp, sharp } = sharpEdges(surface, sharpTurn);
  const normal = vertexNormals(surface);
  const beside = neighboursOf(surface);
  const curved = curvedTriangles(surface, sharpTurn);
  const planeOf = planesOf(surface, curved);
  const triangleAt = trianglesAt(surface, (t) => planeOf[t]! < 0);
  const bentAt = trianglesAt(surface, (t) => curved[t] === 1);
  const hollow = hollowRadii(surface, normal, insideBends(surface, faceOf, curved));
  const roughly = hollowRadii(
    surface,
    normal,
    onSharp.map((s) => 1 - s),
  );
  const agree = (bend: number, ball: number): boolean => bend > AGREES * ball && bend < ball / AGREES;
  const found: Found[] = [];

  const strips: number[] = [];
  for (let h = 0; h < 3 * count; h++) {
    if (twin[h]! < h || !(turn[h]! > (PLANE_DEG * Math.PI) / 180) || turn[h]! >= sharpTurn) continue;
    const [a, b] = endsOf(mesh, h);
    if (hollow[a] === Infinity && hollow[b] === Infinity) strips.push(h);
  }
  const finder = new RoomFinder({ surface, normal, beside, planeOf, onSharp, triangleAt }, contact, besides, cancel);
  const room = finder.find(strips, (h, at, ball) => {
    // between strips of one width w the surface turns by 2 asin(w / 2r)
    const t = (h / 3) | 0;
    const s = (twin[h]! / 3) | 0;
    const width = (2 * Math.min(areas[t]!, areas[s]!)) / lengthOf(surface, h);
    const bend = width / 2 / Math.sin(turn[h]! / 2);
    if (agree(bend, ball) && !besides.has(t))
      found.push({ value: bend, at, triangle: t, area: (areas[t]! + areas[s]!) / 3 });
  });

  const share = new Float64Array(bentAt.length);
  for (let h = 0; h < 3 * count; h++) share[indices[h]!]! += areas[(h / 3) | 0]! / 3;
  for (let v = 0; v < bentAt.length; v++) {
    const ball = room.atVertex[v]!;
    const triangle = bentAt[v]!;
    if (triangle < 0 || onSharp[v] || !(ball < ROOMY_MM) || besides.has(triangle)) continue;
    // where the ball is held by the bend at its own place, not by a wall across, the bend is the better figure
    const bend = middleBend(beside, hollow, onSharp, v);
    const inside = agree(bend, ball);
    if (!inside && !agree(roughly[v]!, ball)) continue;
    const at: Vec3 = [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
    found.push({ value: inside ? bend : ball, at, triangle, area: share[v]! });
  }
  return { radius: room.atCorner, bends: peaksOf(found), gap: finder.gap, sharp };
}

/** A triangle at each vertex among those that `counts`, -1 where there is none. */
function trianglesAt({ mesh, count }: Surface, counts: (t: number) => boolean): Int32Array {
  const out = new Int32Array(mesh.positions.length / 3).fill(-1);
  for (let t = 0; t < count; t++) if (counts(t)) for (let c = 0; c < 3; c++) out[mesh.indices[3 * t + c]!] = t;
  return out;
}

function lengthOf({ mesh }: Surface, h: number): number {
  const p = mesh.positions;
  const [a, b] = endsOf(mesh, h);
  return Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
}

/** Sharp inside edges, and which vertices lie on a sharp or open edge of any kind. */
function sharpEdges(surface: Surface, sharpTurn: number): { onSharp: Uint8Array; sharp: Tightness['sharp'] } {
  const { mesh, count, twin, turn } = surface;
  const p = mesh.positions;
  const onSharp = new Uint8Array(p.length / 3);
  const triangles: number[] = [];
  const ends: number[] = [];
  let length = 0;
  let longest = 0;
  let at: Vec3 | undefined;
  for (let h = 0; h < 3 * count; h++) {
    if (twin[h]! >= 0 && Math.abs(turn[h]!) < sharpTurn) continue;
    const [a, b] = endsOf(mesh, h);
    onSharp[a] = onSharp[b] = 1;
    if (!(turn[h]! >= sharpTurn)) continue;
    triangles.push((h / 3) | 0);
    if (twin[h]! < h) continue;
    for (const v of [a, b]) ends.push(p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!);
    const long = lengthOf(surface, h);
    length += long;
    if (long <= longest) continue;
    longest = long;
    at = [0, 1, 2].map((c) => (p[3 * a + c]! + p[3 * b + c]!) / 2) as Vec3;
  }
  return { onSharp, sharp: { length, triangles, at, edges: Float32Array.from(ends) } };
}
