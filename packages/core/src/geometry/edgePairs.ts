/** What {@link edgePairs} says of an edge of a triangle when it has no single partner. */
export const ALONE = -1;
export const MANY = -2;
export const SECOND = -3;

/**
 * Which triangles share each edge. Edge 3 t + e runs from corner e of triangle t to the next one.
 *
 * @param indices three vertices a triangle, each below `vertices`
 * @returns for each edge, at its first triangle: the number of the same edge in its second triangle, {@link ALONE} when
 *   there is none, {@link MANY} when there are more; at every further triangle {@link SECOND}
 */
export function edgePairs(indices: Uint32Array, vertices: number): Int32Array {
  const count = indices.length;
  const pair = new Int32Array(count).fill(ALONE);
  // edges chained by their lower vertex: neighbours in the file are neighbours in memory
  const heads = new Int32Array(vertices).fill(-1);
  const next = new Int32Array(count);
  const highEnd = new Uint32Array(count);
  for (let h = 0; h < count; h++) {
    const p = indices[h]!;
    const q = indices[h % 3 === 2 ? h - 2 : h + 1]!;
    const low = p < q ? p : q;
    const high = p < q ? q : p;
    let known = heads[low]!;
    while (known >= 0 && highEnd[known] !== high) known = next[known]!;
    if (known >= 0) {
      pair[known] = pair[known] === ALONE ? h : MANY;
      pair[h] = SECOND;
      continue;
    }
    highEnd[h] = high;
    next[h] = heads[low]!;
    heads[low] = h;
  }
  return pair;
}
