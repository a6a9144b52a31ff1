/**
 * Where a band of a height map, its tiles and the cutter that lowers it lie in the memory of the stock's kernel, for WebAssembly
 * (AssemblyScript: every type is a machine type). An instance lies over a memory that it may share with others: heights and
 * highest steel of the tiles are common to them, sums, table and flags are each one's own.
 */

/** Cells along the side of a tile. */
export const TILE: i32 = 8;
export const FLAT: i32 = 0;
export const BALL: i32 = 1;
export const BULL: i32 = 2;
export const CONE: i32 = 3;

export let own: usize = 0;
export let heights: usize = 0;
export let tops: usize = 0;
export let stales: usize = 0;
export let changed: usize = 0;
export let nx: i32 = 0;
export let rowStart: i32 = 0;
export let rowEnd: i32 = 0;
export let tilesX: i32 = 0;
export let firstTileRow: i32 = 0;
export let x0: f64 = 0;
export let y0: f64 = 0;
export let cell: f64 = 1;
export let floor: f64 = 0;
export let kind: i32 = FLAT;
export let flat: f64 = 0;
export let corner: f64 = 0;
export let radius: f64 = 0;
/** How much a cone's underside rises per mm of radius; its corner is all that it rises. 0 for a round-cornered end. */
export let slant: f64 = 0;
/** Length of the flutes: they do not cut what stands higher above the tip, mm. */
export let flutes: f64 = Infinity;

/** Says where the arrays lie, what the map's frame is, and which cutter lowers it. */
export function place(
  ownAt: usize,
  heightsAt: usize,
  topsAt: usize,
  stalesAt: usize,
  changedAt: usize,
  columns: i32,
  firstRow: i32,
  endRow: i32,
  mapX: f64,
  mapY: f64,
  cellSize: f64,
  underside: f64,
  cutterFlat: f64,
  cutterCorner: f64,
  cutterRadius: f64,
  cutterSlant: f64,
  fluteLength: f64,
): void {
  own = ownAt;
  heights = heightsAt;
  tops = topsAt;
  stales = stalesAt;
  changed = changedAt;
  nx = columns;
  rowStart = firstRow;
  rowEnd = endRow;
  tilesX = (columns + TILE - 1) / TILE;
  firstTileRow = firstRow / TILE;
  x0 = mapX;
  y0 = mapY;
  cell = cellSize;
  floor = underside;
  flat = cutterFlat;
  corner = cutterCorner;
  radius = cutterRadius;
  slant = cutterSlant;
  flutes = fluteLength;
  kind = slant > 0 ? CONE : corner == 0 ? FLAT : flat == 0 ? BALL : BULL;
}

/** Looks up the highest steel of every tile. */
export function refreshAll(): void {
  const tiles = tilesX * ((rowEnd + TILE - 1) / TILE - firstTileRow);
  for (let t = 0; t < tiles; t++) refresh(t);
}

/** Looks up the highest steel of a tile. */
export function refresh(t: i32): void {
  const ti = t % tilesX;
  const tj = t / tilesX + firstTileRow;
  const j1 = min(rowEnd, tj * TILE + TILE);
  const column = ti * TILE;
  let top4 = f32x4.splat(-Infinity);
  if (column + TILE <= nx)
    for (let j = max(rowStart, tj * TILE); j < j1; j++) {
      const at = heights + ((<usize>(j * nx + column)) << 2);
      top4 = f32x4.pmax(top4, f32x4.pmax(v128.load(at), v128.load(at + 16)));
    }
  else
    for (let j = max(rowStart, tj * TILE); j < j1; j++)
      for (let i = column; i < nx; i++)
        top4 = f32x4.pmax(top4, v128.load32_splat(heights + ((<usize>(j * nx + i)) << 2)));
  store<f32>(tops + ((<usize>t) << 2), largestOf(top4));
  store<u8>(stales + <usize>t, 0);
}

/** The largest of four. */
export function largestOf(v: v128): f32 {
  return max(
    max(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/** The sum of four. */
export function sumOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}
