import { type GridFrame, type HeightMap, SkyShares } from '@esquisse/core';

/** Cells of the stock that are drawn at most: what software rendering still turns smoothly. */
const MOST_DRAWN = 90_000;
/** A byte with a sign holds this for 1. */
const WHOLE = 127;

/** Steel ready to be drawn: heights over a coarser grid, how they are lit, and what a lens says there (NaN: nothing). */
export interface DrawnSteel extends GridFrame {
  floor: number;
  heights: Float32Array;
  /** Four bytes a cell: its normal, and the share of the sky that it sees, each with 127 for 1. */
  shade: Int8Array;
  /** Corners of the triangles of the sheet, three each. */
  indices: Uint32Array;
  field?: Float32Array;
}

export function strideFor(map: GridFrame): number {
  return Math.max(1, Math.ceil(Math.sqrt((map.nx * map.ny) / MOST_DRAWN)));
}

/** Makes steel ready to be drawn; of later states of the same block only what changed is lit anew. */
export class SteelDrawing {
  private sky?: SkyShares;
  private shares = new Uint8Array(0);

  /** Every stride-th cell; of a field the value of largest size in the square, so that no gouge is passed over. */
  of(map: HeightMap, field?: Float32Array): DrawnSteel {
    const steel = thinned(map, field);
    const shares = this.sharesOf(steel);
    return { ...steel, shade: shadeOf(steel, shares), indices: indicesOf(steel) };
  }

  private sharesOf(steel: Thinned): Uint8Array {
    const { x0, y0, cell, nx, ny } = steel;
    const kept = this.sky?.grid;
    if (!this.sky || kept?.nx !== nx || kept.ny !== ny || kept.cell !== cell) {
      this.sky = new SkyShares({ x0, y0, cell, nx, ny });
      this.shares = new Uint8Array(nx * ny);
    }
    this.sky.update(steel.heights, this.shares);
    return this.shares;
  }
}

type Thinned = Omit<DrawnSteel, 'shade' | 'indices'>;

function thinned(map: HeightMap, field?: Float32Array): Thinned {
  const stride = strideFor(map);
  const nx = Math.floor((map.nx - 1) / stride) + 1;
  const ny = Math.floor((map.ny - 1) / stride) + 1;
  const heights = new Float32Array(nx * ny);
  const values = field ? new Float32Array(nx * ny) : undefined;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      heights[j * nx + i] = map.heights[j * stride * map.nx + i * stride]!;
      if (values) values[j * nx + i] = strongest(map, field!, i * stride, j * stride, stride);
    }
  const shift = (0.5 - stride / 2) * map.cell;
  return {
    x0: map.x0 + shift,
    y0: map.y0 + shift,
    cell: map.cell * stride,
    nx,
    ny,
    floor: map.floor,
    heights,
    ...(values ? { field: values } : {}),
  };
}

function strongest(map: HeightMap, field: Float32Array, i0: number, j0: number, stride: number): number {
  const here = field[j0 * map.nx + i0]!;
  let lowest = here;
  for (let j = j0; j < Math.min(map.ny, j0 + stride); j++)
    for (let i = i0; i < Math.min(map.nx, i0 + stride); i++) {
      const v = field[j * map.nx + i]!;
      if (v < lowest) lowest = v;
    }
  return lowest < 0 ? lowest : here;
}

/** Normals by the slopes to both sides, which keeps the direction of walls that fall over one cell. */
function shadeOf({ heights, nx, ny, cell, floor }: Thinned, shares: Uint8Array): Int8Array {
  const shade = new Int8Array(4 * nx * ny);
  for (let j = 0; j < ny; j++) {
    const above = Math.min(ny - 1, j + 1) * nx;
    const below = Math.max(0, j - 1) * nx;
    const high = above === below ? 1 : (above - below) / nx;
    for (let i = 0; i < nx; i++) {
      const right = Math.min(nx - 1, i + 1);
      const left = Math.max(0, i - 1);
      const k = j * nx + i;
      const dx = (heights[j * nx + right]! - heights[j * nx + left]!) / (Math.max(1, right - left) * cell);
      const dy = (heights[above + i]! - heights[below + i]!) / (high * cell);
      const by = WHOLE / Math.sqrt(dx * dx + dy * dy + 1);
      shade[4 * k] = -dx * by;
      shade[4 * k + 1] = -dy * by;
      shade[4 * k + 2] = by;
      shade[4 * k + 3] = heights[k]! <= floor ? WHOLE : (shares[k]! * WHOLE) / 255;
    }
  }
  return shade;
}

/** Two triangles a square of cells; squares without steel have none. */
function indicesOf({ heights: h, floor, nx, ny }: Thinned): Uint32Array {
  const out = new Uint32Array(6 * (nx - 1) * (ny - 1));
  let n = 0;
  for (let j = 0; j + 1 < ny; j++)
    for (let i = 0; i + 1 < nx; i++) {
      const a = j * nx + i;
      const b = a + 1;
      const c = a + nx;
      const d = c + 1;
      if (h[a]! <= floor && h[b]! <= floor && h[c]! <= floor && h[d]! <= floor) continue;
      // the diagonal that bends less keeps ridges and walls straight
      const isUp = Math.abs(h[a]! - h[d]!) <= Math.abs(h[b]! - h[c]!);
      out[n++] = a;
      out[n++] = b;
      out[n++] = isUp ? d : c;
      out[n++] = isUp ? a : b;
      out[n++] = d;
      out[n++] = c;
    }
  return out.slice(0, n);
}

/** Counts of a field's values in equal bins from `low` to `high`; what lies outside counts in the end bins. */
export function histogram(field: Float32Array, low: number, high: number, bins: number): number[] {
  const counts = new Array<number>(bins).fill(0);
  for (const v of field) {
    if (Number.isNaN(v)) continue;
    const k = Math.floor(((v - low) / (high - low)) * bins);
    counts[Math.min(bins - 1, Math.max(0, k))]!++;
  }
  return counts;
}
