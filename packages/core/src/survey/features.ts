import { circleThrough } from '../geometry/circle';
import type { Vec3 } from '../geometry/vector';
import { endsOf, grow, middleOf, SHARP_DEG, type Surface } from './surface';

/** A facet whose normal leans less than this from Z (1 - cosine) is level. */
const LEVEL = 1e-6;
/** A wall whose normal leans less than this from the plan (sine) is upright. */
const UPRIGHT = 1e-3;
/** Heights this close are one height, mm. */
const SAME_MM = 1e-3;
/** A strip narrower than this whose outline mostly turns by less than so many radians is the bottom of a bend, no flat. */
const STRIP_MM = 1.2;
const SMOOTH = 0.35;
const MOST_BENT = 0.75;
/** Corners of a hole may miss its circle by this, mm, and by this share of its radius. */
const ROUND_MM = 0.01;
const ROUND_SHARE = 0.004;
/** Sectors of a turn that must hold a corner for a cylinder to count as a whole hole, out of 12. */
const SECTORS = 12;
const MOST_SECTORS_MISSING = 2;
/** Axes this close are one axis, mm. */
const COAXIAL_MM = 0.02;

/** A level face that can be milled from above; heights in the laid frame, mm. */
export interface Flat {
  z: number;
  area: number;
  triangles: number[];
  at: Vec3;
  /** Share of its outline where a wall stands up beside it: 1 for a closed pocket. */
  closed: number;
  /** Length of its outline where none does, mm. */
  openLength: number;
  /** How high the walls beside it stand over it, up to where they bend away, mm; 0 without one. */
  depth: number;
}

/** A flat with walls along at least this share of its outline is the floor of a pocket. */
const POCKET_SHARE = 0.5;

/** Floors of pockets, deepest first. */
export function pocketsAmong(flats: readonly Flat[]): Flat[] {
  return flats.filter((f) => f.closed >= POCKET_SHARE && f.depth > 0).sort((a, b) => b.depth - a.depth);
}

/** A vertical hole. */
export interface Hole {
  x: number;
  y: number;
  diameter: number;
  /** How far its facets lie inside the circle, mm. */
  facetDepth: number;
  top: number;
  bottom: number;
  through: boolean;
  /** Of a blind hole: whether its floor is level or pointed. */
  pointed: boolean;
  /** Its wall is open beside its rims: another hole crosses it, or it lies at a border. */
  open: boolean;
  /** A wider coaxial hole above it. */
  counterbore?: { diameter: number; depth: number };
  triangles: number[];
}

/** Level faces that look up, connected ones together, highest first. */
export function flatsIn(surface: Surface): Flat[] {
  const { count, normals, areas, mesh } = surface;
  const level = (t: number): boolean => normals[3 * t + 2]! > 1 - LEVEL;
  const { faceOf } = grow(surface, count, (_, a, b) => level(a) && level(b));
  const groups = new Map<number, number[]>();
  for (let t = 0; t < count; t++)
    if (level(t)) {
      const group = groups.get(faceOf[t]!);
      if (group) group.push(t);
      else groups.set(faceOf[t]!, [t]);
    }
  const walls = wallTops(surface, level);
  return [...groups.values()]
    .map((triangles) => {
      const area = triangles.reduce((sum, t) => sum + areas[t]!, 0);
      const largest = triangles.reduce((a, b) => (areas[b]! > areas[a]! ? b : a));
      const at = middleOf(mesh, largest);
      return { z: at[2], area, triangles, at, ...outlineOf(surface, triangles, faceOf, walls) };
    })
    .filter((flat) => flat.bent < MOST_BENT || flat.width > STRIP_MM)
    .map(({ z, area, triangles, at, closed, openLength, depth }) => ({
      z,
      area,
      triangles,
      at,
      closed,
      openLength,
      depth,
    }))
    .sort((a, b) => b.z - a.z);
}

/**
 * Highest place of the wall that each triangle belongs to: of all that is not level and can be walked to without crossing a
 * sharp outside edge, mm.
 */
