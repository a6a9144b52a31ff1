import { sharedFloat32, sharedUint32 } from '../base/shared';

/** Triangles in a leaf, and children of a node: the fastest of the combinations tried. */
const LEAF = 1;
const FAN = 8;
/**
 * Numbers a node: minX, minY, maxX, maxY, minZ, maxZ, rounded outward; then its roof, a plane z = a x + b y + c that nothing in
 * the node is above: a, b, c, 1 / nz - 1, |(a, b)|, nz.
 */
const NODE = 12;
/** Levels of the tree above the leaves that have a leaning roof: over wider areas a level one does as well. */
const ROOFED = 3;
/** Roofs lean no more than this (tangent), so that single precision holds them. */
const STEEPEST_ROOF = 10000;
/** Unit normals with a smaller Z count as upright: such a facet is touched at its edges only. */
export const UPRIGHT_NZ = 1e-7;
/** Numbers a child and a block of eight children. */
const FIELDS = 12;
const BLOCK = FAN * FIELDS;
/** Where in a node the fields of a block stand: maxZ, minX, minY, maxX, maxY, the roof, minZ. */
const FIELD_OF_NODE = [5, 0, 1, 2, 3, 6, 7, 8, 9, 10, 11, 4];

/**
 * A packed tree of boxes and roofs over triangles in their order: leaf i covers triangles `LEAF*i ...`, node i of level l+1
 * covers nodes `FAN*i ...` of level l. Both arrays lie in shared memory.
 */
export interface ContactTree {
  /** Of each node above the leaves its children, field after field: highest Z, the box in plan, the roof, lowest Z. */
  blocks: Float32Array;
  /** First node of each level, and the number of nodes behind the last one. */
  levels: Uint32Array;
}

/** Builds the tree over triangles, nine coordinates each, in their order. */
export function treeOf(triangles: Float64Array): ContactTree {
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
  const nodes = new Float32Array(total * NODE);
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
  return { blocks: blocksOf(nodes, levels), levels };
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

/** Boxes and roofs of the children of every node above the leaves, eight at a time; where there are fewer, none is near. */
function blocksOf(nodes: Float32Array, levels: Uint32Array): Float32Array {
  const out = sharedFloat32(BLOCK * (levels.at(-1)! - levels[1]!)).fill(Infinity);
  for (let level = 1; level + 1 < levels.length; level++)
    for (let child = levels[level - 1]!; child < levels[level]!; child++) {
      const k = child - levels[level - 1]!;
      const parent = levels[level]! + Math.floor(k / FAN) - levels[1]!;
      const o = BLOCK * parent + (k % FAN);
      for (let f = 0; f < FIELDS; f++) out[o + FAN * f] = nodes[NODE * child + FIELD_OF_NODE[f]!]!;
    }
  return out;
}
