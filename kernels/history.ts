/**
 * Copies of what changed in a band of steel, for WebAssembly (AssemblyScript: every type is a machine type). `stock/history.ts`
 * says what it means.
 */
import { changed, firstTileRow, heights, nx, rowEnd, rowStart, TILE, tilesX } from './steel';

/** Tiles along a patch, which is one tile high; its cells along x, and its bytes. */
const TILES: i32 = 4;
const ACROSS: i32 = TILES * TILE;
const BYTES: usize = 4 * ACROSS * TILE;

/** Copies patches with a changed tile, at most so many, with their numbers (u32), and clears their flags; how many there were. */
export function keep(patches: usize, copies: usize, most: i32): i32 {
  const rows = (rowEnd + TILE - 1) / TILE - firstTileRow;
  const columns = (tilesX + TILES - 1) / TILES;
  let count = 0;
  for (let tj = 0; tj < rows; tj++)
    for (let c = 0; c < columns; c++) {
      const from = changed + <usize>(tj * tilesX + c * TILES);
      const tiles = min(TILES, tilesX - c * TILES);
      let any: u8 = 0;
      for (let k = 0; k < tiles; k++) any |= load<u8>(from + <usize>k);
      if (any == 0) continue;
      if (count == most) return count;
      memory.fill(from, 0, <usize>tiles);
      store<u32>(patches + ((<usize>count) << 2), tj * columns + c);
      copy(copies + <usize>count * BYTES, rowStart + tj * TILE, c * ACROSS);
      count++;
    }
  return count;
}

/** Copies a patch row after row; 0 where it reaches beyond the band or the map. */
function copy(to: usize, row: i32, column: i32): void {
  const tall = min(TILE, rowEnd - row);
  const wide = min(ACROSS, nx - column);
  if (tall < TILE || wide < ACROSS) memory.fill(to, 0, BYTES);
  for (let r = 0; r < tall; r++)
    memory.copy(
      to + ((<usize>(r * ACROSS)) << 2),
      heights + ((<usize>((row + r) * nx + column)) << 2),
      (<usize>wide) << 2,
    );
}
