import { circleThrough } from '../geometry/circle';
import { along, cross, distance, dot, minus, unit, type Vec3 } from '../geometry/vector';
import type { Point2 } from '../geometry/outline';
import { isBorder, outlineThrough } from './edgeRows';
import type { Hole } from './features';
import { endsOf, middleOf, type Surface } from './surface';

/** Normals of a plane face differ by less than this (1 - cosine). */
const PLANE = 2e-6;
/** Corners of a round face may miss its cylinder by this share of the radius. */
const ROUND_SHARE = 0.01;
/** Two directions are the same within this (1 - |cosine|). */
const SAME_WAY = 1e-5;
/** Edges turn on by less than this (cosine) where they count as one straight edge. */
const STRAIGHT_COS = Math.cos((2 * Math.PI) / 180);

/** Something picked on the part, in the laid frame, mm. */
export interface Picked {
  kind: 'vertex' | 'edge' | 'plane' | 'cylinder' | 'face' | 'hole';
  /** The place itself: the vertex, a point of the edge or face, the middle of a hole's upper rim. */
  at: Vec3;
  /** Normal of a plane or place, direction of an edge, axis of a cylinder or hole; unit. */
  direction?: Vec3;
  radius?: number;
  /** Length of an edge; steel behind a picked face, along its normal. */
  length?: number;
  thickness?: number;
  /** Of an edge or plane: the closed row of edges that it belongs to, as it encloses plan. */
  outline?: Point2[];
  triangle: number;
  /** Triangles to light up. */
  triangles: number[];
}

/**
 * What a person means by pointing at a place: a vertex or edge of the part's faces within `reach` mm, else the face.
 *
 * @param faceOf face number of each triangle
 * @param holes of the same surface
 */
export function pickAt(
  surface: Surface,
  faceOf: Uint32Array,
  holes: readonly Hole[],
  triangle: number,
  point: Vec3,
  reach: number,
): Picked {
  const { mesh, count } = surface;
  const p = mesh.positions;
  const vertexAt = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
  const border = (h: number): boolean => isBorder(surface, faceOf, h);
  const hole = holes.find((h) => h.triangles.includes(triangle));
  if (hole)
    return {
      kind: 'hole',
      at: [hole.x, hole.y, hole.top],
      direction: [0, 0, 1],
      radius: hole.diameter / 2,
      length: hole.top - hole.bottom,
      triangle,
      triangles: hole.triangles,
    };
  let edge: { h: number; d: number; at: Vec3 } | undefined;
  const own: number[] = [];
  for (let t = 0; t < count; t++) {
    if (faceOf[t] !== faceOf[triangle]) continue;
    own.push(t);
    for (let h = 3 * t; h < 3 * t + 3; h++) {
      if (!border(h)) continue;
      const [a, b] = endsOf(mesh, h).map(vertexAt) as [Vec3, Vec3];
      const along_ = minus(b, a);
      const s = Math.max(0, Math.min(1, dot(minus(point, a), along_) / (dot(along_, along_) || 1)));
      const at = along(a, along_, s);
      const d = distance(at, point);
      if (d <= reach && d < (edge?.d ?? Infinity)) edge = { h, d, at };
    }
  }
  const borders = own.flatMap((t) => [3 * t, 3 * t + 1, 3 * t + 2]).filter(border);
  if (edge) {
    const [a, b] = endsOf(mesh, edge.h).map(vertexAt) as [Vec3, Vec3];
    const direction = unit(minus(b, a));
    const chain = straightEdge(surface, borders, edge.h);
    for (const end of chain.ends)
      if (distance(end, point) <= reach) return { kind: 'vertex', at: end, triangle, triangles: [triangle] };
    const outline = outlineThrough(surface, faceOf, [edge.h]);
    const { length, triangles } = chain;
    return { kind: 'edge', at: edge.at, direction, length, outline, triangle, triangles };
  }
  const n = surface.normals;
  const normal: Vec3 = [n[3 * triangle]!, n[3 * triangle + 1]!, n[3 * triangle + 2]!];
  const thickness = thicknessAt(surface, triangle, point, normal);
  if (own.every((t) => 1 - dot([n[3 * t]!, n[3 * t + 1]!, n[3 * t + 2]!], normal) < PLANE))
    return {
      kind: 'plane',
      at: point,
      direction: normal,
      thickness,
      outline: outlineThrough(surface, faceOf, borders),
      triangle,
      triangles: own,
    };
  const round = cylinderOf(surface, own);
  if (round) return { kind: 'cylinder', at: point, ...round, thickness, triangle, triangles: own };
  return { kind: 'face', at: point, direction: normal, thickness, triangle, triangles: own };
}

