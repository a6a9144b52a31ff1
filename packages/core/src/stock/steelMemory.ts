import type { Profile } from '../cutter/profile';
import { EsquisseError } from '../errors';
import { FREE, PAGE, type WasmMemory, wasmMemory } from '../geometry/wasm';
import type { HeightMap } from './heightMap';

/** Cells along the side of a tile. */
export const TILE = 8;
/** Bytes behind the last row that four cells read at once may touch. */
const MARGIN = 64;
/** Sweeps over one memory, and the bytes that each has for itself beside its flags. */
const MOST_SWEEPS = 2;
export const OWN_BYTES = 1024;

/** Bytes of a piece of a stack, and the most pieces that a band's stacks have together. */
const PIECE_BYTES = 40;
const MOST_PIECES = 256;

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
  private readonly stacksAt: number;
  private readonly stacks = new Map<Profile, number>();
  private pieces = 0;
  private free: number;
  private sweeps = 0;

  /**
   * @param source where the steel is taken from
   * @param rowStart first row of the band, a multiple of TILE
   * @param rowEnd row behind the last one
   */
  constructor(
    private readonly source: HeightMap,
    readonly rowStart: number,
    readonly rowEnd: number,
  ) {
    const { nx, heights } = source;
    this.tilesX = Math.ceil(nx / TILE);
    this.firstTileRow = Math.floor(rowStart / TILE);
    const tiles = this.tilesX * Math.max(0, Math.ceil(rowEnd / TILE) - this.firstTileRow);
    // rows lie where they lie in the map, so that both are counted alike; what is before the band is never touched
    this.topsAt = roundedUp(this.heightsAt + 4 * nx * rowEnd + MARGIN);
    this.stalesAt = this.topsAt + roundedUp(4 * tiles);
    this.stacksAt = this.stalesAt + roundedUp(tiles);
    this.free = this.stacksAt + PIECE_BYTES * MOST_PIECES;
    this.memory = memoryOf(this.free + MOST_SWEEPS * (OWN_BYTES + roundedUp(tiles)));
    const { buffer } = this.memory;
    this.tops = new Float32Array(buffer, this.topsAt, tiles);
    this.stales = new Uint8Array(buffer, this.stalesAt, tiles);
    this.map = { ...source, heights: new Float32Array(buffer, this.heightsAt, nx * rowEnd) };
    this.map.heights.set(heights.subarray(rowStart * nx, rowEnd * nx), rowStart * nx);
  }

  /** Room of a sweep's own: where its numbers lie, and its flags, one a tile. */
  take(): { own: number; numbers: Float64Array; changedAt: number; changed: Uint8Array } {
    if (this.sweeps++ === MOST_SWEEPS) throw new Error(`No more than ${MOST_SWEEPS} sweeps lower one band.`);
    const own = this.free;
    const changedAt = own + OWN_BYTES;
    this.free = changedAt + roundedUp(this.stales.length);
    const { buffer } = this.memory;
    new Uint8Array(buffer, own, this.free - own).fill(0);
    const changed = new Uint8Array(buffer, changedAt, this.stales.length);
    return { own, numbers: new Float64Array(buffer, own, 3), changedAt, changed };
  }

  /** Where in the memory a stack of pieces lies. */
  stackAt(profile: Profile): number {
    const known = this.stacks.get(profile);
    if (known !== undefined) return known;
    const at = this.stacksAt + PIECE_BYTES * this.pieces;
    this.pieces += profile.length;
    if (this.pieces > MOST_PIECES) throw new Error(`The stacks beside one band have ${MOST_PIECES} pieces at most.`);
    const numbers = profile.flatMap((p) =>
      p.kind === 'cone' ? [p.z, p.flat, p.radius, p.slope, 1] : [p.z, p.flat, p.radius, p.corner, 0],
    );
    new Float64Array(this.memory.buffer, at, numbers.length).set(numbers);
    this.stacks.set(profile, at);
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
