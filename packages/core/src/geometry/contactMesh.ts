import { type Box, boxOfPositions } from './box';
import type { TriangleMesh } from './mesh';
import { sharedFloat32, sharedFloat64, sharedUint32, sharedUint8 } from './shared';

/** Triangles in a leaf, and children of a node: the fastest of the combinations tried. */
export const LEAF = 4;
export const FAN = 8;
/** Unit normals with a smaller Z count as upright: such a facet is touched at its edges only. */
export const UPRIGHT_NZ = 1e-7;
/** Triangles lower than this over their longest side (mm) have no trustworthy normal: touched at their edges only. */
const SLIVER_MM = 1e-5;
/** A valley's far corner stands at least this above the other facet's plane, mm: below it rounding decides, and the edge is kept. */
const COPLANAR_MM = 1e-9;

/**
 * A mesh made ready for contact queries from above. All arrays lie in shared memory.
 *
 * The triangles stand in Hilbert order of their centres; a packed tree of boxes lies over them: leaf i covers triangles
 * `LEAF*i ...`, node i of level l+1 covers nodes `FAN*i ...` of level l.
 */
export interface ContactMesh {
  /** 9 coordinates a triangle, mm. */
  triangles: Float64Array;
  /** nx, ny, nz, d a triangle: unit normal with nz >= 0 and n·p = d; nz is 0 for an upright triangle. */
  planes: Float64Array;
  /** Bit i: edge i (corner i to corner i+1) is tested with this triangle. */
  edges: Uint8Array;
  /** Face of the solid that each triangle belongs to. */
  faceOf: Uint32Array;
  /** minX, minY, maxX, maxY, minZ, maxZ a node, rounded outward; level after level, leaves first. */
  boxes: Float32Array;
  /** First node of each level, and the number of nodes behind the last one. */
  levels: Uint32Array;
  count: number;
  box: Box;
}

/** Prepares a mesh: sorts, keeps the edges that a cutter can touch, builds the tree. */
export function contactMesh(mesh: TriangleMesh): ContactMesh {
  const count = mesh.indices.length / 3;
  const box = boxOfPositions(mesh.positions);
  const order = hilbertOrder(mesh, box);
  const triangles = sharedFloat64(count * 9);
  const faceOf = sharedUint32(count);
  for (let i = 0; i < count; i++) {
    const t = order[i]!;
    faceOf[i] = mesh.faceOf[t]!;
    for (let c = 0; c < 3; c++) {
      const v = 3 * mesh.indices[3 * t + c]!;
      triangles[9 * i + 3 * c] = mesh.positions[v]!;
      triangles[9 * i + 3 * c + 1] = mesh.positions[v + 1]!;
      triangles[9 * i + 3 * c + 2] = mesh.positions[v + 2]!;
    }
  }
  const planes = planesOf(triangles);
  const edges = touchableEdges(mesh, order, triangles, planes);
  const { boxes, levels } = treeOf(triangles);
  return { triangles, planes, edges, faceOf, boxes, levels, count, box };
}

function planesOf(triangles: Float64Array): Float64Array {
  const count = triangles.length / 9;
  const planes = sharedFloat64(count * 4);
  for (let i = 0; i < count; i++) {
    const o = 9 * i;
    const ux = triangles[o + 3]! - triangles[o]!;
    const uy = triangles[o + 4]! - triangles[o + 1]!;
    const uz = triangles[o + 5]! - triangles[o + 2]!;
    const vx = triangles[o + 6]! - triangles[o]!;
    const vy = triangles[o + 7]! - triangles[o + 1]!;
    const vz = triangles[o + 8]! - triangles[o + 2]!;
    let nx = uy * vz - uz * vy;
    let ny = uz * vx - ux * vz;
    let nz = ux * vy - uy * vx;
    const length = Math.hypot(nx, ny, nz);
    const sign = nz < 0 ? -1 / length : 1 / length;
    nx *= sign;
    ny *= sign;
    nz *= sign;
    planes[4 * i] = nx;
    planes[4 * i + 1] = ny;
    const longest = Math.max(Math.hypot(ux, uy, uz), Math.hypot(vx, vy, vz), Math.hypot(vx - ux, vy - uy, vz - uz));
    planes[4 * i + 2] = nz < UPRIGHT_NZ || length < SLIVER_MM * longest ? 0 : nz;
    planes[4 * i + 3] = nx * triangles[o]! + ny * triangles[o + 1]! + nz * triangles[o + 2]!;
  }
  return planes;
}

