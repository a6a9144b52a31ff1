import { defineTask } from '../../crew/task';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import { Rolling } from './rolling';

interface PutBack {
  /** Ways of the round's middle near the surface: x, y, z one after another; a closed one ends where it begins. */
  readonly ways: readonly Float64Array[];
  readonly spec: TipSurfaceSpec;
  readonly tolerance: number;
  /** How far along the surface a way may be moved aside, mm. */
  readonly aside: number;
}

/**
 * Puts ways exactly on to the surface, between their points too, and gives the ways of the tip: of each the pieces that hold. A
 * way breaks where its places lie on both sides of something, so that the cutter cannot go from one to the next.
 */
export const putBackTask = defineTask(
  'putBack',
  ({ ways, spec, tolerance, aside }: PutBack, cancel): Float64Array[][] => {
    const rolling = new Rolling(spec, tolerance, aside);
    return ways.map((way) => {
      cancel.check();
      return rolling.pieces(way);
    });
  },
);
