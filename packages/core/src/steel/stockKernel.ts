import { compiled, instanceOf, type WasmMemory } from '../base/wasm';
import { STOCK_CODE } from './stockCode';

/** What `kernels/stock.ts` offers; places in the memory are bytes from its beginning. */
export interface StockKernel {
  place(
    own: number,
    heights: number,
    tops: number,
    stales: number,
    changed: number,
    columns: number,
    firstRow: number,
    endRow: number,
    mapX: number,
    mapY: number,
    cell: number,
    underside: number,
    flat: number,
    corner: number,
    radius: number,
    slant: number,
    flutes: number,
  ): void;
  refreshAll(): void;
  refresh(tile: number): void;
  breakOff(): void;
  isOwed(): number;
  move(ax: number, ay: number, az: number, bx: number, by: number, bz: number, goesOnNext: number): number;
  measure(ax: number, ay: number, az: number, bx: number, by: number, bz: number): number;
  runsOn(ux: number, uy: number, uz: number, vx: number, vy: number, vz: number): number;
  highest(x: number, y: number, radius: number, known: number, enough: number): number;
  watch(blocks: number): void;
  stand(
    shank: number,
    wideShank: number,
    shankPieces: number,
    neck: number,
    neckPieces: number,
    holder: number,
    wideHolder: number,
    holderPieces: number,
    stickOut: number,
    stretch: number,
  ): void;
  age(): void;
  above(stack: number, pieces: number, x: number, y: number, z: number, known: number): number;
  begin(
    x: number,
    y: number,
    z: number,
    kinds: number,
    volumes: number,
    told: number,
    lowY: number,
    highY: number,
    centreCutting: number,
  ): void;
  runThrough(count: number, leads: number): number;
  endLoad(): void;
  tellLoad(records: number, room: number, length: number, strips: number, skim: number): void;
  loadsTold(): number;
  keep(patches: number, copies: number, most: number): number;
}

let code: object | undefined;

/** An instance of the stock's kernel over a memory. */
export function stockKernel(memory: WasmMemory): StockKernel {
  return instanceOf((code ??= compiled(STOCK_CODE)), memory);
}