/** The straight run of border edges that holds edge `start`: its ends and length. */
function straightEdge({ mesh }: Surface, borders: number[], start: number) {
  const p = mesh.positions;
  const at = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
  const [a0, b0] = endsOf(mesh, start);
  const way = unit(minus(at(b0), at(a0)));
  const from = new Map<number, number[]>();
  for (const h of borders)
    for (const v of endsOf(mesh, h)) {
      const list = from.get(v);
      if (list) list.push(h);
      else from.set(v, [h]);
    }
  const used = new Set([start]);
  const follow = (v: number): number => {
    for (;;) {
      const next = (from.get(v) ?? []).find((h) => {
        if (used.has(h)) return false;
        const [a, b] = endsOf(mesh, h);
        return Math.abs(dot(unit(minus(at(b), at(a))), way)) > STRAIGHT_COS;
      });
      if (next === undefined) return v;
      used.add(next);
      const [a, b] = endsOf(mesh, next);
      v = a === v ? b : a;
    }
  };
  const ends = [at(follow(a0)), at(follow(b0))];
  return { ends, length: distance(ends[0]!, ends[1]!), triangles: [...used].map((h) => (h / 3) | 0) };
}

/** Axis and radius of a round face: the direction square to all its normals, and the circle of its corners along it. */
function cylinderOf({ mesh, normals }: Surface, triangles: number[]): { direction: Vec3; radius: number } | undefined {
  // the axis: largest cross product of two normals
  const n = (t: number): Vec3 => [normals[3 * t]!, normals[3 * t + 1]!, normals[3 * t + 2]!];
  const first = n(triangles[0]!);
  let axis: Vec3 = [0, 0, 0];
  for (const t of triangles) {
    const c = cross(first, n(t));
    if (dot(c, c) > dot(axis, axis)) axis = c;
  }
  if (dot(axis, axis) < 1e-6) return undefined;
  axis = unit(axis);
  if (triangles.some((t) => Math.abs(dot(axis, n(t))) > 0.02)) return undefined;
  const u = first;
  const v = cross(axis, u);
  const corners = [...new Set(triangles.flatMap((t) => [0, 1, 2].map((c) => mesh.indices[3 * t + c]!)))].map((k) => {
    const q: Vec3 = [mesh.positions[3 * k]!, mesh.positions[3 * k + 1]!, mesh.positions[3 * k + 2]!];
    return [dot(q, u), dot(q, v)] as const;
  });
  const circle = circleThrough(corners);
  if (
    !circle ||
    corners.some(([x, y]) => Math.abs(Math.hypot(x - circle.x, y - circle.y) - circle.r) > ROUND_SHARE * circle.r)
  )
    return undefined;
  return { direction: axis, radius: circle.r };
}

/** How thick the part is behind a place, mm: to where a line along the normal leaves it; undefined when it never does. */
export function thicknessAt({ mesh, count }: Surface, own: number, point: Vec3, normal: Vec3): number | undefined {
  const p = mesh.positions;
  let least = Infinity;
  for (let t = 0; t < count; t++) {
    if (t === own) continue;
    const [a, b, c] = [0, 1, 2].map((k) => {
      const v = 3 * mesh.indices[3 * t + k]!;
      return [p[v]!, p[v + 1]!, p[v + 2]!] as Vec3;
    }) as [Vec3, Vec3, Vec3];
    const e1 = minus(b, a);
    const e2 = minus(c, a);
    const q: Vec3 = [-normal[0], -normal[1], -normal[2]];
    const h = cross(q, e2);
    const det = dot(e1, h);
    if (Math.abs(det) < 1e-12) continue;
    const s = minus(point, a);
    const u = dot(s, h) / det;
    if (u < -1e-9 || u > 1 + 1e-9) continue;
    const w = cross(s, e1);
    const v = dot(q, w) / det;
    if (v < -1e-9 || u + v > 1 + 1e-9) continue;
    const d = dot(e2, w) / det;
    if (d > 1e-6 && d < least) least = d;
  }
  return least < Infinity ? least : undefined;
}

/** A measured figure. */
export interface Measure {
  label: string;
  value: number;
  unit: 'mm' | '°';
}

