import type { Vec3 } from '../geometry/vector';
import { ROOMY_MM } from './rolling';

/** A place with its figure. */
export interface Place {
  value: number;
  at: Vec3;
  /** Triangle of the surveyed mesh. */
  triangle: number;
}

/** A bend and a ball agree when the radius of the one is at least this share of the other's. */
export const AGREES = 0.75;

/** A place of a hollow, with its radius and the area that it stands for. */
export interface Found extends Place {
  area: number;
}

/** Radii a bin wide this share belong together; a radius counts that holds this share of the hollow area. */
const BIN = 1.06;
const PEAK_SHARE = 0.02;

/**
 * The radii that many places share: single vertices of a mesh tell their bend with an error of a tenth and more, but
 * around the true radius they gather. Peaks of the area over the logarithm of the radius, each told by its middle.
 */
export function peaksOf(found: Found[]): Place[] {
  const least = 0.05;
  const binOf = (value: number): number => Math.max(0, Math.floor(Math.log(value / least) / Math.log(BIN)));
  const bins = new Float64Array(binOf(ROOMY_MM / AGREES) + 3);
  let whole = 0;
  for (const { value, area } of found) {
    bins[binOf(value)]! += area;
    whole += area;
  }
  if (whole === 0) return [];
  const around = (k: number): number => (bins[k - 1] ?? 0) + bins[k]! + (bins[k + 1] ?? 0);
  const out: Place[] = [];
  let taken = -3;
  for (let k = 0; k < bins.length; k++) {
    const here = around(k);
    if (k - taken < 3 || here < PEAK_SHARE * whole) continue;
    if (around(k + 1) > here || around(k - 1 < 0 ? 0 : k - 1) > here) continue;
    const own = found.filter((f) => Math.abs(binOf(f.value) - k) <= 1).sort((a, b) => a.value - b.value);
    const half = own.reduce((sum, f) => sum + f.area, 0) / 2;
    let sum = 0;
    const middle = own.find((f) => (sum += f.area) >= half)!;
    out.push({ value: middle.value, at: middle.at, triangle: middle.triangle });
    taken = k;
  }
  return out;
}
