const FAR = 1e20;
/** More cells than any grid has along a side. */
const NEVER = 1 << 24;
/** Cells along the side of a block: where no block near by holds a mark nothing is worked out. */
const BLOCK = 16;

/**
 * Squared distance, in cells, from each cell of a grid to the nearest marked one; huge when none is marked. Exact: along the
 * columns by counting, then along the rows by lower envelopes of parabolas (Felzenszwalb & Huttenlocher, Distance Transforms
 * of Sampled Functions, 2012, from memory).
 *
 * @param marked 1 for each marked cell, else 0
 * @param farthest distances beyond this, in cells, may be told as huge
 */
export function squaredDistances(marked: Uint8Array, nx: number, ny: number, farthest = NEVER): Float32Array {
  const out = new Float32Array(nx * ny).fill(FAR);
  const across = Math.ceil(nx / BLOCK);
  const down = Math.ceil(ny / BLOCK);
  const near = blocksNear(marked, nx, across, down, Math.min(Math.max(across, down), Math.ceil(farthest / BLOCK)));
  const away = new Int32Array(BLOCK);
  for (let c = 0; c < across; c++)
    runs(
      down,
      (r) => near[r * across + c]! > 0,
      (from, to) =>
        countAlongColumns(
          marked,
          nx,
          c * BLOCK,
          Math.min(nx, (c + 1) * BLOCK),
          from * BLOCK,
          Math.min(ny, to * BLOCK),
          farthest,
          away,
          out,
        ),
    );
  const envelope = new Envelope(nx);
  for (let r = 0; r < down; r++)
    runs(
      across,
      (c) => near[r * across + c]! > 0,
      (from, to) => {
        const width = Math.min(nx, to * BLOCK) - from * BLOCK;
        for (let j = r * BLOCK; j < Math.min(ny, (r + 1) * BLOCK); j++)
          envelope.lower(out, j * nx + from * BLOCK, width);
      },
    );
  return out;
}

/** A flag for each block: set when one at most `by` blocks away, across or down, holds a mark. */
function blocksNear(marked: Uint8Array, nx: number, across: number, down: number, by: number): Uint8Array {
  const own = new Uint8Array(across * down);
  for (let o = marked.indexOf(1); o >= 0; o = marked.indexOf(1, o)) {
    const j = Math.floor(o / nx);
    const c = Math.floor((o - j * nx) / BLOCK);
    own[Math.floor(j / BLOCK) * across + c] = 1;
    // on behind the block
    o = j * nx + Math.min(nx, (c + 1) * BLOCK);
  }
  const wide = new Uint8Array(own.length);
  const near = new Uint8Array(own.length);
  for (let b = 0; b < own.length; b++)
    if (own[b])
      for (
        let n = Math.max(b - (b % across), b - by), end = Math.min(b - (b % across) + across - 1, b + by);
        n <= end;
        n++
      )
        wide[n] = 1;
  for (let r = 0; r < down; r++)
    for (let n = Math.max(0, r - by); n <= Math.min(down - 1, r + by); n++)
      for (let c = 0; c < across; c++) if (wide[n * across + c]) near[r * across + c] = 1;
  return near;
}

/** Calls `found` with the first of each run of numbers below n that are wanted, and the one behind its last. */
function runs(n: number, isWanted: (k: number) => boolean, found: (from: number, to: number) => void): void {
  for (let k = 0; k < n; k++) {
    if (!isWanted(k)) continue;
    const from = k;
    while (k < n && isWanted(k)) k++;
    found(from, k);
  }
}

/** Squared distance to the nearest marked cell of the same column, row by row down and up again; huge beyond `farthest`. */
function countAlongColumns(
  marked: Uint8Array,
  nx: number,
  i0: number,
  i1: number,
  j0: number,
  j1: number,
  farthest: number,
  away: Int32Array,
  out: Float32Array,
): void {
  away.fill(NEVER);
  for (let j = j0; j < j1; j++)
    for (let i = i0, o = j * nx + i0; i < i1; i++, o++) {
      const d = marked[o] ? 0 : away[i - i0]! + 1;
      away[i - i0] = d;
      if (d <= farthest) out[o] = d * d;
    }
  away.fill(NEVER);
  for (let j = j1 - 1; j >= j0; j--)
    for (let i = i0, o = j * nx + i0; i < i1; i++, o++) {
      const d = marked[o] ? 0 : away[i - i0]! + 1;
      away[i - i0] = d;
      if (d <= farthest && d * d < out[o]!) out[o] = d * d;
    }
}

/** Takes lower envelopes of parabolas, one above each cell of a row. */
class Envelope {
  private readonly height: Float64Array;
  private readonly apex: Int32Array;
  private readonly border: Float64Array;

  constructor(longest: number) {
    this.height = new Float64Array(longest);
    this.apex = new Int32Array(longest);
    this.border = new Float64Array(longest);
  }

  /** Lowers n values from `at` on to the envelope of the parabolas that stand on them: none reaches across a 0. */
  lower(values: Float32Array, at: number, n: number): void {
    for (let from = 0; from < n; from++) {
      if (values[at + from] === 0) continue;
      let to = from;
      while (to < n && values[at + to] !== 0) to++;
      const first = Math.max(0, from - 1);
      this.stretch(values, at + first, Math.min(n, to + 1) - first);
      from = to;
    }
  }

  private stretch(values: Float32Array, at: number, n: number): void {
    const { height, apex, border } = this;
    let k = -1;
    for (let q = 0; q < n; q++) {
      const f = values[at + q]!;
      if (f >= FAR) continue;
      let from = -Infinity;
      while (k >= 0) {
        const p = apex[k]!;
        from = (f + q * q - height[k]! - p * p) / (2 * (q - p));
        if (from > border[k]!) break;
        k--;
      }
      k++;
      apex[k] = q;
      height[k] = f;
      border[k] = k === 0 ? -Infinity : from;
    }
    if (k < 0) return;
    for (let q = 0, e = 0; q < n; q++) {
      while (e < k && border[e + 1]! < q) e++;
      const d = q - apex[e]!;
      values[at + q] = d * d + height[e]!;
    }
  }
}
