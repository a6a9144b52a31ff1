import { compiled, FREE, instanceOf, PAGE, type WasmMemory, wasmMemory } from '../base/wasm';
import type { PlanCells } from './planCells';
import { SKY_CODE } from './skyCode';

/** What `kernels/sky.ts` offers; places in the memory are bytes from its beginning. */
interface Kernel {
  shares(
    heights: number,
    across: number,
    columns: number,
    rows: number,
    places: number,
    directions: number,
    perDirection: number,
    shares: number,
  ): void;
}

/** Directions in which the horizon is looked for, evenly round. */
export const SKY_DIRECTIONS = 16;
/** Places looked at in each of them: each farther than the one before by the same factor. */
export const SKY_PLACES = 14;
/** How far the horizon is looked for, mm: what stands farther off darkens a place no more. */
export const SKY_REACH_MM = 25;
/** Cells along the side of a square that is worked out anew when something in its reach has changed. */
const SQUARE = 32;
/** Beside the grid lies nothing that hides the sky. */
const NOTHING = -1e9;

/** Where the horizon is looked for: offset in cells, and distance in mm. */
export interface SkyPlace {
  readonly dx: number;
  readonly dy: number;
  readonly distance: number;
}

/** The places around a cell, direction after direction; the nearest is a cell away. */
export function skyPlaces(cell: number): SkyPlace[] {
  const places: SkyPlace[] = [];
  const growth = Math.max(1, SKY_REACH_MM / cell) ** (1 / (SKY_PLACES - 1));
  for (let d = 0; d < SKY_DIRECTIONS; d++) {
    const angle = (2 * Math.PI * d) / SKY_DIRECTIONS;
    for (let k = 0; k < SKY_PLACES; k++) {
      const far = growth ** k;
      const dx = Math.round(far * Math.cos(angle));
      const dy = Math.round(far * Math.sin(angle));
      places.push({ dx, dy, distance: cell * Math.hypot(dx, dy) });
    }
  }
  return places;
}

/**
 * Share of the sky that each cell of a height map sees, 0 to 1: the mean over all directions of cos² of the horizon's height,
 * which is what a surface facing up gets of the light of an even sky (Lambert). Of later states of the same grid only what lies
 * within reach of a change is worked out again, with the same result.
 */
export class SkyShares {
  private readonly memory: WasmMemory = wasmMemory(FREE);
  private readonly kernel: Kernel = instanceOf(compiled(SKY_CODE), this.memory);
  private readonly border: number;
  private readonly across: number;
  private readonly down: number;
  private readonly places: number;
  private readonly heightsAt: number;
  private readonly sharesAt: number;
  private isFirst = true;
  /** Cells worked out in the last call. */
  worked = 0;

  constructor(readonly grid: PlanCells) {
    const { nx, ny, cell } = grid;
    const around = skyPlaces(cell);
    this.border = Math.max(...around.map((p) => Math.max(Math.abs(p.dx), Math.abs(p.dy)))) + 4;
    this.across = nx + 2 * this.border;
    this.down = ny + 2 * this.border;
    this.places = FREE;
    this.heightsAt = FREE + 16 * Math.ceil((8 * around.length) / 16);
    this.sharesAt = this.heightsAt + 16 * Math.ceil((4 * this.across * this.down) / 16);
    const lacking = this.sharesAt + 4 * this.across * this.down + 64 - this.memory.buffer.byteLength;
    if (lacking > 0) this.memory.grow(Math.ceil(lacking / PAGE));
    const offsets = new Int32Array(this.memory.buffer, this.places, 2 * around.length);
    const inverses = new Float32Array(this.memory.buffer, this.places, 2 * around.length);
    around.forEach(({ dx, dy, distance }, k) => {
      offsets[2 * k] = 4 * (dy * this.across + dx);
      inverses[2 * k + 1] = 1 / distance;
    });
    this.heights().fill(NOTHING);
  }

  /**
   * @param heights of the grid, row after row
   * @param shares receives the shares, row after row, as bytes: 255 is all of the sky
   */
  update(heights: Float32Array, shares: Uint8Array): void {
    const { nx, ny } = this.grid;
    const { border, across } = this;
    const own = this.heights();
    const wide = Math.ceil(nx / SQUARE);
    const high = Math.ceil(ny / SQUARE);
    const changed = new Uint8Array(wide * high);
    for (let j = 0; j < ny; j++) {
      const row = (j + border) * across + border;
      const squares = Math.floor(j / SQUARE) * wide;
      for (let i = 0; i < nx; i++) {
        const h = heights[j * nx + i]!;
        if (own[row + i] === h) continue;
        own[row + i] = h;
        changed[squares + ((i / SQUARE) | 0)] = 1;
      }
    }
    const reach = Math.ceil(border / SQUARE);
    this.worked = 0;
    for (let v = 0; v < high; v++)
      for (let u = 0; u < wide; u++)
        if (this.isFirst || isNear(changed, wide, high, u, v, reach)) this.work(u * SQUARE, v * SQUARE);
    this.isFirst = false;
    const all = new Float32Array(this.memory.buffer, this.sharesAt, across * this.down);
    for (let j = 0; j < ny; j++) {
      const row = (j + border) * across + border;
      for (let i = 0; i < nx; i++) shares[j * nx + i] = 255 * all[row + i]! + 0.5;
    }
  }

  private heights(): Float32Array {
    return new Float32Array(this.memory.buffer, this.heightsAt, this.across * this.down);
  }

  private work(i: number, j: number): void {
    const { across, border } = this;
    const columns = Math.min(SQUARE, this.grid.nx - i);
    const rows = Math.min(SQUARE, this.grid.ny - j);
    const first = 4 * ((j + border) * across + i + border);
    this.worked += columns * rows;
    this.kernel.shares(
      this.heightsAt + first,
      across,
      columns,
      rows,
      this.places,
      SKY_DIRECTIONS,
      SKY_PLACES,
      this.sharesAt + first,
    );
  }
}

/** Whether a changed square lies within so many squares of one. */
function isNear(changed: Uint8Array, wide: number, high: number, u: number, v: number, reach: number): boolean {
  for (let b = Math.max(0, v - reach); b <= Math.min(high - 1, v + reach); b++)
    for (let a = Math.max(0, u - reach); a <= Math.min(wide - 1, u + reach); a++)
      if (changed[b * wide + a]) return true;
  return false;
}
