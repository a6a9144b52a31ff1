import { facetsOfMesh, type TriangleMesh } from '@esquisse/core';

/** Facets that turn by more than this at a corner are drawn with an edge between them: cosine of 25 degrees. */
const SMOOTH_COS = Math.cos((25 * Math.PI) / 180);

/** Folds sharper than this are drawn as lines: cosine of 28 degrees. */
const FOLD_COS = Math.cos((28 * Math.PI) / 180);

/** A part ready to be drawn: three corners a triangle with their normals, nine numbers each, in the part's own frame. */
export interface PartDrawing {
  positions: Float32Array;
  normals: Float32Array;
  /** Ends of the folds that are drawn as lines, six numbers each. */
  folds: Float32Array;
}

/** Smooths normals over faces and splits corners at edges. Made in a worker, since a large part takes a while. */
export function partDrawing(mesh: TriangleMesh): PartDrawing {
  const { positions: p, indices } = mesh;
  const corners = indices.length;
  const facet = facetsOfMesh(mesh).normals;
  // the corners around each vertex, one after another
  const starts = new Uint32Array(p.length / 3 + 1);
  for (let c = 0; c < corners; c++) starts[indices[c]! + 1]!++;
  for (let v = 1; v < starts.length; v++) starts[v]! += starts[v - 1]!;
  const around = new Uint32Array(corners);
  const next = starts.slice();
  for (let c = 0; c < corners; c++) around[next[indices[c]!]!++] = (c / 3) | 0;
  const positions = shared(corners * 3);
  const normals = shared(corners * 3);
  for (let c = 0; c < corners; c++) {
    const v = indices[c]!;
    const own = 3 * ((c / 3) | 0);
    let x = 0;
    let y = 0;
    let z = 0;
    for (let k = starts[v]!; k < starts[v + 1]!; k++) {
      const other = 3 * around[k]!;
      const cos =
        facet[own]! * facet[other]! + facet[own + 1]! * facet[other + 1]! + facet[own + 2]! * facet[other + 2]!;
      if (cos < SMOOTH_COS) continue;
      x += facet[other]!;
      y += facet[other + 1]!;
      z += facet[other + 2]!;
    }
    const length = Math.sqrt(x * x + y * y + z * z) || 1;
    normals[3 * c] = x / length;
    normals[3 * c + 1] = y / length;
    normals[3 * c + 2] = z / length;
    positions[3 * c] = p[3 * v]!;
    positions[3 * c + 1] = p[3 * v + 1]!;
    positions[3 * c + 2] = p[3 * v + 2]!;
  }
  return { positions, normals, folds: foldsOf(mesh, facet) };
}

/** Edges where two facets meet at more than {@link FOLD_COS}, or that belong to one facet alone. */
function foldsOf({ positions: p, indices }: TriangleMesh, normals: Float64Array | Float32Array): Float32Array {
  const vertices = p.length / 3;
  const facets = new Map<number, number>();
  const ends: number[] = [];
  const put = (edge: number): void => {
    ends.push(Math.floor(edge / vertices), edge % vertices);
  };
  for (let c = 0; c < indices.length; c++) {
    const t = Math.floor(c / 3);
    const a = indices[c]!;
    const b = indices[c % 3 === 2 ? c - 2 : c + 1]!;
    const edge = Math.min(a, b) * vertices + Math.max(a, b);
    const other = facets.get(edge);
    if (other === undefined) {
      facets.set(edge, t);
      continue;
    }
    facets.delete(edge);
    let cos = 0;
    for (let k = 0; k < 3; k++) cos += normals[3 * t + k]! * normals[3 * other + k]!;
    if (cos < FOLD_COS) put(edge);
  }
  for (const edge of facets.keys()) put(edge);
  const folds = shared(3 * ends.length);
  ends.forEach((v, k) => {
    for (let c = 0; c < 3; c++) folds[3 * k + c] = p[3 * v + c]!;
  });
  return folds;
}

function shared(length: number): Float32Array {
  return new Float32Array(new SharedArrayBuffer(4 * length)) as unknown as Float32Array;
}
