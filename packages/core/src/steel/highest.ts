import type { Sweep } from './sweep';

/**
 * Highest steel above `known` within `radius` mm of (x, y), in a map that a sweep lowers, through the sweep's maxima of tiles;
 * `known` when none is higher there. Cells count that come within half their diagonal.
 *
 * @param enough any steel above this will do, mm
 */
export function highestWithin(
  sweep: Sweep,
  x: number,
  y: number,
  radius: number,
  known = -Infinity,
  enough = Infinity,
): number {
  return sweep.kernel.highest(x, y, radius, known, enough);
}
