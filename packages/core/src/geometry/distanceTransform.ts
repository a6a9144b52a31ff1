const FAR = 1e20;

/**
 * Squared distance, in cells, from each cell of a grid to the nearest marked one; huge when none is marked. Exact, in two
 * passes of lower envelopes of parabolas (Felzenszwalb & Huttenlocher, Distance Transforms of Sampled Functions, 2012,
 * from memory).
 */
export function squaredDistances(marked: Uint8Array, nx: number, ny: number): Float32Array {
  const out = new Float32Array(nx * ny);
  const longest = Math.max(nx, ny);
  const line = new Float64Array(longest);
  const result = new Float64Array(longest);
  const apex = new Int32Array(longest);
  const border = new Float64Array(longest + 1);
  for (let i = 0; i < nx; i++) {
    for (let j = 0; j < ny; j++) line[j] = marked[j * nx + i] ? 0 : FAR;
    envelope(line, ny, result, apex, border);
    for (let j = 0; j < ny; j++) out[j * nx + i] = result[j]!;
  }
  for (let j = 0; j < ny; j++) {
    for (let i = 0; i < nx; i++) line[i] = out[j * nx + i]!;
    envelope(line, nx, result, apex, border);
    for (let i = 0; i < nx; i++) out[j * nx + i] = result[i]!;
  }
  return out;
}

function envelope(f: Float64Array, n: number, out: Float64Array, apex: Int32Array, border: Float64Array): void {
  let k = -1;
  for (let q = 0; q < n; q++) {
    if (f[q]! >= FAR) continue;
    let from = -Infinity;
    while (k >= 0) {
      const p = apex[k]!;
      from = (f[q]! + q * q - f[p]! - p * p) / (2 * (q - p));
      if (from > border[k]!) break;
      k--;
    }
    k++;
    apex[k] = q;
    border[k] = k === 0 ? -Infinity : from;
  }
  if (k < 0) {
    out.fill(FAR, 0, n);
    return;
  }
  let at = 0;
  for (let q = 0; q < n; q++) {
    while (at < k && border[at + 1]! < q) at++;
    const d = q - apex[at]!;
    out[q] = d * d + f[apex[at]!]!;
  }
}
