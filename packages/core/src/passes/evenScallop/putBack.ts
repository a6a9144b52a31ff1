import { defineTask } from '../../crew/task';
import { type Bounds, BoundsTest } from '../../field/bounds';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import { Rolling } from './rolling';

interface PutBack {
  /**
   * Ways of the round's middle near the surface: x, y, z one after another; a closed one ends where it begins. Each may be moved
   * aside along the surface by so many mm.
   */
  readonly ways: readonly { readonly points: Float64Array; readonly aside: number }[];
  readonly spec: TipSurfaceSpec;
  readonly tolerance: number;
  /** Ways keep out of what these close to the axis. */
  readonly bounds: Bounds;
}

/**
 * Puts ways exactly on to the surface, between their points too, and gives the ways of the tip: of each the pieces that hold. A
 * way breaks where its places lie on both sides of something, so that the cutter cannot go from one to the next.
 */
export const putBackTask = defineTask(
  'putBack',
  ({ ways, spec, tolerance, bounds }: PutBack, cancel): Float64Array[][] => {
    const rolling = new Rolling(spec, tolerance, new BoundsTest(bounds));
    return ways.map(({ points, aside }) => {
      cancel.check();
      return rolling.pieces(points, aside);
    });
  },
);
