import { type Box, boxOfPositions } from './box';
import { edgePairs, SECOND } from './edgePairs';
import type { TriangleMesh } from './mesh';
import { sharedFloat32, sharedFloat64, sharedUint32, sharedUint8 } from './shared';

/** Triangles in a leaf, and children of a node: the fastest of the combinations tried. */
export const LEAF = 1;
export const FAN = 8;
/** Numbers a node, and numbers a facet. */
export const NODE = 12;
export const FACET = 5;
/** Triangles longer (X and Y together) than this share of the part are long. */
const LONG_SHARE = 1 / 8;
/** Levels of the tree above the leaves that have a leaning roof: over wider areas a level one does as well. */
const ROOFED = 3;
/** Roofs lean no more than this (tangent), so that single precision holds them. */
const STEEPEST_ROOF = 10000;
/** A facet whose normal leans less than this is level: its lean is rounding and tells no direction. */
const LEVEL_LEAN = 2e-8;
/** Unit normals with a smaller Z count as upright: such a facet is touched at its edges only. */
export const UPRIGHT_NZ = 1e-7;
/** Triangles lower than this over their longest side (mm) have no trustworthy normal: touched at their edges only. */
const SLIVER_MM = 1e-5;
/** A valley's far corner stands at least this above the other facet's plane, mm: below it rounding decides, and the edge is kept. */
const COPLANAR_MM = 1e-9;

/**
 * A mesh made ready for contact queries from above. All arrays lie in shared memory.
 *
 * The triangles stand in Hilbert order of their centres, long ones and those that look down last; a packed tree of boxes lies over them: leaf i covers triangles
 * `LEAF*i ...`, node i of level l+1 covers nodes `FAN*i ...` of level l.
 */
export interface ContactMesh {
  /** Tells meshes apart, also where they were sent to another thread. */
  id: number;
  /** 9 coordinates a triangle, mm. */
  triangles: Float64Array;
  /** nx, ny, nz, d a triangle: unit normal with nz >= 0 and n·p = d; nz is 0 for an upright triangle. */
  planes: Float64Array;
  /** Bit i: edge i (corner i to corner i+1) is tested with this triangle. */
  edges: Uint8Array;
  /** Face of the solid that each triangle belongs to. */
  faceOf: Uint32Array;
  /**
   * {@link NODE} numbers a node, level after level, leaves first: minX, minY, maxX, maxY, minZ, maxZ, rounded outward; then
   * its roof, a plane z = a x + b y + c that nothing in the node is above: a, b, c, 1 / nz - 1, |(a, b)|, nz.
   */
  nodes: Float32Array;
  /** The same for each triangle's own plane, {@link FACET} numbers: a, b, c, 1 / nz - 1, |(a, b)|; a is NaN when upright. */
  facets: Float64Array;
  /** First node of each level, and the number of nodes behind the last one. */
  levels: Uint32Array;
  /** x, y, z of the vertices that none of their neighbours is above, one of each level patch at least, mm. */
  summits: Float64Array;
  count: number;
  box: Box;
}

/** Prepares a mesh: sorts, keeps the edges that a cutter can touch, builds the tree. */
export function contactMesh(mesh: TriangleMesh): ContactMesh {
  const count = mesh.indices.length / 3;
  const box = boxOfPositions(mesh.positions);
  const order = sweepOrder(mesh, box);
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
  const { nodes, levels } = treeOf(triangles);
  return {
    id: Math.random(),
    triangles,
    planes,
    facets: facetsOf(planes),
    edges,
    faceOf,
    nodes,
    levels,
    summits: summitsOf(mesh),
    count,
    box,
  };
}

