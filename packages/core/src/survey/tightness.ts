import type { ContactMesh } from '../geometry/contactMesh';
import { unit, type Vec3 } from '../geometry/vector';
import { AGREES, type Found, peaksOf, type Place } from './bendPeaks';
import { Rolling, ROOMY_MM } from './rolling';
import { endsOf, type Surface, SHARP_DEG } from './surface';

/** Vertices of bends at which a ball is rolled, about at most. */
const MOST_VERTICES = 20_000;
/** Points on plane triangles, about at most. */
const MOST_POINTS = 15_000;
/** Above this many triangles fewer places are looked at. */
const FINE_TRIANGLES = 130_000;
/** Spacing of points on large plane triangles, mm. */
const SPACING_MM = 2;
/** An edge that turns less than this belongs to a plane: degrees. */
const PLANE_DEG = 1;
/** Triangles at a sharp inside edge are shown as tight up to this area, mm². */
const SHARP_AREA_MM2 = 2;

/** How much room there is at the part's surface. */
export interface Tightness {
  /**
   * Radius (mm) of the largest ball that fits at each triangle from outside, at most {@link ROOMY_MM}: the mean of its
   * corners in bends, the middle one of several places on planes, 0 along sharp inside edges of bends.
   */
  radius: Float32Array;
  /** Inside radii that the part's smooth hollows have, smallest first. */
  bends: Place[];
  /** Smallest distance between two walls that face each other. */
  gap?: Place;
  /** Sharp inside edges: their length, and a place on the longest one. */
  sharp: { length: number; triangles: number[]; at?: Vec3 };
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
): Tightness {
  const { mesh, count, twin, turn } = surface;
  const { positions: p, indices } = mesh;
  const vertices = p.length / 3;
  const sharpTurn = (SHARP_DEG * Math.PI) / 180;
  const normal = vertexNormals(surface);
  const onSharp = new Uint8Array(vertices);
  const radius = new Float32Array(count).fill(ROOMY_MM);
  const sharp = { length: 0, triangles: [] as number[], at: undefined as Vec3 | undefined };
  let longest = 0;
  for (let h = 0; h < 3 * count; h++) {
    if (twin[h]! >= 0 && Math.abs(turn[h]!) < sharpTurn) continue;
    const [a, b] = endsOf(mesh, h);
    onSharp[a] = onSharp[b] = 1;
    if (!(turn[h]! >= sharpTurn)) continue;
    const t = (h / 3) | 0;
    sharp.triangles.push(t);
    if (surface.areas[t]! < SHARP_AREA_MM2) radius[t] = 0;
    if (twin[h]! < h) continue;
    const length = Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
    sharp.length += length;
    if (length > longest) {
      longest = length;
      sharp.at = [0, 1, 2].map((c) => (p[3 * a + c]! + p[3 * b + c]!) / 2) as Vec3;
    }
  }
  const roll = new Rolling(contact);
  let gap: Place | undefined;
  const take = (t: number, at: Vec3, n: Vec3, guess: number): number => {
    const r = roll.at(at, n, guess);
    if (roll.opposite && 2 * r < (gap?.value ?? 2 * ROOMY_MM) && !besides.has(t))
      gap = { value: 2 * r, at, triangle: t };
    return r;
  };
  const curved = curvedTriangles(surface, sharpTurn);
  const hollow = hollowRadii(surface, normal, insideBends(surface, faceOf, curved));
  const roughly = hollowRadii(
    surface,
    normal,
    onSharp.map((s) => 1 - s),
  );
  const beside = neighboursOf(surface);
  // bends, by their vertices, each begun with what its neighbours have room for
  const room = new Float32Array(vertices).fill(ROOMY_MM);
  const triangleAt = new Int32Array(vertices).fill(-1);
  for (let t = 0; t < count; t++) if (curved[t]) for (let c = 0; c < 3; c++) triangleAt[indices[3 * t + c]!] = t;
  let bent = 0;
  for (let v = 0; v < vertices; v++) if (triangleAt[v]! >= 0 && !onSharp[v]) bent++;
  // nearest points cost more the finer the mesh
  const fewer = Math.min(1, Math.sqrt(FINE_TRIANGLES / count));
  const every = Math.max(1, Math.ceil(bent / (MOST_VERTICES * fewer)));
  const looked = new Uint8Array(vertices);
  let last = ROOMY_MM;
  for (let v = 0; v < vertices; v += every) {
    const t = triangleAt[v]!;
    if (t < 0 || onSharp[v]) continue;
    const at: Vec3 = [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
    last = room[v] = take(t, at, [normal[3 * v]!, normal[3 * v + 1]!, normal[3 * v + 2]!], last);
    looked[v] = 1;
  }
  if (every > 1) spreadOut(beside, looked, room);
  const share = new Float64Array(vertices);
  for (let h = 0; h < 3 * count; h++) share[indices[h]!]! += surface.areas[(h / 3) | 0]! / 3;
  const agree = (bend: number, ball: number): boolean => bend > AGREES * ball && bend < ball / AGREES;
  const found: Found[] = [];
  for (let v = 0; v < vertices; v++) {
    if (triangleAt[v]! < 0 || onSharp[v] || !(room[v]! < ROOMY_MM)) continue;
    // where the ball is held by the bend at its own place, not by a wall across, the bend is the better figure
    const bend = middleBend(beside, hollow, onSharp, v);
    const inside = agree(bend, room[v]!);
    if ((inside || agree(roughly[v]!, room[v]!)) && !besides.has(triangleAt[v]!))
      found.push({
        value: inside ? bend : room[v]!,
        at: [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!],
        triangle: triangleAt[v]!,
        area: share[v]!,
      });
  }
  for (let t = 0; t < count; t++)
    if (curved[t] && radius[t] !== 0)
      radius[t] = (room[indices[3 * t]!]! + room[indices[3 * t + 1]!]! + room[indices[3 * t + 2]!]!) / 3;
  // bends without places inside, such as the long strips of a straight fillet: by the middles of their edges
  const strips: number[] = [];
  for (let h = 0; h < 3 * count; h++) {
    if (twin[h]! < h || !(turn[h]! > (PLANE_DEG * Math.PI) / 180) || turn[h]! >= sharpTurn) continue;
    const [a, b] = endsOf(mesh, h);
    if (hollow[a] === Infinity && hollow[b] === Infinity) strips.push(h);
  }
  const everyStrip = Math.max(1, Math.ceil(strips.length / (MOST_VERTICES * fewer)));
  for (let k = 0; k < strips.length; k += everyStrip) {
    const h = strips[k]!;
    const t = (h / 3) | 0;
    const s = (twin[h]! / 3) | 0;
    const [a, b] = endsOf(mesh, h);
    const at = [0, 1, 2].map((c) => (p[3 * a + c]! + p[3 * b + c]!) / 2) as Vec3;
    const n = unit([0, 1, 2].map((c) => surface.normals[3 * t + c]! + surface.normals[3 * s + c]!) as Vec3);
    const length = Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
    // between strips of one width w the surface turns by 2 asin(w / 2r)
    const width = (2 * Math.min(surface.areas[t]!, surface.areas[s]!)) / length;
    last = take(t, at, n, last);
    for (const side of [t, s]) if (last < radius[side]!) radius[side] = last;
    const bend = width / 2 / Math.sin(turn[h]! / 2);
    if (agree(bend, last) && !besides.has(t))
      found.push({ value: bend, at, triangle: t, area: (surface.areas[t]! + surface.areas[s]!) / 3 });
  }
  const bends = peaksOf(found);
  // plane places, by points spread over them
  let spread = 0;
  for (let t = 0; t < count; t++) if (!curved[t]) spread += surface.areas[t]!;
  const spacing = Math.max(SPACING_MM, Math.sqrt(spread / (MOST_POINTS * fewer)));
  let passed = Infinity;
  let middle = ROOMY_MM;
  for (let t = 0; t < count; t++) {
    if (curved[t] || radius[t] === 0) continue;
    const n: Vec3 = [surface.normals[3 * t]!, surface.normals[3 * t + 1]!, surface.normals[3 * t + 2]!];
    // of many small triangles only as many are looked at as their area asks for; the others have what was found last
    passed += surface.areas[t]!;
    if (passed < 0.5 * spacing * spacing) {
      radius[t] = middle;
      continue;
    }
    passed = 0;
    const rooms = pointsOn(surface, t, spacing).map((at) => (last = take(t, at, n, last)));
    radius[t] = middle = rooms.sort((a, b) => a - b)[rooms.length >> 1]!;
  }
  return { radius: withoutSpecks(surface, radius, sharpTurn), bends, gap, sharp };
}

/** Radii from this on are evened out, by so many rounds over the triangles beside one another. */
const EVENED_FROM_MM = ROOMY_MM / 2;
const EVEN_ROUNDS = 24;
/** Rounds by which single odd triangles give way to those around them. */
const SPECK_ROUNDS = 4;

/** The middle of what each triangle and those beside it have: bands stay, single odd ones do not. Sharp edges stay as they are. */
function withoutSpecks(surface: Surface, radius: Float32Array, sharpTurn: number): Float32Array {
  const { count, twin, turn } = surface;
  let now = radius;
  const around: number[] = [];
  for (let round = 0; round < SPECK_ROUNDS; round++) {
    const next = now.slice();
    for (let t = 0; t < count; t++) {
      if (now[t] === 0) continue;
      around.length = 0;
      around.push(now[t]!);
      for (let h = 3 * t; h < 3 * t + 3; h++) {
        const other = twin[h]!;
        const beside = other < 0 || Math.abs(turn[h]!) >= sharpTurn ? 0 : now[(other / 3) | 0]!;
        if (beside > 0) around.push(beside);
      }
      around.sort((a, b) => a - b);
      next[t] = around[(around.length - 1) >> 1]!;
    }
    now = next;
  }
  return evened(surface, now, sharpTurn);
}

/**
 * Where a ball is large it is held by what stands across, now here, now there: there the mean of what lies around is told.
 * Small radii, which ask for a cutter, stay as they are.
 */
function evened({ count, twin, turn }: Surface, radius: Float32Array, sharpTurn: number): Float32Array {
  let now = radius;
  for (let round = 0; round < EVEN_ROUNDS; round++) {
    const next = now.slice();
    for (let t = 0; t < count; t++) {
      if (now[t]! < EVENED_FROM_MM) continue;
      let sum = now[t]!;
      let n = 1;
      for (let h = 3 * t; h < 3 * t + 3; h++) {
        const other = twin[h]!;
        const beside = other < 0 || Math.abs(turn[h]!) >= sharpTurn ? 0 : now[(other / 3) | 0]!;
        if (beside < EVENED_FROM_MM) continue;
        sum += beside;
        n++;
      }
      next[t] = sum / n;
    }
    now = next;
  }
  return now;
}

/** Normals at vertices: the facets around, each weighted by its angle there. Not of use on sharp edges. */
function vertexNormals({ mesh, count, normals }: Surface): Float64Array {
  const { positions: p, indices } = mesh;
  const out = new Float64Array(p.length);
  for (let t = 0; t < count; t++)
    for (let c = 0; c < 3; c++) {
      const a = 3 * indices[3 * t + c]!;
      const b = 3 * indices[3 * t + ((c + 1) % 3)]!;
      const d = 3 * indices[3 * t + ((c + 2) % 3)]!;
      const ux = p[b]! - p[a]!;
      const uy = p[b + 1]! - p[a + 1]!;
      const uz = p[b + 2]! - p[a + 2]!;
      const vx = p[d]! - p[a]!;
      const vy = p[d + 1]! - p[a + 1]!;
      const vz = p[d + 2]! - p[a + 2]!;
      const cos =
        (ux * vx + uy * vy + uz * vz) / Math.sqrt((ux * ux + uy * uy + uz * uz) * (vx * vx + vy * vy + vz * vz) || 1);
      const w = Math.acos(Math.min(1, Math.max(-1, cos)));
      for (let k = 0; k < 3; k++) out[a + k]! += w * normals[3 * t + k]!;
    }
  for (let v = 0; v < out.length; v += 3) {
    const l = Math.sqrt(out[v]! ** 2 + out[v + 1]! ** 2 + out[v + 2]! ** 2) || 1;
    for (let k = 0; k < 3; k++) out[v + k]! /= l;
  }
  return out;
}

/**
 * Vertices all of whose triangles are bent and of one face: there the mean of the facets' normals is the surface's own,
 * while beside a plane it leans over.
 */
function insideBends({ mesh, count }: Surface, faceOf: Uint32Array, curved: Uint8Array): Uint8Array {
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
function hollowRadii({ mesh, count }: Surface, normal: Float64Array, inside: Uint8Array): Float32Array {
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

/** Triangles that belong to a bend: an edge of theirs turns, not sharply, and much for how wide the triangle is. */
function curvedTriangles({ mesh, count, turn, areas }: Surface, sharpTurn: number): Uint8Array {
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

/** Points spread over a plane triangle, inside its edges. */
function pointsOn({ mesh, areas }: Surface, t: number, spacing: number): Vec3[] {
  const { positions: p, indices } = mesh;
  const steps = Math.min(40, Math.max(1, Math.round(Math.sqrt(2 * areas[t]!) / spacing)));
  const out: Vec3[] = [];
  const [a, b, c] = [3 * indices[3 * t]!, 3 * indices[3 * t + 1]!, 3 * indices[3 * t + 2]!];
  for (let i = 0; i < steps; i++)
    for (let j = 0; j < steps - i; j++) {
      const u = (i + 1 / 3) / steps;
      const v = (j + 1 / 3) / steps;
      const w = 1 - u - v;
      out.push([0, 1, 2].map((k) => w * p[a + k]! + u * p[b + k]! + v * p[c + k]!) as Vec3);
    }
  return out;
}

/** The vertices beside each vertex, one after another: `around[starts[v]]` to `around[starts[v + 1] - 1]`. */
interface Neighbours {
  starts: Uint32Array;
  around: Uint32Array;
}

function neighboursOf({ mesh, count }: Surface): Neighbours {
  const starts = new Uint32Array(mesh.positions.length / 3 + 1);
  for (let h = 0; h < 3 * count; h++) starts[endsOf(mesh, h)[0] + 1]!++;
  for (let v = 1; v < starts.length; v++) starts[v]! += starts[v - 1]!;
  const next = starts.slice();
  const around = new Uint32Array(3 * count);
  for (let h = 0; h < 3 * count; h++) {
    const [a, b] = endsOf(mesh, h);
    around[next[a]!++] = b;
  }
  return { starts, around };
}

/** Gives vertices that were passed over what the ones beside them have. */
function spreadOut({ starts, around }: Neighbours, looked: Uint8Array, room: Float32Array): void {
  for (let round = 0; round < 3; round++)
    for (let v = 0; v < looked.length; v++) {
      if (looked[v]) continue;
      let least = Infinity;
      for (let k = starts[v]!; k < starts[v + 1]!; k++)
        if (looked[around[k]!]) least = Math.min(least, room[around[k]!]!);
      if (least === Infinity) continue;
      room[v] = least;
      looked[v] = 1;
    }
}

/** The middle one of the bends at a vertex and those beside it; Infinity beside a sharp edge and where there is none. */
function middleBend({ starts, around }: Neighbours, hollow: Float32Array, onSharp: Uint8Array, v: number): number {
  const all = hollow[v]! < Infinity ? [hollow[v]!] : [];
  for (let k = starts[v]!; k < starts[v + 1]!; k++) {
    const w = around[k]!;
    if (onSharp[w]) return Infinity;
    if (hollow[w]! < 4 * ROOMY_MM) all.push(hollow[w]!);
  }
  all.sort((a, b) => a - b);
  return all[all.length >> 1] ?? Infinity;
}
