import { type Box, boxOfPositions } from './box';
import { treeOf, UPRIGHT_NZ } from './contactTree';
import { edgePairs, SECOND } from './edgePairs';
import type { TriangleMesh } from './mesh';
import { sharedFloat64, sharedUint32, sharedUint8 } from '../base/shared';
import { sweepOrder } from './sweepOrder';

/** Numbers a facet. */
export const FACET = 5;
/** A facet whose normal leans less than this is level: its lean is rounding and tells no direction. */
const LEVEL_LEAN = 2e-8;
/** Triangles lower than this over their longest side (mm) have no trustworthy normal: touched at their edges only. */
const SLIVER_MM = 1e-5;
/** A valley's far corner stands at least this above the other facet's plane, mm: below it rounding decides, and the edge is kept. */
const COPLANAR_MM = 1e-9;

/**
 * A mesh made ready for contact queries from above. All arrays lie in shared memory.
 *
 * The triangles stand in the order of {@link sweepOrder}, with a tree of boxes over them ({@link treeOf}).
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
  /** Boxes and roofs of the tree's nodes, as `ContactTree` of `contactTree.ts` tells. */
  blocks: Float32Array;
  /** The same for each triangle's own plane, {@link FACET} numbers: a, b, c, 1 / nz - 1, |(a, b)|; a is NaN when upright. */
  facets: Float64Array;
  /** First node of each level of the tree, and the number of nodes behind the last one. */
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
  const { blocks, levels } = treeOf(triangles);
  return {
    id: Math.random(),
    triangles,
    planes,
    facets: facetsOf(planes),
    edges,
    faceOf,
    blocks,
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