function summitsOf({ positions, indices }: TriangleMesh): Float64Array {
  const below = new Uint8Array(positions.length / 3);
  for (let h = 0; h < indices.length; h++) {
    const a = indices[h]!;
    const b = indices[h % 3 === 2 ? h - 2 : h + 1]!;
    const rise = positions[3 * b + 2]! - positions[3 * a + 2]!;
    if (rise > 0) below[a] = 1;
    else if (rise < 0) below[b] = 1;
  }
  let count = 0;
  for (const lower of below) if (!lower) count++;
  const summits = sharedFloat64(3 * count);
  let o = 0;
  for (let v = 0; v < below.length; v++) {
    if (below[v]) continue;
    for (let c = 0; c < 3; c++) summits[o++] = positions[3 * v + c]!;
  }
  return summits;
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
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const sign = nz < 0 ? -1 / length : 1 / length;
    nx *= sign;
    ny *= sign;
    nz *= sign;
    planes[4 * i] = nx;
    planes[4 * i + 1] = ny;
    const [wx, wy, wz] = [vx - ux, vy - uy, vz - uz];
    const longest2 = Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz);
    planes[4 * i + 2] = nz < UPRIGHT_NZ || length * length < SLIVER_MM * SLIVER_MM * longest2 ? 0 : nz;
    planes[4 * i + 3] = nx * triangles[o]! + ny * triangles[o + 1]! + nz * triangles[o + 2]!;
  }
  return planes;
}

function facetsOf(planes: Float64Array): Float64Array {
  const count = planes.length / 4;
  const facets = sharedFloat64(count * FACET);
  for (let i = 0; i < count; i++) {
    const nx = planes[4 * i]!;
    const ny = planes[4 * i + 1]!;
    const nz = planes[4 * i + 2]!;
    const o = FACET * i;
    const lean = Math.sqrt(nx * nx + ny * ny);
    facets[o] = nz === 0 ? NaN : -nx / nz;
    facets[o + 1] = -ny / nz;
    facets[o + 2] = planes[4 * i + 3]! / nz;
    // 1 / nz - 1 without cancellation
    facets[o + 3] = (lean * lean) / (nz * (1 + nz));
    facets[o + 4] = lean > LEVEL_LEAN ? lean / nz : 0;
  }
  return facets;
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
  const rank = new Uint32Array(count);
  for (let i = 0; i < count; i++) rank[order[i]!] = i;
  const pair = edgePairs(mesh.indices, mesh.positions.length / 3);
  for (let i = 0; i < count; i++)
    for (let e = 0; e < 3; e++) {
      const partner = pair[3 * order[i]! + e]!;
      if (partner === SECOND) continue;
      if (partner >= 0) {
        const t = (partner / 3) | 0;
        if (isValley(3 * i + e, 3 * rank[t]! + partner - 3 * t, triangles, planes)) continue;
      }
      edges[i] = edges[i]! | (1 << e);
    }
  return edges;
}

function isValley(own: number, other: number, triangles: Float64Array, planes: Float64Array): boolean {
  const i = (own / 3) | 0;
  const j = (other / 3) | 0;
  const nz = planes[4 * i + 2]!;
  if (nz === 0 || planes[4 * j + 2] === 0) return false;
  const e = own - 3 * i;
  const a = 9 * i + 3 * e;
  const b = 9 * i + 3 * ((e + 1) % 3);
  const apexOwn = 9 * i + 3 * ((e + 2) % 3);
  const apexOther = 9 * j + 3 * ((other - 3 * j + 2) % 3);
  const dx = triangles[b]! - triangles[a]!;
  const dy = triangles[b + 1]! - triangles[a + 1]!;
  const sideOwn = dx * (triangles[apexOwn + 1]! - triangles[a + 1]!) - dy * (triangles[apexOwn]! - triangles[a]!);
  const sideOther = dx * (triangles[apexOther + 1]! - triangles[a + 1]!) - dy * (triangles[apexOther]! - triangles[a]!);
  if (!(sideOwn * sideOther < 0)) return false;
  const above =
    planes[4 * i]! * triangles[apexOther]! +
    planes[4 * i + 1]! * triangles[apexOther + 1]! +
    nz * triangles[apexOther + 2]! -
    planes[4 * i + 3]!;
  return above > COPLANAR_MM;
}

