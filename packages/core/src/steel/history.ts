import { sharedFloat32, sharedUint32 } from '../base/shared';
import type { HeightMap } from './heightMap';
import { type Sweep, TILE } from './sweep';

/** Width of a patch in cells, and all its cells; it is one tile high: as in `kernels/history.ts`. */
const PATCH = 4 * TILE;
const PATCH_CELLS = PATCH * TILE;
/** Patches that are copied at once. */
const AT_ONCE = 128;
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

/** Copies of patches, with their numbers. */
interface Kept {
  patches: Uint32Array;
  heights: Float32Array;
}

/** Writes a band's history while it is machined. */
export class HistoryWriter {
  /** Bytes beside the steel that it needs in the memory of a band. */
  static readonly BYTES = 4 * AT_ONCE * (1 + PATCH_CELLS) + 2 * 16;

  private marks: number[] = [];
  private entries: Kept[][] = [];
  private count = 0;
  /** Marks are set at every n-th chance; n doubles each time the memory allowed is used up. */
  private every = 1;
  private chances = 0;
  private readonly copied: Kept;

  /** @param sweep over a memory with room for {@link BYTES} more */
  constructor(
    private readonly sweep: Sweep,
    private readonly most = MOST_PATCHES,
  ) {
    const { steel } = sweep;
    this.copied = {
      patches: new Uint32Array(steel.memory.buffer, steel.room(4 * AT_ONCE), AT_ONCE),
      heights: new Float32Array(steel.memory.buffer, steel.room(4 * AT_ONCE * PATCH_CELLS), AT_ONCE * PATCH_CELLS),
    };
  }

  /** Keeps what the sweep changed since the last mark. */
  mark(motion: number): void {
    if (this.chances++ % this.every !== 0) return;
    const { patches, heights } = this.copied;
    const kept: Kept[] = [];
    for (let n = AT_ONCE; n === AT_ONCE;) {
      n = this.sweep.kernel.keep(patches.byteOffset, heights.byteOffset, AT_ONCE);
      if (n > 0) kept.push({ patches: patches.slice(0, n), heights: heights.slice(0, n * PATCH_CELLS) });
      this.count += n;
    }
    this.marks.push(motion);
    this.entries.push(kept);
    if (this.count > this.most) this.thin();
  }

  finish(): BandHistory {
    const starts = sharedUint32(this.marks.length + 1);
    const patches = sharedUint32(this.count);
    const heights = sharedFloat32(this.count * PATCH_CELLS);
    let n = 0;
    this.entries.forEach((entries, k) => {
      starts[k] = n;
      for (const kept of entries) {
        patches.set(kept.patches, n);
        heights.set(kept.heights, n * PATCH_CELLS);
        n += kept.patches.length;
      }
    });
    starts[this.marks.length] = n;
    const marks = sharedUint32(this.marks.length);
    marks.set(this.marks);
    const { rowStart, rowEnd } = this.sweep.steel;
    return { rows: [rowStart, rowEnd], marks, starts, patches, heights };
  }

  /** Gives up every second mark: what it kept goes to the next one, unless that has a newer copy. */
  private thin(): void {
    const marks: number[] = [];
    const entries: Kept[][] = [];
    this.count = 0;
    for (let k = 0; k < this.marks.length; k += 2) {
      const last = Math.min(k + 1, this.marks.length - 1);
      const newest = new Map<number, Float32Array>();
      for (const { patches, heights } of this.entries.slice(k, last + 1).flat())
        patches.forEach((patch, n) => newest.set(patch, heights.subarray(n * PATCH_CELLS, (n + 1) * PATCH_CELLS)));
      const heights = new Float32Array(newest.size * PATCH_CELLS);
      [...newest.values()].forEach((copy, n) => heights.set(copy, n * PATCH_CELLS));
      marks.push(this.marks[last]!);
      entries.push([{ patches: Uint32Array.from(newest.keys()), heights }]);
      this.count += newest.size;
    }
    this.marks = marks;
    this.entries = entries;
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
      const from = n * PATCH_CELLS + r * PATCH;
      map.heights.set(heights.subarray(from, from + width), (j0 + r) * map.nx + c * PATCH);
    }
  }
  return marks[k]!;
}
