import { EsquisseError } from '../base/errors';
import { type Box, boxOfPositions } from './box';
import { ALONE, edgePairs } from './edgePairs';
import { orient } from './orient';

/** Vertices nearer than this are one vertex, in millimetres: far below any machining tolerance, above STL's rounding. */
export const WELD_MM = 1e-5;
/** Coordinates beyond this are refused, in millimetres: single precision files lose 0.01 mm there. */
export const LARGEST_COORDINATE_MM = 100_000;
/** Triangles with less than twice this area (mm²) carry no direction and are left out. */
const SMALLEST_DOUBLE_AREA = 1e-12;

/**
 * A welded triangle mesh. `positions` holds x, y, z of each vertex (mm), `indices` three vertices a triangle, `faceOf`
 * the number of the face of the solid that each triangle belongs to (all 0 when the file has no faces).
 */
export interface TriangleMesh {
  positions: Float64Array;
  indices: Uint32Array;
  faceOf: Uint32Array;
}

/** What was put right while a mesh was taken in; shown to the person, never swallowed. */
export interface MeshReport {
  degenerate: number;
  duplicate: number;
  openEdges: number;
  /** Triangles that looked the other way than their neighbours, or into the body. */
  turned: number;
}

/** The triangles of a mesh that have a mark, with the vertices that they use. */
export function partOf({ positions, indices, faceOf }: TriangleMesh, marks: Uint8Array): TriangleMesh {
  const number = new Int32Array(positions.length / 3).fill(-1);
  const out: { positions: number[]; indices: number[]; faceOf: number[] } = { positions: [], indices: [], faceOf: [] };
  for (let t = 0; t < marks.length; t++) {
    if (!marks[t]) continue;
    for (let h = 3 * t; h < 3 * t + 3; h++) {
      const v = indices[h]!;
      if (number[v]! < 0) {
        number[v] = out.positions.length / 3;
        out.positions.push(positions[3 * v]!, positions[3 * v + 1]!, positions[3 * v + 2]!);
      }
      out.indices.push(number[v]!);
    }
    out.faceOf.push(faceOf[t]!);
  }
  return {
    positions: Float64Array.from(out.positions),
    indices: Uint32Array.from(out.indices),
    faceOf: Uint32Array.from(out.faceOf),
  };
}

export function triangleCount(mesh: TriangleMesh): number {
  return mesh.indices.length / 3;
}

export function boxOf(mesh: TriangleMesh): Box {
  return boxOfPositions(mesh.positions);
}

/**
 * Welds a triangle soup into a mesh, leaving out triangles without area and exact repeats, all of its triangles looking out of
 * the body.
 *
 * @param soup nine coordinates a triangle, mm
 * @param faceOf face number of each triangle, or undefined
 * @throws EsquisseError `mesh-invalid` for no triangles, NaN or infinite or huge coordinates
 */
export function weld(soup: ArrayLike<number>, faceOf?: ArrayLike<number>): { mesh: TriangleMesh; report: MeshReport } {
  const corners = Math.floor(soup.length / 3);
  const vertexOf = new Uint32Array(corners);
  const table = new VertexTable(corners);
  for (let c = 0; c < corners; c++) {
    const x = soup[3 * c]!;
    const y = soup[3 * c + 1]!;
    const z = soup[3 * c + 2]!;
    refuseBadCoordinate(x, y, z, Math.floor(c / 3));
    vertexOf[c] = table.add(x, y, z);
  }
  return build(table.positions(), vertexOf, faceOf);
}

/** The same for an indexed mesh, whose vertices may repeat. */
export function weldIndexed(
  positions: ArrayLike<number>,
  indices: ArrayLike<number>,
  faceOf?: ArrayLike<number>,
): { mesh: TriangleMesh; report: MeshReport } {
  const table = new VertexTable(positions.length / 3);
  const renumber = new Uint32Array(positions.length / 3);
  for (let v = 0; v < renumber.length; v++) {
    const x = positions[3 * v]!;
    const y = positions[3 * v + 1]!;
    const z = positions[3 * v + 2]!;
    refuseBadCoordinate(x, y, z, -1);
    renumber[v] = table.add(x, y, z);
  }
  const vertexOf = new Uint32Array(indices.length);
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i]!;
    if (!(v >= 0 && v < renumber.length))
      throw new EsquisseError(
        'mesh-invalid',
        `Triangle ${Math.floor(i / 3) + 1} names vertex ${v + 1}, but the file has only ${renumber.length} vertices.`,
        `triangle ${Math.floor(i / 3) + 1}`,
      );
    vertexOf[i] = renumber[v]!;
  }
  return build(table.positions(), vertexOf, faceOf);
}