function treeOf(triangles: Float64Array): { nodes: Float32Array; levels: Uint32Array } {
  const count = triangles.length / 9;
  const starts = [0];
  let width = Math.ceil(count / LEAF);
  let total = width;
  starts.push(total);
  while (width > 1) {
    width = Math.ceil(width / FAN);
    total += width;
    starts.push(total);
  }
  const nodes = sharedFloat32(total * NODE);
  for (let leaf = 0; leaf < starts[1]!; leaf++) leafBox(triangles, nodes, leaf, Math.min(count, (leaf + 1) * LEAF));
  for (let level = 1; level + 1 < starts.length; level++)
    for (let n = starts[level]!; n < starts[level + 1]!; n++) {
      const from = starts[level - 1]! + (n - starts[level]!) * FAN;
      joinBoxes(nodes, n, from, Math.min(starts[level]!, from + FAN));
    }
  let span = LEAF;
  for (let level = 0; level + 1 < starts.length; level++, span *= FAN)
    for (let n = starts[level]!; n < starts[level + 1]!; n++) {
      const first = (n - starts[level]!) * span;
      roofOf(triangles, nodes, n, first, level > ROOFED ? first : Math.min(count, first + span));
    }
  const levels = sharedUint32(starts.length);
  levels.set(starts);
  return { nodes, levels };
}

function leafBox(triangles: Float64Array, nodes: Float32Array, leaf: number, end: number): void {
  let minX = Infinity;
  let minY = Infinity;
  let minZ = Infinity;
  let maxX = -Infinity;
  let maxY = -Infinity;
  let maxZ = -Infinity;
  for (let p = leaf * LEAF * 9; p < end * 9; p += 3) {
    const x = triangles[p]!;
    const y = triangles[p + 1]!;
    const z = triangles[p + 2]!;
    if (x < minX) minX = x;
    if (x > maxX) maxX = x;
    if (y < minY) minY = y;
    if (y > maxY) maxY = y;
    if (z < minZ) minZ = z;
    if (z > maxZ) maxZ = z;
  }
  const o = leaf * NODE;
  nodes[o] = roundDown(minX);
  nodes[o + 1] = roundDown(minY);
  nodes[o + 2] = roundUp(maxX);
  nodes[o + 3] = roundUp(maxY);
  nodes[o + 4] = roundDown(minZ);
  nodes[o + 5] = roundUp(maxZ);
}

/** A single precision number at or below x, with a hair of room. */
function roundDown(x: number): number {
  return Math.fround(x - Math.abs(x) * 1.2e-7 - 1e-30);
}

function roundUp(x: number): number {
  return Math.fround(x + Math.abs(x) * 1.2e-7 + 1e-30);
}

function joinBoxes(nodes: Float32Array, node: number, from: number, end: number): void {
  const o = node * NODE;
  nodes.copyWithin(o, from * NODE, from * NODE + 6);
  for (let c = (from + 1) * NODE; c < end * NODE; c += NODE) {
    if (nodes[c]! < nodes[o]!) nodes[o] = nodes[c]!;
    if (nodes[c + 1]! < nodes[o + 1]!) nodes[o + 1] = nodes[c + 1]!;
    if (nodes[c + 2]! > nodes[o + 2]!) nodes[o + 2] = nodes[c + 2]!;
    if (nodes[c + 3]! > nodes[o + 3]!) nodes[o + 3] = nodes[c + 3]!;
    if (nodes[c + 4]! < nodes[o + 4]!) nodes[o + 4] = nodes[c + 4]!;
    if (nodes[c + 5]! > nodes[o + 5]!) nodes[o + 5] = nodes[c + 5]!;
  }
}

