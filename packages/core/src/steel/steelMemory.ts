import { EsquisseError } from '../base/errors';
import { FREE, PAGE, type WasmMemory, wasmMemory } from '../base/wasm';
import type { HeightMap } from './heightMap';

/** Cells along the side of a tile. */
export const TILE = 8;
/** Bytes behind the last row that four cells read at once may touch. */
const MARGIN = 64;
/** Sweeps over one memory, and the bytes that each has for itself beside its flags. */
const MOST_SWEEPS = 2;
const OWN_BYTES = 1024;
/** Numbers at its beginning that a sweep tells by. */
const OWN_NUMBERS = 3;

/** Memories that are done with are used again, this many of them: each takes a large piece of a process's address space. */
const MOST_SPARE = 2;
const spare: WasmMemory[] = [];

/** A band of rows of a height map in the memory of the kernels that lower it, with the highest steel of its tiles. */
export class SteelMemory {
  /** The steel as it stands; its cells outside the band mean nothing. */
  readonly map: HeightMap;
  /** Upper bounds of the steel in each tile, and how many cells were lowered since they were looked up. */
  readonly tops: Float32Array;
  readonly stales: Uint8Array;
  readonly tilesX: number;
  readonly firstTileRow: number;
  readonly memory: WasmMemory;
  readonly heightsAt = FREE;
  readonly topsAt: number;
  readonly stalesAt: number;
  private free: number;
  private readonly end: number;
  private sweeps = 0;

  /**
   * @param source where the steel is taken from
   * @param rowStart first row of the band, a multiple of TILE
   * @param rowEnd row behind the last one
   * @param more bytes beside the steel that {@link room} gives away, each time up to 15 more than it is asked for
   */
  constructor(
    private readonly source: HeightMap,
    readonly rowStart: number,
    readonly rowEnd: number,
    more = 0,
  ) {
    const { nx, heights } = source;
    this.tilesX = Math.ceil(nx / TILE);
    this.firstTileRow = Math.floor(rowStart / TILE);
    const tiles = this.tilesX * Math.max(0, Math.ceil(rowEnd / TILE) - this.firstTileRow);
    // rows lie where they lie in the map, so that both are counted alike; what is before the band is never touched
    this.topsAt = roundedUp(this.heightsAt + 4 * nx * rowEnd + MARGIN);
    this.stalesAt = this.topsAt + roundedUp(4 * tiles);
    this.free = this.stalesAt + roundedUp(tiles);
    this.end = this.free + MOST_SWEEPS * (OWN_BYTES + roundedUp(tiles)) + roundedUp(more);
    this.memory = memoryOf(this.end);
    const { buffer } = this.memory;
    this.tops = new Float32Array(buffer, this.topsAt, tiles);
    this.stales = new Uint8Array(buffer, this.stalesAt, tiles);
    this.map = { ...source, heights: new Float32Array(buffer, this.heightsAt, nx * rowEnd) };
    this.map.heights.set(heights.subarray(rowStart * nx, rowEnd * nx), rowStart * nx);
  }

  /** Room of a sweep's own: where its numbers lie, and its flags, one a tile. */
  take(): { own: number; numbers: Float64Array; changedAt: number; changed: Uint8Array } {
    if (this.sweeps++ === MOST_SWEEPS) throw new Error(`No more than ${MOST_SWEEPS} sweeps lower one band.`);
    const bytes = OWN_BYTES + this.stales.length;
    const own = this.room(bytes);
    const changedAt = own + OWN_BYTES;
    const { buffer } = this.memory;
    new Uint8Array(buffer, own, bytes).fill(0);
    const changed = new Uint8Array(buffer, changedAt, this.stales.length);
    return { own, numbers: new Float64Array(buffer, own, OWN_NUMBERS), changedAt, changed };
  }

  /** Gives away a piece of the memory beside the steel, which may hold something from before; where it begins. */
  room(bytes: number): number {
    const at = this.free;
    this.free = at + roundedUp(bytes);
    if (this.free > this.end) throw new Error('More of the memory is asked for than was said.');
    return at;
  }

  /** Writes the band back to where it was taken from. */
  store(): void {
    const { source, map, rowStart, rowEnd } = this;
    const from = rowStart * map.nx;
    source.heights.set(map.heights.subarray(from, rowEnd * map.nx), from);
  }

  /** Gives the memory back: neither this nor what lies in it is to be used any more. */
  release(): void {
    if (spare.length < MOST_SPARE) spare.push(this.memory);
  }
}

/** A memory of at least so many bytes, which may hold something from before. */
function memoryOf(bytes: number): WasmMemory {
  try {
    const memory = spare.pop();
    if (!memory) return wasmMemory(bytes);
    const lacking = bytes - memory.buffer.byteLength;
    if (lacking > 0) memory.grow(Math.ceil(lacking / PAGE));
    return memory;
  } catch {
    throw new EsquisseError('memory', 'The steel needs more memory than there is; choose a larger cell.', 'cell');
  }
}

function roundedUp(bytes: number): number {
  return Math.ceil(bytes / 16) * 16;
}