function refuseBadCoordinate(x: number, y: number, z: number, triangle: number): void {
  if (
    Math.abs(x) <= LARGEST_COORDINATE_MM &&
    Math.abs(y) <= LARGEST_COORDINATE_MM &&
    Math.abs(z) <= LARGEST_COORDINATE_MM
  )
    return;
  const place = triangle >= 0 ? `triangle ${triangle + 1}` : 'a vertex';
  throw new EsquisseError(
    'mesh-invalid',
    `The file has a vertex at (${x}, ${y}, ${z}) in ${place}: not a number, or farther than ${LARGEST_COORDINATE_MM / 1000} m from the origin. Export the part again near its origin.`,
    place,
  );
}

function build(
  positions: Float64Array,
  vertexOf: Uint32Array,
  faceOf: ArrayLike<number> | undefined,
): { mesh: TriangleMesh; report: MeshReport } {
  const count = Math.floor(vertexOf.length / 3);
  const kept = new Uint32Array(count);
  let used = 0;
  let degenerate = 0;
  let duplicate = 0;
  // triangles kept so far, chained by their lowest vertex
  const heads = new Int32Array(positions.length / 3).fill(-1);
  const next = new Int32Array(count);
  // two bodies that touch have a facet there each, looking opposite ways
  const repeats = (t: number, s: number): boolean =>
    sameCorners(vertexOf, t, vertexOf[3 * s]!, vertexOf[3 * s + 1]!, vertexOf[3 * s + 2]!) &&
    (!faceOf || faceOf[t] === faceOf[s] || sameWay(vertexOf, t, s));
  for (let t = 0; t < count; t++) {
    const a = vertexOf[3 * t]!;
    const b = vertexOf[3 * t + 1]!;
    const c = vertexOf[3 * t + 2]!;
    if (a === b || b === c || c === a || doubleArea(positions, a, b, c) < SMALLEST_DOUBLE_AREA) {
      degenerate++;
      continue;
    }
    const low = a < b ? (a < c ? a : c) : b < c ? b : c;
    let same = heads[low]!;
    while (same >= 0 && !repeats(same, t)) same = next[same]!;
    if (same >= 0) {
      duplicate++;
      continue;
    }
    next[t] = heads[low]!;
    heads[low] = t;
    kept[used++] = t;
  }
  if (used === 0)
    throw new EsquisseError('mesh-invalid', 'The file holds no triangle with an area, so there is nothing to machine.');
  const indices = new Uint32Array(used * 3);
  const faces = new Uint32Array(used);
  for (let i = 0; i < used; i++) {
    const t = kept[i]!;
    indices[3 * i] = vertexOf[3 * t]!;
    indices[3 * i + 1] = vertexOf[3 * t + 1]!;
    indices[3 * i + 2] = vertexOf[3 * t + 2]!;
    faces[i] = faceOf ? faceOf[t]! : 0;
  }
  const pair = edgePairs(indices, positions.length / 3);
  const turned = orient({ positions, indices, pair });
  return {
    mesh: { positions, indices, faceOf: faces },
    report: { degenerate, duplicate, openEdges: alone(pair), turned },
  };
}

/** Whether triangle t has the corners a, b, c in any order. */
function sameCorners(vertexOf: Uint32Array, t: number, a: number, b: number, c: number): boolean {
  const p = vertexOf[3 * t]!;
  const q = vertexOf[3 * t + 1]!;
  const r = vertexOf[3 * t + 2]!;
  return (p === a || p === b || p === c) && (q === a || q === b || q === c) && (r === a || r === b || r === c);
}

/** Whether two triangles of the same corners go round them the same way. */
function sameWay(vertexOf: Uint32Array, t: number, s: number): boolean {
  const at = [0, 1, 2].find((k) => vertexOf[3 * s + k] === vertexOf[3 * t])!;
  return vertexOf[3 * s + ((at + 1) % 3)] === vertexOf[3 * t + 1];
}

function doubleArea(p: Float64Array, a: number, b: number, c: number): number {
  const ux = p[3 * b]! - p[3 * a]!;
  const uy = p[3 * b + 1]! - p[3 * a + 1]!;
  const uz = p[3 * b + 2]! - p[3 * a + 2]!;
  const vx = p[3 * c]! - p[3 * a]!;
  const vy = p[3 * c + 1]! - p[3 * a + 1]!;
  const vz = p[3 * c + 2]! - p[3 * a + 2]!;
  const nx = uy * vz - uz * vy;
  const ny = uz * vx - ux * vz;
  const nz = ux * vy - uy * vx;
  return Math.sqrt(nx * nx + ny * ny + nz * nz);
}