/** Lays a plane over triangles `first` to `end` that none of their corners is above, leaning as they do on average. */
function roofOf(triangles: Float64Array, nodes: Float32Array, node: number, first: number, end: number): void {
  const o = node * NODE;
  let sx = 0;
  let sy = 0;
  let sz = 0;
  for (let p = 9 * first; p < 9 * end; p += 9) {
    const ux = triangles[p + 3]! - triangles[p]!;
    const uy = triangles[p + 4]! - triangles[p + 1]!;
    const uz = triangles[p + 5]! - triangles[p + 2]!;
    const vx = triangles[p + 6]! - triangles[p]!;
    const vy = triangles[p + 7]! - triangles[p + 1]!;
    const vz = triangles[p + 8]! - triangles[p + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    // an upright one leans as its solid has it
    const up = nz < -UPRIGHT_NZ * Math.hypot(nx, ny) ? -1 : 1;
    sx += up * nx;
    sy += up * ny;
    sz += Math.abs(nz);
  }
  const level = Math.max(sz, Math.hypot(sx, sy) / STEEPEST_ROOF);
  const a = level > 0 ? Math.fround(-sx / level) : 0;
  const b = level > 0 ? Math.fround(-sy / level) : 0;
  let c = first < end ? -Infinity : nodes[o + 5]!;
  for (let p = 9 * first; p < 9 * end; p += 3) {
    const over = triangles[p + 2]! - a * triangles[p]! - b * triangles[p + 1]!;
    if (over > c) c = over;
  }
  const secant = Math.sqrt(1 + a * a + b * b);
  nodes[o + 6] = a;
  nodes[o + 7] = b;
  nodes[o + 8] = roundUp(c);
  nodes[o + 9] = roundUp(secant - 1);
  nodes[o + 10] = roundUp(Math.sqrt(a * a + b * b));
  nodes[o + 11] = 1 / secant;
}

/**
 * Triangles in the order of their centres along a Hilbert curve; behind all others those that look down, since in a
 * well-oriented solid they are never touched from above, and those so long that they would spoil the boxes of their neighbours.
 */
function sweepOrder(mesh: TriangleMesh, box: Box): Uint32Array {
  const { positions, indices } = mesh;
  const count = indices.length / 3;
  const extent = Math.max(box.maxX - box.minX, box.maxY - box.minY, 1e-9);
  const scale = (HILBERT_SIDE - 1) / extent;
  const long = LONG_SHARE * extent;
  const keys = new Uint32Array(count);
  for (let t = 0; t < count; t++) {
    const a = 3 * indices[3 * t]!;
    const b = 3 * indices[3 * t + 1]!;
    const c = 3 * indices[3 * t + 2]!;
    const [ax, bx, cx] = [positions[a]!, positions[b]!, positions[c]!];
    const [ay, by, cy] = [positions[a + 1]!, positions[b + 1]!, positions[c + 1]!];
    const isDown = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay) < 0;
    const isLong = Math.max(ax, bx, cx) - Math.min(ax, bx, cx) + Math.max(ay, by, cy) - Math.min(ay, by, cy) > long;
    const place = hilbert((((ax + bx + cx) / 3 - box.minX) * scale) | 0, (((ay + by + cy) / 3 - box.minY) * scale) | 0);
    keys[t] = (isDown || isLong ? HILBERT_SIDE * HILBERT_SIDE : 0) + place;
  }
  return sortedByKey(keys);
}

/** Side of the Hilbert curve's square: order 15, so that a key with its class takes 31 bits. */
const HILBERT_SIDE = 32768;

/** Numbers of the keys in ascending order of key, equal ones in their order: radix sort. */
function sortedByKey(keys: Uint32Array): Uint32Array {
  let from = new Uint32Array(keys.length);
  for (let i = 0; i < from.length; i++) from[i] = i;
  let to = new Uint32Array(keys.length);
  for (let shift = 0; shift < 32; shift += 11) {
    const starts = new Uint32Array(2049);
    for (let i = 0; i < keys.length; i++) {
      const digit = ((keys[i]! >>> shift) & 2047) + 1;
      starts[digit] = starts[digit]! + 1;
    }
    for (let d = 0; d < 2048; d++) starts[d + 1] = starts[d + 1]! + starts[d]!;
    for (let k = 0; k < from.length; k++) {
      const i = from[k]!;
      const digit = (keys[i]! >>> shift) & 2047;
      const at = starts[digit]!;
      to[at] = i;
      starts[digit] = at + 1;
    }
    [from, to] = [to, from];
  }
  return from;
}

/** Place of (x, y), each 0 to HILBERT_SIDE - 1, along the Hilbert curve. */
function hilbert(x: number, y: number): number {
  let d = 0;
  for (let s = HILBERT_SIDE >> 1; s > 0; s >>= 1) {
    const rx = (x & s) > 0 ? 1 : 0;
    const ry = (y & s) > 0 ? 1 : 0;
    d += s * s * ((3 * rx) ^ ry);
    if (ry === 0) {
      if (rx === 1) {
        x = HILBERT_SIDE - 1 - x;
        y = HILBERT_SIDE - 1 - y;
      }
      const k = x;
      x = y;
      y = k;
    }
  }
  return d;
}
