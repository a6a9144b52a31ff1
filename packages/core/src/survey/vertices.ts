import { endsOf, type Surface } from './surface';

/** The vertices beside each vertex, one after another: `around[starts[v]]` to `around[starts[v + 1] - 1]`. */
export interface Neighbours {
  starts: Uint32Array;
  around: Uint32Array;
}

export function neighboursOf({ mesh, count }: Surface): Neighbours {
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

/** Normals at vertices: the facets around, each weighted by its angle there. Not of use on sharp edges. */
export function vertexNormals({ mesh, count, normals }: Surface): Float64Array {
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
