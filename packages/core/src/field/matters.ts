/**
 * Whether a curve matters is asked in the middles of edges: no place of a cell, whose nodes may be half a step off, lies farther
 * from the middles of its edges than this, in steps of the grid.
 */
export const NEAR_STEPS = 1.6;

/**
 * Whether a curve must be exact within `room` mm of a place; elsewhere a line will do that leaves the grid's allowed nodes by a
 * step at most, and so may run where the axis may not.
 */
export type Matters = (x: number, y: number, room: number) => boolean;