function wallTops(surface: Surface, level: (t: number) => boolean): (t: number) => number {
  const { count, mesh, turn } = surface;
  const limit = -(SHARP_DEG * Math.PI) / 180;
  const { faceOf, count: walls } = grow(surface, count, (h, a, b) => !level(a) && !level(b) && turn[h]! > limit);
  const tops = new Float64Array(walls).fill(-Infinity);
  for (let c = 0; c < 3 * count; c++) {
    const wall = faceOf[(c / 3) | 0]!;
    tops[wall] = Math.max(tops[wall]!, mesh.positions[3 * mesh.indices[c]! + 2]!);
  }
  return (t) => tops[faceOf[t]!]!;
}

/**
 * Outline of a level face: shares of it where its neighbour stands up and where the face bends on, how long it is open, how
 * high the walls stand, and the mean width of the face.
 */
function outlineOf(
  { mesh, twin, turn, areas }: Surface,
  triangles: number[],
  faceOf: Uint32Array,
  wallTop: (t: number) => number,
) {
  const p = mesh.positions;
  const z = p[3 * mesh.indices[3 * triangles[0]!]! + 2]!;
  let depth = 0;
  let closed = 0;
  let bent = 0;
  let whole = 0;
  for (const t of triangles)
    for (let e = 0; e < 3; e++) {
      const h = 3 * t + e;
      const other = twin[h]!;
      if (other >= 0 && faceOf[(other / 3) | 0] === faceOf[t]) continue;
      const [a, b] = endsOf(mesh, h);
      const length = Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!);
      whole += length;
      if (other >= 0 && turn[h]! > 0) {
        closed += length;
        depth = Math.max(depth, wallTop((other / 3) | 0) - z);
      }
      if (other >= 0 && Math.abs(turn[h]!) < SMOOTH) bent += length;
    }
  const area = triangles.reduce((sum, t) => sum + areas[t]!, 0);
  return whole > 0
    ? { closed: closed / whole, openLength: whole - closed, depth, bent: bent / whole, width: (2 * area) / whole }
    : { closed: 0, openLength: 0, depth: 0, bent: 0, width: 0 };
}

/** All whole vertical cylinders that are hollow, coaxial ones joined as counterbored holes. */
export function holesIn(surface: Surface): Hole[] {
  const { count, normals, mesh } = surface;
  const limit = (SHARP_DEG * Math.PI) / 180;
  const upright = (t: number): boolean => Math.abs(normals[3 * t + 2]!) < UPRIGHT;
  const { faceOf } = grow(surface, count, (h, a, b) => upright(a) && upright(b) && Math.abs(surface.turn[h]!) < limit);
  const groups = new Map<number, number[]>();
  for (let t = 0; t < count; t++)
    if (upright(t)) {
      const group = groups.get(faceOf[t]!);
      if (group) group.push(t);
      else groups.set(faceOf[t]!, [t]);
    }
  const holes: Hole[] = [];
  for (const triangles of groups.values()) {
    if (triangles.length < 8) continue;
    const circle = circleOf(mesh.positions, mesh.indices, triangles);
    if (!circle) continue;
    // hollow: normals look at the axis
    const t = triangles[0]!;
    const m = middleOf(mesh, t);
    if ((m[0] - circle.x) * normals[3 * t]! + (m[1] - circle.y) * normals[3 * t + 1]! > 0) continue;
    const floor = floorOf(surface, triangles, circle.bottom);
    holes.push({ ...circle, ...floor, open: isOpen(surface, triangles), triangles });
  }
  return joined(holes);
}

