/** The edges of a net of triangles. */
export interface NetEdges {
  /** Both vertices of each edge, the lower number first. */
  readonly ends: Uint32Array;
  /** The edges of each triangle: between its first and second vertex, second and third, third and first. */
  readonly ofTriangle: Uint32Array;
  /** How many triangles lie at each edge. */
  readonly uses: Uint8Array;
}

/** @param count of vertices */
export function netEdges(count: number, triangles: Uint32Array): NetEdges {
  // edges by their lower vertex, each list as long as there can be different ones
  const first = new Uint32Array(count + 1);
  for (let o = 0; o < triangles.length; o++) first[Math.min(triangles[o]!, triangles[nextCorner(o)]!) + 1]!++;
  for (let v = 0; v < count; v++) first[v + 1]! += first[v]!;
  const others = new Uint32Array(triangles.length);
  const slots = new Uint32Array(triangles.length);
  const filled = new Uint32Array(count);
  const at = new Uint32Array(triangles.length);
  for (let o = 0; o < triangles.length; o++) {
    const p = triangles[o]!;
    const q = triangles[nextCorner(o)]!;
    const low = p < q ? p : q;
    const high = p < q ? q : p;
    let k = first[low]!;
    const end = k + filled[low]!;
    while (k < end && others[k] !== high) k++;
    if (k === end) {
      others[k] = high;
      filled[low]!++;
    }
    at[o] = k;
  }
  let edges = 0;
  for (let v = 0; v < count; v++) for (let k = first[v]!; k < first[v]! + filled[v]!; k++) slots[k] = edges++;
  const ends = new Uint32Array(2 * edges);
  for (let v = 0, e = 0; v < count; v++)
    for (let k = first[v]!; k < first[v]! + filled[v]!; k++) {
      ends[e++] = v;
      ends[e++] = others[k]!;
    }
  const uses = new Uint8Array(edges);
  const ofTriangle = new Uint32Array(triangles.length);
  for (let o = 0; o < triangles.length; o++) {
    ofTriangle[o] = slots[at[o]!]!;
    uses[ofTriangle[o]!]!++;
  }
  return { ends, ofTriangle, uses };
}

/** The corner after `o` in its triangle. */
const nextCorner = (o: number): number => (o % 3 === 2 ? o - 2 : o + 1);
