import { distanceTo, lineAt, type PlanGrid } from './planGrid';

/** Beyond what is asked for it is told so many steps of the grid farther, so that lines between nodes are right. */
const MORE_STEPS = 4;

/** Where the axis may be, and what steel it can reach from there: signed distances over the plan, mm. */
export interface Room {
  /** Above 0 where the axis may be. */
  readonly axis: Float32Array;
  /** Above 0 for what the cutter takes with its axis there. */
  readonly reached: Float32Array;
}

/**
 * The room without its bays narrower than a circle: what that circle can run through, so that no line along the border turns
 * more sharply than it. Necks hardly wider than the cutter gain nothing (measured).
 *
 * @param open signed distance of where the axis may be
 * @param radius of the circle, mm
 */
export function opened(grid: PlanGrid, open: Float32Array, radius: number): Float32Array {
  const away = distanceTo(grid, lineAt(grid, open, radius), radius + MORE_STEPS * grid.step);
  const out = new Float32Array(open.length);
  for (let o = 0; o < out.length; o++) out[o] = open[o]! >= radius ? open[o]! : radius - away[o]!;
  return out;
}

/**
 * @param axis signed distance of where the axis may be
 * @param radius of the cutter, mm
 */
export function roomOf(grid: PlanGrid, axis: Float32Array, radius: number): Room {
  const away = distanceTo(grid, lineAt(grid, axis, 0), radius + MORE_STEPS * grid.step);
  const reached = new Float32Array(axis.length);
  for (let o = 0; o < axis.length; o++) reached[o] = axis[o]! >= 0 ? radius + axis[o]! : radius - away[o]!;
  return { axis, reached };
}
