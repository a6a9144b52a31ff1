const FAR = 1e20;
/** More cells than any grid has along a side. */
const NEVER = 1 << 24;

/**
 * Squared distance, in cells, from each cell of a grid to the nearest marked one; huge when none is marked. Exact: along the
 * columns by counting, then along the rows by lower envelopes of parabolas (Felzenszwalb & Huttenlocher, Distance Transforms
 * of Sampled Functions, 2012, from memory).
 *
 * @param farthest distances beyond this, in cells, may be told as huge
 */
export function squaredDistances(marked: Uint8Array, nx: number, ny: number, farthest = NEVER): Float32Array {
  const out = new Float32Array(nx * ny);
  countAlongColumns(marked, nx, ny, Math.min(NEVER, farthest), out);
  const line = new Float64Array(nx);
  const result = new Float64Array(nx);
  const apex = new Int32Array(nx);
  const border = new Float64Array(nx + 1);
  const far2 = farthest * farthest;
  for (let j = 0; j < ny; j++) {
    let any = false;
    for (let i = 0; i < nx; i++) {
      const d2 = out[j * nx + i]!;
      line[i] = d2;
      if (d2 <= far2) any = true;
    }
    if (!any) continue;
    envelope(line, nx, result, apex, border);
    for (let i = 0; i < nx; i++) out[j * nx + i] = result[i]!;
  }
  return out;
}

/** Squared distance to the nearest marked cell of the same column, row by row down and up again; huge beyond `farthest`. */
function countAlongColumns(marked: Uint8Array, nx: number, ny: number, farthest: number, out: Float32Array): void {
  const away = new Int32Array(nx).fill(NEVER);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const o = j * nx + i;
      const d = marked[o] ? 0 : away[i]! + 1;
      away[i] = d;
      out[o] = d <= farthest ? d * d : FAR;
    }
  away.fill(NEVER);
  for (let j = ny - 1; j >= 0; j--)
    for (let i = 0; i < nx; i++) {
      const o = j * nx + i;
      const d = marked[o] ? 0 : away[i]! + 1;
      away[i] = d;
      if (d <= farthest && d * d < out[o]!) out[o] = d * d;
    }
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