/**
 * Which edges can be touched before a facet is. An edge between two facets that lie on opposite sides in plan and meet as
 * a valley never is; every other edge (flat, ridge, fold, boundary, upright neighbour, more than two facets) is kept, with
 * one of its triangles. Flat ones matter: the contact of either facet may round into the other and be missed by both. The test looks at positions only, so flipped normals do not matter.
 */
function touchableEdges(
  mesh: TriangleMesh,
  order: Uint32Array,
  triangles: Float64Array,
  planes: Float64Array,
): Uint8Array {
  const count = order.length;
  const edges = sharedUint8(count);
  const vertices = mesh.positions.length / 3;
  const first = new Map<number, number>();
  const partners = new Map<number, number>();
  for (let i = 0; i < count; i++) {
    for (let e = 0; e < 3; e++) {
      const a = mesh.indices[3 * order[i]! + e]!;
      const b = mesh.indices[3 * order[i]! + ((e + 1) % 3)]!;
      const key = Math.min(a, b) * vertices + Math.max(a, b);
      const before = first.get(key);
      if (before === undefined) {
        first.set(key, 3 * i + e);
        edges[i] = edges[i]! | (1 << e);
      } else partners.set(key, partners.has(key) ? -1 : 3 * i + e);
    }
  }
  for (const [key, other] of partners) {
    const own = first.get(key)!;
    if (other >= 0 && isValley(own, other, triangles, planes)) {
      const i = Math.floor(own / 3);
      edges[i] = edges[i]! & ~(1 << (own % 3));
    }
  }
  return edges;
}

/** Where corner `next` after the beginning of an edge (3 * triangle + edge) stands in `triangles`. */
function corner(edge: number, next: number): number {
  return 9 * Math.floor(edge / 3) + 3 * (((edge % 3) + next) % 3);
}

function isValley(own: number, other: number, triangles: Float64Array, planes: Float64Array): boolean {
  const i = Math.floor(own / 3);
  const j = Math.floor(other / 3);
  const nz = planes[4 * i + 2]!;
  if (nz === 0 || planes[4 * j + 2] === 0) return false;
  const a = corner(own, 0);
  const b = corner(own, 1);
  const apexOwn = corner(own, 2);
  const apexOther = corner(other, 2);
  const dx = triangles[b]! - triangles[a]!;
  const dy = triangles[b + 1]! - triangles[a + 1]!;
  const side = (p: number): number =>
    dx * (triangles[p + 1]! - triangles[a + 1]!) - dy * (triangles[p]! - triangles[a]!);
  if (!(side(apexOwn) * side(apexOther) < 0)) return false;
  const above =
    planes[4 * i]! * triangles[apexOther]! +
    planes[4 * i + 1]! * triangles[apexOther + 1]! +
    nz * triangles[apexOther + 2]! -
    planes[4 * i + 3]!;
  return above > COPLANAR_MM;
}

function treeOf(triangles: Float64Array): { boxes: Float32Array; levels: Uint32Array } {
  const count = triangles.length / 9;
  const starts = [0];
  let nodes = Math.ceil(count / LEAF);
  let total = nodes;
  starts.push(total);
  while (nodes > 1) {
    nodes = Math.ceil(nodes / FAN);
    total += nodes;
    starts.push(total);
  }
  const boxes = sharedFloat32(total * 6);
  for (let leaf = 0; leaf < starts[1]!; leaf++) leafBox(triangles, boxes, leaf, Math.min(count, (leaf + 1) * LEAF));
  for (let level = 1; level + 1 < starts.length; level++)
    for (let n = starts[level]!; n < starts[level + 1]!; n++) {
      const from = starts[level - 1]! + (n - starts[level]!) * FAN;
      joinBoxes(boxes, n, from, Math.min(starts[level]!, from + FAN));
    }
  const levels = sharedUint32(starts.length);
  levels.set(starts);
  return { boxes, levels };
}