/** Unit normal (three numbers) and area (mm²) of each triangle; a triangle without area gets a normal of zeros. */
export function facetsOfMesh({ positions: p, indices }: TriangleMesh): { normals: Float64Array; areas: Float64Array } {
  const normals = new Float64Array(indices.length);
  const areas = new Float64Array(indices.length / 3);
  for (let t = 0; t < indices.length; t += 3) {
    const a = 3 * indices[t]!;
    const b = 3 * indices[t + 1]!;
    const c = 3 * indices[t + 2]!;
    const ux = p[b]! - p[a]!;
    const uy = p[b + 1]! - p[a + 1]!;
    const uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!;
    const vy = p[c + 1]! - p[a + 1]!;
    const vz = p[c + 2]! - p[a + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const by = length || 1;
    normals[t] = nx / by;
    normals[t + 1] = ny / by;
    normals[t + 2] = nz / by;
    areas[t / 3] = length / 2;
  }
  return { normals, areas };
}

/** Number of edges that belong to one triangle only; 0 for a closed mesh. */
export function countOpenEdges(mesh: TriangleMesh): number {
  return alone(edgePairs(mesh.indices, mesh.positions.length / 3));
}

function alone(pair: Int32Array): number {
  let open = 0;
  for (const partner of pair) if (partner === ALONE) open++;
  return open;
}

/** Volume inside a closed mesh (divergence theorem), mm³; negative when all normals point inward. */
export function volumeOf(mesh: TriangleMesh): number {
  const p = mesh.positions;
  let six = 0;
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const a = 3 * mesh.indices[t]!;
    const b = 3 * mesh.indices[t + 1]!;
    const c = 3 * mesh.indices[t + 2]!;
    six +=
      p[a]! * (p[b + 1]! * p[c + 2]! - p[b + 2]! * p[c + 1]!) -
      p[a + 1]! * (p[b]! * p[c + 2]! - p[b + 2]! * p[c]!) +
      p[a + 2]! * (p[b]! * p[c + 1]! - p[b + 1]! * p[c]!);
  }
  return six / 6;
}

/** A copy moved by (dx, dy, dz) mm. */
export function translateMesh(mesh: TriangleMesh, dx: number, dy: number, dz: number): TriangleMesh {
  const positions = new Float64Array(mesh.positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    positions[i] = mesh.positions[i]! + dx;
    positions[i + 1] = mesh.positions[i + 1]! + dy;
    positions[i + 2] = mesh.positions[i + 2]! + dz;
  }
  return { positions, indices: mesh.indices, faceOf: mesh.faceOf };
}

/** Hash table from rounded coordinates to vertex numbers; looks into neighbouring cells so that rounding cannot split a vertex. */
class VertexTable {
  private readonly heads: Int32Array;
  private readonly next: Int32Array;
  private readonly xyz: Float64Array;
  private readonly mask: number;
  private count = 0;

  constructor(capacity: number) {
    let size = 16;
    while (size < capacity * 2) size *= 2;
    this.heads = new Int32Array(size).fill(-1);
    this.next = new Int32Array(Math.max(1, capacity));
    this.xyz = new Float64Array(Math.max(1, capacity) * 3);
    this.mask = size - 1;
  }

  add(x: number, y: number, z: number): number {
    const cell = 2 * WELD_MM;
    const ix = Math.floor(x / cell);
    const iy = Math.floor(y / cell);
    const iz = Math.floor(z / cell);
    // only the neighbours whose cell is within the welding distance can hold the same vertex
    const sx = x / cell - ix < 0.5 ? -1 : 1;
    const sy = y / cell - iy < 0.5 ? -1 : 1;
    const sz = z / cell - iz < 0.5 ? -1 : 1;
    for (let k = 0; k < 8; k++) {
      const found = this.find(ix + (k & 1 ? sx : 0), iy + (k & 2 ? sy : 0), iz + (k & 4 ? sz : 0), x, y, z);
      if (found >= 0) return found;
    }
    const v = this.count++;
    this.xyz[3 * v] = x;
    this.xyz[3 * v + 1] = y;
    this.xyz[3 * v + 2] = z;
    const slot = this.slot(ix, iy, iz);
    this.next[v] = this.heads[slot]!;
    this.heads[slot] = v;
    return v;
  }

  positions(): Float64Array {
    return this.xyz.slice(0, this.count * 3);
  }

  private slot(ix: number, iy: number, iz: number): number {
    return (Math.imul(ix | 0, 73856093) ^ Math.imul(iy | 0, 19349663) ^ Math.imul(iz | 0, 83492791)) & this.mask;
  }

  private find(ix: number, iy: number, iz: number, x: number, y: number, z: number): number {
    for (let v = this.heads[this.slot(ix, iy, iz)]!; v >= 0; v = this.next[v]!) {
      if (
        Math.abs(this.xyz[3 * v]! - x) <= WELD_MM &&
        Math.abs(this.xyz[3 * v + 1]! - y) <= WELD_MM &&
        Math.abs(this.xyz[3 * v + 2]! - z) <= WELD_MM
      )
        return v;
    }
    return -1;
  }
}
