import type { HeightMap } from './heightMap';

/** Share of a cell by which its steel may stand higher than beside its middle, on slopes that a roughing step leaves. */
const CELL_SHARE = 0.35;

/**
 * Least thickness above the allowance that surely is left over, not rounding, mm.
 *
 * @param tolerances what the paths of the step and of those before it may be off, mm
 */
export const leastThreshold = (cell: number, tolerances: number): number => tolerances + CELL_SHARE * cell;

/** Where steel is thick enough to be cut again. */
export interface RestRegion {
  /** Steel that it was looked for in. */
  stock: HeightMap;
  /** Steel above the allowance that counts, mm. */
  threshold: number;
  /** The steel where it is to be cut, -Infinity elsewhere. */
  map: HeightMap;
  /** mm² in plan. */
  area: number;
  /** Steel above the allowance in it, about, mm³. */
  volume: number;
  /** What of it steps before left on purpose as stairs, when they are thicker than the threshold. */
  stairs?: {
    /** Thickest of them above the allowance, mm. */
    most: number;
    /** mm² in plan. */
    area: number;
    /** Threshold that leaves them, mm. */
    threshold: number;
  };
}

/**
 * The steel that stands more than `threshold` above the allowance, normal to the part: the allowance is taken off first.
 *
 * @param leftover steel above the part along its normal for each cell, NaN where no part lies below, mm
 * @param grow the region is made wider by this, mm
 * @param smallestArea pieces of the region with less plan area, before it is grown, are left out, mm²
 */
export function restRegion(
  stock: HeightMap,
  leftover: Float32Array,
  allowance: number,
  threshold: number,
  grow: number,
  smallestArea: number,
): RestRegion {
  const { nx, ny, cell, heights } = stock;
  const thick = new Uint8Array(nx * ny);
  for (let o = 0; o < thick.length; o++) {
    const left = leftover[o]!;
    thick[o] = (Number.isNaN(left) ? heights[o]! > stock.floor : left - allowance > threshold) ? 1 : 0;
  }
  dropSmall(thick, nx, ny, smallestArea / (cell * cell));
  let area = 0;
  let volume = 0;
  for (let o = 0; o < thick.length; o++) {
    if (!thick[o]) continue;
    area += cell * cell;
    if (!Number.isNaN(leftover[o]!)) volume += (leftover[o]! - allowance) * cell * cell;
  }
  const wide = widened(thick, nx, ny, Math.round(grow / cell));
  const kept = new Float32Array(heights.length).fill(-Infinity);
  for (let o = 0; o < kept.length; o++) if (wide[o]) kept[o] = heights[o]!;
  return { stock, threshold, map: { ...stock, heights: kept }, area, volume };
}

/** What lies within `reach` cells of those of a mask. */
function widened(mask: Uint8Array, nx: number, ny: number, reach: number): Uint8Array {
  const wide = mask.slice();
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const o = j * nx + i;
      if (!mask[o]) continue;
      // around a cell with all its neighbours there is nothing that they do not widen as far
      if (i > 0 && i < nx - 1 && j > 0 && j < ny - 1 && mask[o - 1] && mask[o + 1] && mask[o - nx] && mask[o + nx])
        continue;
      for (let v = Math.max(0, j - reach); v <= Math.min(ny - 1, j + reach); v++)
        for (let u = Math.max(0, i - reach); u <= Math.min(nx - 1, i + reach); u++)
          if ((u - i) * (u - i) + (v - j) * (v - j) <= reach * reach) wide[v * nx + u] = 1;
    }
  return wide;
}

/** Clears connected pieces (by sides) of fewer cells than `least`. */
function dropSmall(mask: Uint8Array, nx: number, ny: number, least: number): void {
  const seen = new Uint8Array(mask.length);
  const piece = new Int32Array(mask.length);
  for (let start = 0; start < mask.length; start++) {
    if (!mask[start] || seen[start]) continue;
    let count = 1;
    piece[0] = start;
    seen[start] = 1;
    const look = (o: number): void => {
      if (!mask[o] || seen[o]) return;
      seen[o] = 1;
      piece[count++] = o;
    };
    for (let k = 0; k < count; k++) {
      const o = piece[k]!;
      const i = o % nx;
      if (i > 0) look(o - 1);
      if (i < nx - 1) look(o + 1);
      if (o >= nx) look(o - nx);
      if (o < nx * (ny - 1)) look(o + nx);
    }
    if (count < least) for (let k = 0; k < count; k++) mask[piece[k]!] = 0;
  }
}