/** The circle in plan through all corners of some triangles; undefined when they are on none, or on part of one only. */
function circleOf(p: Float64Array, indices: Uint32Array, triangles: number[]) {
  const vertices = [...new Set(triangles.flatMap((t) => [indices[3 * t]!, indices[3 * t + 1]!, indices[3 * t + 2]!]))];
  let bottom = Infinity;
  let top = -Infinity;
  for (const v of vertices) {
    bottom = Math.min(bottom, p[3 * v + 2]!);
    top = Math.max(top, p[3 * v + 2]!);
  }
  const circle = circleThrough(vertices.map((v) => [p[3 * v]!, p[3 * v + 1]!] as const));
  if (!circle) return undefined;
  const seen = new Set<number>();
  for (const v of vertices) {
    const x = p[3 * v]! - circle.x;
    const y = p[3 * v + 1]! - circle.y;
    if (Math.abs(Math.hypot(x, y) - circle.r) > ROUND_MM + ROUND_SHARE * circle.r) return undefined;
    seen.add(Math.floor(((Math.atan2(y, x) / (2 * Math.PI)) * SECTORS + SECTORS) % SECTORS));
  }
  if (seen.size < SECTORS - MOST_SECTORS_MISSING) return undefined;
  return {
    x: circle.x,
    y: circle.y,
    diameter: 2 * circle.r,
    facetDepth: facetDepthOf(p, indices, triangles, circle),
    bottom,
    top,
  };
}

/** Whether the wall of a hole has other borders than its two rims. */
function isOpen({ mesh, twin }: Surface, triangles: readonly number[]): boolean {
  const own = new Set(triangles);
  /** Vertices of borders, by one that each hangs together with. */
  const root = new Map<number, number>();
  const find = (v: number): number => {
    let at = v;
    for (let up = root.get(at); up !== undefined && up !== at; up = root.get(at)) at = up;
    return at;
  };
  for (const t of triangles)
    for (let e = 0; e < 3; e++) {
      const h = 3 * t + e;
      if (twin[h]! >= 0 && own.has((twin[h]! / 3) | 0)) continue;
      const [a, b] = endsOf(mesh, h);
      for (const v of [a, b]) if (!root.has(v)) root.set(v, v);
      root.set(find(a), find(b));
    }
  return new Set([...root.keys()].map(find)).size !== 2;
}

/** How far the middles of edges lie inside a circle at most, mm. */
function facetDepthOf(
  p: Float64Array,
  indices: Uint32Array,
  triangles: number[],
  { x, y, r }: { x: number; y: number; r: number },
): number {
  let depth = 0;
  for (const t of triangles)
    for (let e = 0; e < 3; e++) {
      const a = 3 * indices[3 * t + e]!;
      const b = 3 * indices[3 * t + ((e + 1) % 3)]!;
      depth = Math.max(depth, r - Math.hypot((p[a]! + p[b]!) / 2 - x, (p[a + 1]! + p[b + 1]!) / 2 - y));
    }
  return depth;
}

/** What is at the lower rim of a hole: nothing (through), a level floor, or a point. */
function floorOf({ mesh, twin, normals }: Surface, triangles: number[], bottom: number) {
  const p = mesh.positions;
  let through = true;
  let pointed = false;
  for (const t of triangles)
    for (let e = 0; e < 3; e++) {
      const [a, b] = endsOf(mesh, 3 * t + e);
      if (p[3 * a + 2]! > bottom + SAME_MM || p[3 * b + 2]! > bottom + SAME_MM) continue;
      const other = twin[3 * t + e]!;
      if (other < 0) continue;
      const nz = normals[3 * ((other / 3) | 0) + 2]!;
      if (nz > 0.05) through = false;
      if (nz > 0.05 && nz < 1 - 1e-3) pointed = true;
    }
  return { through, pointed };
}

function joined(holes: Hole[]): Hole[] {
  const out: Hole[] = [];
  for (const hole of holes.sort((a, b) => a.bottom - b.bottom || a.diameter - b.diameter)) {
    const below = out.find(
      (h) =>
        Math.hypot(h.x - hole.x, h.y - hole.y) < COAXIAL_MM &&
        hole.bottom >= h.top - SAME_MM &&
        hole.diameter > h.diameter &&
        !h.counterbore,
    );
    if (below) {
      below.counterbore = { diameter: hole.diameter, depth: hole.top - hole.bottom };
      below.top = hole.top;
      below.facetDepth = Math.max(below.facetDepth, hole.facetDepth);
      below.triangles = [...below.triangles, ...hole.triangles];
    } else out.push(hole);
  }
  return out;
}
