import { type ProfilePiece, riseOf } from '../tool/profile';
import type { HeightMap } from './heightMap';
import { SteelMemory, TILE } from './steelMemory';
import { stockKernel, type StockKernel } from './stockKernel';

export { TILE };

/** A cell lowered by less than this was cut before, mm: rounding of single precision heights. */
const FRESH_MM = 1e-3;
const MOST_STALE = 255;
/** Where in a sweep's numbers its sums stand. */
const REMOVED = 0;
const CELLS = 1;

/**
 * Lowers a band of rows of a height map by straight moves of a round-cornered end mill or a point: each cell goes down to the exact
 * lower envelope of the sweep. For a cell at (u along, v across) the touching place along the move is where the cutter's
 * slope equals the move's: closed form for flat, ball and cone, a table over v for the bull-nose.
 *
 * The steel is worked on in a memory of its own: `map` shows it as it stands, `store` writes it back.
 */
export class Sweep {
  /** The steel as it stands, in the band's rows. */
  readonly map: HeightMap;
  readonly kernel: StockKernel;
  /** A flag a tile, set when a cell of it is lowered. */
  private readonly changed: Uint8Array;
  /** Sums that the kernel keeps. */
  readonly numbers: Float64Array;

  /**
   * @param map steel to lower
   * @param rowStart first row of the band, a multiple of TILE
   * @param rowEnd row behind the last one
   * @param flutes length of the flutes, mm: steel that stands higher above the tip where they come to it is not cut
   * @param steel a memory that holds the band already
   */
  constructor(
    map: HeightMap,
    piece: ProfilePiece,
    rowStart = 0,
    rowEnd = map.ny,
    flutes = Infinity,
    readonly steel = new SteelMemory(map, rowStart, rowEnd),
  ) {
    const { nx, x0, y0, cell, floor } = map;
    const { own, numbers, changedAt, changed } = steel.take();
    this.map = steel.map;
    this.numbers = numbers;
    this.changed = changed;
    this.kernel = stockKernel(steel.memory);
    const at = [own, steel.heightsAt, steel.topsAt, steel.stalesAt, changedAt] as const;
    const { flat, radius } = piece;
    const slant = piece.kind === 'cone' ? piece.slope : 0;
    const frame = [nx, steel.rowStart, steel.rowEnd, x0, y0, cell, floor] as const;
    this.kernel.place(...at, ...frame, flat, riseOf(piece), radius, slant, flutes);
    this.kernel.refreshAll();
  }

  /** A sweep of another cutter over the same steel. */
  beside(piece: ProfilePiece): Sweep {
    const { steel } = this;
    return new Sweep(steel.map, piece, steel.rowStart, steel.rowEnd, Infinity, steel);
  }

  /** Writes the steel back to the map that it was taken from. */
  store(): void {
    this.steel.store();
  }

  /** Writes the steel back and ends the work: neither this sweep nor those beside it are to be used any more. */
  finish(): void {
    this.steel.store();
    this.steel.release();
  }

  /** Volume taken off since it was last set to 0, mm³. */
  get removed(): number {
    return this.numbers[REMOVED]!;
  }

  set removed(volume: number) {
    this.numbers[REMOVED] = volume;
  }

  /** Cells lowered by more than rounding since it was last set to 0. */
  get cells(): number {
    return this.numbers[CELLS]!;
  }

  set cells(count: number) {
    this.numbers[CELLS] = count;
  }

  /**
   * Cuts along a straight move of the tip, mm.
   *
   * @param goesOnNext the next call is a move that begins where this one ends: cells that are touched at this move's very
   *   end are left to it, since most of them it cuts deeper; until then they are as they were
   * @throws Error when the move before left its end and this one does not begin there
   */
  move(ax: number, ay: number, az: number, bx: number, by: number, bz: number, goesOnNext = false): void {
    if (this.kernel.move(ax, ay, az, bx, by, bz, goesOnNext ? 1 : 0)) refuseOwed();
  }

  /** Whether a gentle move along u is followed by one along v in about the same direction, which cuts what it leaves at its end. */
  runsOn(ux: number, uy: number, uz: number, vx: number, vy: number, vz: number): boolean {
    return this.kernel.runsOn(ux, uy, uz, vx, vy, vz) !== 0;
  }

  /** Volume (mm³) that a move would take off, without taking it off. */
  measure(ax: number, ay: number, az: number, bx: number, by: number, bz: number): number {
    return this.kernel.measure(ax, ay, az, bx, by, bz);
  }

  /**
   * Lowers the cells of a rectangle in plan to an envelope that is nowhere below `low`, the lowest place of the tip, mm.
   *
   * @param envelope lowest height (mm) of the swept cutter over a place, Infinity where it does not come
   */
  lower(x0: number, y0: number, x1: number, y1: number, low: number, envelope: (x: number, y: number) => number): void {
    const { cell, nx, heights, floor } = this.map;
    const { tilesX, firstTileRow, rowStart, rowEnd, stales } = this.steel;
    if (this.kernel.isOwed()) refuseOwed();
    this.kernel.breakOff();
    const i0 = Math.max(0, Math.floor((x0 - this.map.x0) / cell));
    const i1 = Math.min(nx - 1, Math.floor((x1 - this.map.x0) / cell));
    const j0 = Math.max(rowStart, Math.floor((y0 - this.map.y0) / cell));
    const j1 = Math.min(rowEnd - 1, Math.floor((y1 - this.map.y0) / cell));
    for (let j = j0; j <= j1; j++) {
      const y = this.map.y0 + (j + 0.5) * cell;
      for (let i = i0; i <= i1; i++) {
        const h = heights[j * nx + i]!;
        if (h <= low || h <= floor) continue;
        const z = Math.max(floor, envelope(this.map.x0 + (i + 0.5) * cell, y));
        if (z >= h) continue;
        heights[j * nx + i] = z;
        this.removed += (h - z) * cell * cell;
        if (h - z > FRESH_MM) this.cells++;
        const t = (((j / TILE) | 0) - firstTileRow) * tilesX + ((i / TILE) | 0);
        stales[t] = Math.min(MOST_STALE, stales[t]! + 1);
        this.changed[t] = 1;
      }
    }
  }

  /** Upper bound of the steel in tile (column, row), refreshed when it may be stale. */
  tileTop(column: number, row: number): number {
    const { tops, stales, tilesX, firstTileRow } = this.steel;
    const t = (row - firstTileRow) * tilesX + column;
    if (stales[t]! > 0) this.kernel.refresh(t);
    return tops[t]!;
  }

  /** Upper bound of the steel in a tile, as it stands. */
  tileBound(column: number, row: number): number {
    const { tops, tilesX, firstTileRow } = this.steel;
    return tops[(row - firstTileRow) * tilesX + column]!;
  }
}

/** @throws Error always: a move that began elsewhere would leave cells as they were */
export function refuseOwed(): never {
  throw new Error('A move left its end to the next one, which does not begin there.');
}
