import { EsquisseError } from '../base/errors';
import { RAISED_CODE } from './raisedCode';
import { compiled, FREE, instanceOf, PAGE, type WasmMemory, wasmMemory } from '../base/wasm';

/** What `kernels/raised.ts` offers; places in the memory are bytes from its beginning. */
interface Kernel {
  highestOf(values: number, count: number): number;
  countAbove(values: number, count: number, least: number): number;
  mark(values: number, columns: number, rows: number, least: number, flags: number, beside: number): void;
  roomFor(columns: number, rows: number): number;
  distances(flags: number, columns: number, rows: number, farthest: number, to: number, room: number): void;
}

/** This thread's kernel, and the heights that lie in its memory. */
let memory: WasmMemory | undefined;
let kernel: Kernel;
let laid: Float32Array | undefined;

/**
 * Cells of a grid of heights that stand above one height or another, and distances to them on a grid that is wider by some cells
 * on all sides.
 */
export class RaisedCells {
  readonly across: number;
  readonly down: number;
  /** The greatest height; -Infinity where there is none. */
  readonly highest: number;
  private readonly flags: number;
  private readonly distances: number;
  private readonly room: number;

  /**
   * @param heights row after row, NaN nowhere; they stay as they are while this is asked
   * @param beside cells that the grid of distances has more on each side
   */
  constructor(
    readonly heights: Float32Array,
    private readonly nx: number,
    private readonly ny: number,
    readonly beside: number,
  ) {
    this.across = nx + 2 * beside;
    this.down = ny + 2 * beside;
    this.flags = roundedUp(FREE + 4 * nx * ny);
    this.distances = roundedUp(this.flags + this.across * this.down);
    this.room = roundedUp(this.distances + 4 * this.across * this.down);
    // the same array may hold other heights than when it was laid before
    laid = undefined;
    this.highest = this.laid().highestOf(FREE, nx * ny);
  }

  /** Those with a flag other than 0; the others stand nowhere. */
  among(flags: Uint8Array): RaisedCells {
    const heights = this.heights.map((h, o) => (flags[o] ? h : -Infinity));
    return new RaisedCells(heights, this.nx, this.ny, this.beside);
  }

  /** How many stand above a height. */
  countAbove(z: number): number {
    return this.laid().countAbove(FREE, this.nx * this.ny, z);
  }

  /**
   * Squared distance, in cells, from each cell of the wider grid to the nearest one that stands above a height; huge when none
   * does. Exact: along the columns by counting, then along the rows by lower envelopes of parabolas (Felzenszwalb &
   * Huttenlocher, Distance Transforms of Sampled Functions, 2012, from memory) or, where few cells count, as the least over them.
   *
   * @param farthest distances beyond this, in cells, may be told as huge; a small one is faster
   */
  squaredDistances(z: number, farthest = Math.max(this.across, this.down)): Float32Array {
    const { across, down } = this;
    const by = this.laid();
    by.mark(FREE, this.nx, this.ny, z, this.flags, this.beside);
    by.distances(this.flags, across, down, Math.ceil(farthest), this.distances, this.room);
    return new Float32Array(memory!.buffer, this.distances, across * down).slice();
  }

  /** The kernel, with these heights in its memory. */
  private laid(): Kernel {
    if (!memory) {
      memory = wasmMemory(FREE);
      kernel = instanceOf(compiled(RAISED_CODE), memory);
    }
    const lacking = this.room + kernel.roomFor(this.across, this.down) - memory.buffer.byteLength;
    if (lacking > 0) grow(memory, lacking);
    if (laid !== this.heights) new Float32Array(memory.buffer, FREE, this.heights.length).set(this.heights);
    laid = this.heights;
    return kernel;
  }
}

function grow(memory: WasmMemory, bytes: number): void {
  try {
    memory.grow(Math.ceil(bytes / PAGE));
  } catch {
    throw new EsquisseError('memory', 'The steel needs more memory than there is; choose a larger cell.', 'cell');
  }
}

function roundedUp(bytes: number): number {
  return Math.ceil(bytes / 16) * 16;
}
