import { sharedFloat32, sharedUint32 } from '../geometry/shared';
import type { HeightMap } from './heightMap';
import { TILE } from './sweep';

/** Width of a patch in cells; it is one tile high. */
export const PATCH = 4 * TILE;
/** Patches kept of a band at most, 1 KB each; beyond it every second mark is given up. */
const MOST_PATCHES = 16_000;

/**
 * A band of rows as it was at marks along a run: at each mark the patches that changed since the mark before. The state at a
 * mark is every patch's newest copy up to it, or what was there before the run.
 */
export interface BandHistory {
  rows: readonly [number, number];
  /** Motions before which the marks stand, ascending. */
  marks: Uint32Array;
  /** Entries of mark k: `starts[k]` to `starts[k + 1]`. */
  starts: Uint32Array;
  /** Number of the patch of each entry, along x first. */
  patches: Uint32Array;
  /** Heights of each entry, PATCH x TILE, row after row. */
  heights: Float32Array;
}

/** Writes a band's history while it is machined. */
export class HistoryWriter {
  private marks: number[] = [];
  private entries: { patch: number; heights: Float32Array }[][] = [];
  private count = 0;
  /** Marks are set at every n-th chance; n doubles each time the memory allowed is used up. */
  private every = 1;
  private chances = 0;
  private readonly columns: number;

  constructor(
    private readonly map: HeightMap,
    private readonly rows: readonly [number, number],
    private readonly most = MOST_PATCHES,
  ) {
    this.columns = Math.ceil(map.nx / PATCH);
  }

  /** Keeps what changed since the last mark. `changed` holds a flag a tile of the band and is cleared. */
  mark(motion: number, changed: Uint8Array): void {
    if (this.chances++ % this.every !== 0) return;
    const tilesX = Math.ceil(this.map.nx / TILE);
    const entries: { patch: number; heights: Float32Array }[] = [];
    const tileRows = Math.ceil((this.rows[1] - this.rows[0]) / TILE);
    for (let tj = 0; tj < tileRows; tj++)
      for (let c = 0; c < this.columns; c++) {
        const first = tj * tilesX + c * (PATCH / TILE);
        const end = Math.min((tj + 1) * tilesX, first + PATCH / TILE);
        let any = 0;
        for (let t = first; t < end; t++) {
          any |= changed[t]!;
          changed[t] = 0;
        }
        if (any) entries.push({ patch: tj * this.columns + c, heights: this.copyOf(tj, c) });
      }
    this.marks.push(motion);
    this.entries.push(entries);
    this.count += entries.length;
    if (this.count > this.most) this.thin();
  }

  finish(): BandHistory {
    const starts = sharedUint32(this.marks.length + 1);
    const patches = sharedUint32(this.count);
    const heights = sharedFloat32(this.count * PATCH * TILE);
    let n = 0;
    this.entries.forEach((entries, k) => {
      starts[k] = n;
      for (const entry of entries) {
        patches[n] = entry.patch;
        heights.set(entry.heights, n * PATCH * TILE);
        n++;
      }
    });
    starts[this.marks.length] = n;
    const marks = sharedUint32(this.marks.length);
    marks.set(this.marks);
    return { rows: this.rows, marks, starts, patches, heights };
  }

  private copyOf(tj: number, c: number): Float32Array {
    const { nx, heights } = this.map;
    const out = new Float32Array(PATCH * TILE);
    const first = this.rows[0] + tj * TILE;
    const tall = Math.min(TILE, this.rows[1] - first);
    const wide = Math.min(PATCH, nx - c * PATCH);
    // number by number: a view of a row costs more than its few cells
    for (let r = 0; r < tall; r++) {
      const from = (first + r) * nx + c * PATCH;
      for (let k = 0; k < wide; k++) out[r * PATCH + k] = heights[from + k]!;
    }
    return out;
  }

  /** Gives up every second mark: what it kept goes to the next one, unless that has a newer copy. */
  private thin(): void {
    const marks: number[] = [];
    const kept: { patch: number; heights: Float32Array }[][] = [];
    this.count = 0;
    for (let k = 0; k < this.marks.length; k += 2) {
      const last = Math.min(k + 1, this.marks.length - 1);
      const newest = new Map<number, Float32Array>();
      for (let m = k; m <= last; m++) for (const e of this.entries[m]!) newest.set(e.patch, e.heights);
      marks.push(this.marks[last]!);
      kept.push([...newest].map(([patch, heights]) => ({ patch, heights })));
      this.count += newest.size;
    }
    this.marks = marks;
    this.entries = kept;
    this.every *= 2;
    this.chances = 1;
  }
}

/**
 * Puts a band of a map, which stands as it was before the run, into its state at the last mark that is not behind `motion`.
 *
 * @returns the motion that the run goes on with from there; 0 when no mark comes before
 */
export function restoreBand(map: HeightMap, history: BandHistory, motion: number): number {
  const { marks, starts, patches, heights, rows } = history;
  let k = marks.length - 1;
  while (k >= 0 && marks[k]! > motion) k--;
  if (k < 0) return 0;
  const columns = Math.ceil(map.nx / PATCH);
  const done = new Uint8Array(columns * Math.ceil((rows[1] - rows[0]) / TILE));
  // backwards, so that each patch is copied once, from its newest entry
  for (let n = starts[k + 1]! - 1; n >= 0; n--) {
    const patch = patches[n]!;
    if (done[patch]) continue;
    done[patch] = 1;
    const c = patch % columns;
    const j0 = rows[0] + Math.floor(patch / columns) * TILE;
    const width = Math.min(map.nx - c * PATCH, PATCH);
    for (let r = 0; r < TILE && j0 + r < rows[1]; r++) {
      const from = n * PATCH * TILE + r * PATCH;
      map.heights.set(heights.subarray(from, from + width), (j0 + r) * map.nx + c * PATCH);
    }
  }
  return marks[k]!;
}