function leafBox(triangles: Float64Array, boxes: Float32Array, leaf: number, end: number): void {
  let minX = Infinity;
  let minY = Infinity;
  let minZ = Infinity;
  let maxX = -Infinity;
  let maxY = -Infinity;
  let maxZ = -Infinity;
  for (let p = leaf * LEAF * 9; p < end * 9; p += 3) {
    minX = Math.min(minX, triangles[p]!);
    maxX = Math.max(maxX, triangles[p]!);
    minY = Math.min(minY, triangles[p + 1]!);
    maxY = Math.max(maxY, triangles[p + 1]!);
    minZ = Math.min(minZ, triangles[p + 2]!);
    maxZ = Math.max(maxZ, triangles[p + 2]!);
  }
  const o = leaf * 6;
  boxes[o] = roundDown(minX);
  boxes[o + 1] = roundDown(minY);
  boxes[o + 2] = -roundDown(-maxX);
  boxes[o + 3] = -roundDown(-maxY);
  boxes[o + 4] = roundDown(minZ);
  boxes[o + 5] = -roundDown(-maxZ);
}

/** The largest single precision number at or below x, with a hair of room. */
function roundDown(x: number): number {
  return Math.fround(x - Math.abs(x) * 6e-8 - 1e-30);
}

function joinBoxes(boxes: Float32Array, node: number, from: number, end: number): void {
  const o = node * 6;
  boxes.copyWithin(o, from * 6, from * 6 + 6);
  for (let c = (from + 1) * 6; c < end * 6; c += 6) {
    if (boxes[c]! < boxes[o]!) boxes[o] = boxes[c]!;
    if (boxes[c + 1]! < boxes[o + 1]!) boxes[o + 1] = boxes[c + 1]!;
    if (boxes[c + 2]! > boxes[o + 2]!) boxes[o + 2] = boxes[c + 2]!;
    if (boxes[c + 3]! > boxes[o + 3]!) boxes[o + 3] = boxes[c + 3]!;
    if (boxes[c + 4]! < boxes[o + 4]!) boxes[o + 4] = boxes[c + 4]!;
    if (boxes[c + 5]! > boxes[o + 5]!) boxes[o + 5] = boxes[c + 5]!;
  }
}

function hilbertOrder(mesh: TriangleMesh, box: Box): Uint32Array {
  const count = mesh.indices.length / 3;
  const scale = 65535 / Math.max(box.maxX - box.minX, box.maxY - box.minY, 1e-9);
  const keys = new Float64Array(count);
  for (let t = 0; t < count; t++) {
    let x = 0;
    let y = 0;
    for (let c = 0; c < 3; c++) {
      x += mesh.positions[3 * mesh.indices[3 * t + c]!]!;
      y += mesh.positions[3 * mesh.indices[3 * t + c]! + 1]!;
    }
    const h = hilbert(Math.floor((x / 3 - box.minX) * scale), Math.floor((y / 3 - box.minY) * scale));
    // key and number in one double: sorting plain doubles needs no comparison function
    keys[t] = h * 2097152 + t;
  }
  if (count > 2097152) return Uint32Array.from(keys.keys());
  keys.sort();
  const order = new Uint32Array(count);
  for (let i = 0; i < count; i++) order[i] = keys[i]! % 2097152;
  return order;
}

/** Place of (x, y), each 0 to 65535, along the Hilbert curve of order 16. */
function hilbert(x: number, y: number): number {
  let d = 0;
  for (let s = 32768; s > 0; s >>= 1) {
    const rx = (x & s) > 0 ? 1 : 0;
    const ry = (y & s) > 0 ? 1 : 0;
    d += s * s * ((3 * rx) ^ ry);
    if (ry === 0) {
      if (rx === 1) {
        x = 65535 - x;
        y = 65535 - y;
      }
      const k = x;
      x = y;
      y = k;
    }
  }
  return d;
}