/** What one pick tells of itself. Heights count from `zeroZ`. */
export function measuresOf(pick: Picked, zeroZ: number): Measure[] {
  const out: Measure[] = [{ label: 'height', value: pick.at[2] - zeroZ, unit: 'mm' }];
  if (pick.kind === 'hole') {
    out.push({ label: 'diameter', value: 2 * pick.radius!, unit: 'mm' });
    out.push({ label: 'depth', value: pick.length!, unit: 'mm' });
    return out;
  }
  if (pick.radius !== undefined) out.push({ label: 'radius', value: pick.radius, unit: 'mm' });
  if (pick.kind === 'edge') out.push({ label: 'length', value: pick.length!, unit: 'mm' });
  if ((pick.kind === 'plane' || pick.kind === 'face') && pick.direction)
    out.push({ label: 'slope from level', value: degrees(Math.abs(pick.direction[2])), unit: '°' });
  if (pick.thickness !== undefined) out.push({ label: 'thickness behind', value: pick.thickness, unit: 'mm' });
  return out;
}

/** What lies between two picks. */
export function measuresBetween(a: Picked, b: Picked): Measure[] {
  const out: Measure[] = [];
  const parallel = !!a.direction && !!b.direction && 1 - Math.abs(dot(a.direction, b.direction)) < SAME_WAY;
  if (a.kind === 'plane' && b.kind === 'plane' && parallel)
    out.push({ label: 'distance', value: Math.abs(dot(minus(b.at, a.at), a.direction!)), unit: 'mm' });
  else if (a.kind === 'plane' && (b.kind === 'vertex' || b.kind === 'hole'))
    out.push({ label: 'distance to the face', value: Math.abs(dot(minus(b.at, a.at), a.direction!)), unit: 'mm' });
  else if (b.kind === 'plane' && (a.kind === 'vertex' || a.kind === 'hole'))
    out.push({ label: 'distance to the face', value: Math.abs(dot(minus(a.at, b.at), b.direction!)), unit: 'mm' });
  else if (parallel && isLine(a) && isLine(b)) {
    const d = minus(b.at, a.at);
    const off = along(d, a.direction!, -dot(d, a.direction!));
    out.push({ label: 'distance', value: Math.sqrt(dot(off, off)), unit: 'mm' });
  } else out.push({ label: 'distance', value: distance(a.at, b.at), unit: 'mm' });
  const d = minus(b.at, a.at);
  out.push({ label: 'in plan', value: Math.hypot(d[0], d[1]), unit: 'mm' });
  out.push({ label: 'height between', value: d[2], unit: 'mm' });
  if (a.direction && b.direction) {
    const between = degrees(Math.min(1, Math.abs(dot(a.direction, b.direction))));
    const mixed = isLine(a) !== isLine(b);
    out.push({ label: 'angle', value: mixed ? 90 - between : between, unit: '°' });
  }
  return out;
}

const isLine = (pick: Picked): boolean => pick.kind === 'edge' || pick.kind === 'hole' || pick.kind === 'cylinder';

const degrees = (cos: number): number => (Math.acos(Math.min(1, cos)) * 180) / Math.PI;

/** A pick in words: "level face", "edge of 40.00 mm". */
export function pickTitle(pick: Picked): string {
  switch (pick.kind) {
    case 'vertex':
      return 'corner';
    case 'edge':
      return `edge of ${pick.length!.toFixed(2)} mm`;
    case 'hole':
      return `hole ⌀ ${(2 * pick.radius!).toFixed(2)}`;
    case 'cylinder':
      return `round face R ${pick.radius!.toFixed(2)}`;
    case 'plane': {
      const z = pick.direction![2];
      if (z > 1 - 1e-6) return 'level face';
      return Math.abs(z) < 1e-3 ? 'upright face' : 'plane face';
    }
    case 'face':
      return 'curved face';
  }
}

/** The middle between two faces that look along one axis of the plan: which axis, and where. */
export function middleBetween(a: Picked, b: Picked): { axis: 0 | 1 | 2; value: number } | undefined {
  if (a.kind !== 'plane' || b.kind !== 'plane') return undefined;
  for (const axis of [0, 1, 2] as const)
    if (1 - Math.abs(a.direction![axis]) < SAME_WAY && 1 - Math.abs(b.direction![axis]) < SAME_WAY)
      return { axis, value: (a.at[axis] + b.at[axis]) / 2 };
  return undefined;
}

/** Middle of a face by the area of its triangles, mm. */
export function centreOf(surface: Surface, triangles: readonly number[]): Vec3 {
  let sum: Vec3 = [0, 0, 0];
  let area = 0;
  for (const t of triangles) {
    sum = along(sum, middleOf(surface.mesh, t), surface.areas[t]!);
    area += surface.areas[t]!;
  }
  return area > 0 ? [sum[0] / area, sum[1] / area, sum[2] / area] : sum;
}
