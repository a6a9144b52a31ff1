import type { ContactMesh } from '../geometry/contactMesh';

/** A facet of a chamfer by its middle, mm and mm². */
interface ChamferFacet {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  /** Height of the chamfer's lower end. */
  readonly low: number;
  readonly area: number;
}

/** Chamfers of a part whose lower and upper ends lie at the same heights, mm and mm². */
export interface DrawnChamfer {
  readonly low: number;
  readonly high: number;
  readonly area: number;
  readonly facets: readonly ChamferFacet[];
  readonly at: { readonly x: number; readonly y: number; readonly z: number };
}

/** A facet leans as a chamfer does when its angle is off by less than this, degrees. */
const ANGLE_DEG = 0.5;
/** Heights, and corners of facets, this close are one, mm. */
const SAME_MM = 2e-3;
const CORNER_MM = 1e-4;
/** Two faces that turn by more than this meet at a sharp edge (cosine). */
const SHARP_COS = Math.cos((10 * Math.PI) / 180);
/** An edge that rises by more than this share of its length ends a chamfer to a side. */
const RISES = 0.3;
/** Of the lower end so much may lie elsewhere than at its height: it is no chamfer of a level edge else. */
const UNEVEN_SHARE = 0.02;

/**
 * Connected faces that lean as a point does and have a level lower end, those of the same heights together.
 *
 * @param slope rise of the point per mm of radius
 */
export function chamfersOf(mesh: ContactMesh, slope: number): DrawnChamfer[] {
  const { triangles } = mesh;
  const leaning = leaningFacets(mesh, Math.atan(slope));
  if (leaning.length === 0) return [];
  const isSharp = sharpAmong(mesh, leaning);
  const found = new Map<string, { low: number; high: number; facets: ChamferFacet[] }>();
  for (const { facets, border } of piecesOf(triangles, leaning)) {
    const zs = facets.flatMap((i) => [0, 1, 2].map((c) => triangles[9 * i + 3 * c + 2]!));
    const low = zs.reduce((a, b) => Math.min(a, b));
    const high = zs.reduce((a, b) => Math.max(a, b));
    if (!isLevelBelow(border, low, high, isSharp)) continue;
    const key = `${Math.round(low / SAME_MM)},${Math.round(high / SAME_MM)}`;
    const own = found.get(key) ?? { low, high, facets: [] };
    found.set(key, own);
    for (const i of facets) own.facets.push({ ...middleOf(triangles, i), low, area: areaOf(triangles, i) });
  }
  return [...found.values()]
    .map((chamfer) => ({
      ...chamfer,
      area: chamfer.facets.reduce((sum, f) => sum + f.area, 0),
      at: chamfer.facets.reduce((a, b) => (b.area > a.area ? b : a)),
    }))
    .sort((a, b) => b.high - a.high);
}

type Corner = readonly [x: number, y: number, z: number];

function leaningFacets({ triangles, count }: ContactMesh, lean: number): number[] {
  const out: number[] = [];
  for (let i = 0; i < count; i++) {
    const [nx, ny, nz] = crossOf(triangles, i);
    const twice = Math.hypot(nx, ny, nz);
    if (twice > 0 && Math.abs(Math.acos(Math.min(1, nz / twice)) - lean) <= (ANGLE_DEG * Math.PI) / 180) out.push(i);
  }
  return out;
}

const keyOf = ([x, y, z]: Corner): string =>
  `${Math.round(x / CORNER_MM)},${Math.round(y / CORNER_MM)},${Math.round(z / CORNER_MM)}`;

function keyOfEdge(a: Corner, b: Corner): string {
  const [p, q] = [keyOf(a), keyOf(b)];
  return p < q ? `${p}|${q}` : `${q}|${p}`;
}

function cornerOf(t: Float64Array, i: number, c: number): Corner {
  const o = 9 * i + 3 * (c % 3);
  return [t[o]!, t[o + 1]!, t[o + 2]!];
}

/** Tells which edges of some facets are sharp: on a smooth surface that leans so somewhere there is none. */
function sharpAmong({ triangles, count }: ContactMesh, facets: readonly number[]): (a: Corner, b: Corner) => boolean {
  const corners = new Set(facets.flatMap((i) => [0, 1, 2].map((c) => keyOf(cornerOf(triangles, i, c)))));
  const normals = new Map<string, [number, number, number][]>();
  for (let i = 0; i < count; i++) {
    const isNear = [0, 1, 2].map((c) => corners.has(keyOf(cornerOf(triangles, i, c))));
    if (isNear.filter(Boolean).length < 2) continue;
    const [nx, ny, nz] = crossOf(triangles, i);
    const l = Math.hypot(nx, ny, nz) || 1;
    for (let c = 0; c < 3; c++) {
      if (!isNear[c] || !isNear[(c + 1) % 3]) continue;
      const key = keyOfEdge(cornerOf(triangles, i, c), cornerOf(triangles, i, c + 1));
      normals.set(key, [...(normals.get(key) ?? []), [nx / l, ny / l, nz / l]]);
    }
  }
  return (a, b) => {
    const [m, n] = normals.get(keyOfEdge(a, b)) ?? [];
    return !m || !n || m[0] * n[0] + m[1] * n[1] + m[2] * n[2] < SHARP_COS;
  };
}

/** Facets that hang together by their edges, and the edges that only one of them has. */
function piecesOf(t: Float64Array, facets: readonly number[]): { facets: number[]; border: [Corner, Corner][] }[] {
  const corner = (i: number, c: number): Corner => cornerOf(t, i, c);
  const edgeKey = (i: number, c: number): string => keyOfEdge(corner(i, c), corner(i, c + 1));
  const byEdge = new Map<string, number[]>();
  for (const i of facets)
    for (let c = 0; c < 3; c++) {
      const key = edgeKey(i, c);
      const known = byEdge.get(key);
      if (known) known.push(i);
      else byEdge.set(key, [i]);
    }
  const seen = new Set<number>();
  const pieces: { facets: number[]; border: [Corner, Corner][] }[] = [];
  for (const first of facets) {
    if (seen.has(first)) continue;
    const piece: (typeof pieces)[number] = { facets: [first], border: [] };
    seen.add(first);
    // grows while it is gone through
    for (const i of piece.facets)
      for (let c = 0; c < 3; c++) {
        const beside = byEdge.get(edgeKey(i, c))!;
        if (beside.length === 1) piece.border.push([corner(i, c), corner(i, c + 1)]);
        for (const other of beside)
          if (!seen.has(other)) {
            seen.add(other);
            piece.facets.push(other);
          }
      }
    pieces.push(piece);
  }
  return pieces;
}

/** Whether what of a border neither lies at its top nor ends it to a side is a sharp edge at its lowest height. */
function isLevelBelow(
  border: readonly [Corner, Corner][],
  low: number,
  high: number,
  isSharp: (a: Corner, b: Corner) => boolean,
): boolean {
  let level = 0;
  let uneven = 0;
  for (const [a, b] of border) {
    const length = Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
    if (Math.min(a[2], b[2]) > high - SAME_MM || Math.abs(a[2] - b[2]) > RISES * length) continue;
    const isLow = Math.max(a[2], b[2]) < low + SAME_MM;
    if (isLow && isSharp(a, b)) level += length;
    // inside a cone some facets are twisted: what is smooth is no end of it
    else if (isLow || isSharp(a, b)) uneven += length;
  }
  return level > 0 && uneven <= UNEVEN_SHARE * level;
}

function crossOf(t: Float64Array, i: number): [number, number, number] {
  const o = 9 * i;
  const [ux, uy, uz] = [t[o + 3]! - t[o]!, t[o + 4]! - t[o + 1]!, t[o + 5]! - t[o + 2]!];
  const [vx, vy, vz] = [t[o + 6]! - t[o]!, t[o + 7]! - t[o + 1]!, t[o + 8]! - t[o + 2]!];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}

const areaOf = (t: Float64Array, i: number): number => Math.hypot(...crossOf(t, i)) / 2;

function middleOf(t: Float64Array, i: number): { x: number; y: number; z: number } {
  const mean = (c: number): number => (t[9 * i + c]! + t[9 * i + 3 + c]! + t[9 * i + 6 + c]!) / 3;
  return { x: mean(0), y: mean(1), z: mean(2) };
}
