import { squaredDistances } from '../../geometry/distanceTransform';
import type { Polygon } from '../../geometry/polygon';
import { SegmentIndex } from '../../geometry/segmentIndex';
import type { TipGrid } from '../../region/tipSurface';

/** More levels than this are not put between two, however fine the stairs are to be. */
const MOST_BETWEEN = 64;
/** Steps of the grid by which distances between its nodes may be too short; each may lie half a step off. */
const SLACK_STEPS = 2 * Math.SQRT2 + 1;

/** A height between two levels, and the height of the stair that it divides, mm. */
export interface Between {
  z: number;
  stair: number;
}

/**
 * Heights at which a stair between levels is cut again and again into halves until it could nowhere stay thicker than
 * `thickest`, lowest first: it is cut on the way up. Each is worth cutting only where the stair that it halves is too thick.
 */
export function betweenLevels(z: number, above: number, thickest: number): Between[] {
  const height = above - z;
  let n = 1;
  while (height / n > thickest && n < MOST_BETWEEN) n *= 2;
  return Array.from({ length: n - 1 }, (_, k) => {
    let halves = n;
    for (let j = k + 1; j % 2 === 0; j /= 2) halves /= 2;
    return { z: z + (height * (k + 1)) / n, stair: (2 * height) / halves };
  });
}

/**
 * Run of a stair of height `height` that is just `thickness` thick, mm: a stair of height h and run d is a triangle whose
 * corner stands h d / sqrt(h² + d²) above the slope (geometry).
 */
export const stairRun = (height: number, thickness: number): number =>
  (height * thickness) / Math.sqrt(height * height - thickness * thickness);

/** The stairs that a level left below the one above it, seen from a height in between. */
export class Stairs {
  /** Squared distances to what the level reached, and to what is too high for the level above, in steps of the grid. */
  private readonly low2: Float32Array;
  private readonly high2: Float32Array;
  /** The wall, for each distance that was asked for. */
  private readonly near = new Map<number, SegmentIndex>();

  /**
   * @param wall borders of what is closed to the axis at the level, on whose upper side the stairs lie
   * @param level height of the level, and of the one above it, mm
   */
  constructor(
    private readonly grid: TipGrid,
    private readonly wall: readonly Polygon[],
    private readonly level: { z: number; above: number },
  ) {
    const { z, nx, ny } = grid;
    const low = new Uint8Array(nx * ny);
    const high = new Uint8Array(nx * ny);
    for (let o = 0; o < low.length; o++) {
      low[o] = z[o]! <= level.z ? 1 : 0;
      high[o] = z[o]! > level.above ? 1 : 0;
    }
    this.low2 = squaredDistances(low, nx, ny);
    this.high2 = squaredDistances(high, nx, ny);
  }

  /**
   * Whether the axis there stands over what the level could not reach, and a stair of height `stair` may be thicker than
   * `thickest` there; never no where it is.
   */
  mayBeThick(x: number, y: number, stair: number, thickest: number): boolean {
    const { x0, y0, step, nx, ny, z } = this.grid;
    const i = Math.floor((x - x0) / step);
    const j = Math.floor((y - y0) / step);
    if (i < 0 || j < 0 || i + 1 >= nx || j + 1 >= ny) return false;
    const o = j * nx + i;
    if (Math.max(z[o]!, z[o + 1]!, z[o + nx]!, z[o + nx + 1]!) <= this.level.z) return false;
    if (stair <= thickest) return false;
    const run = ((this.level.above - this.level.z) / stair) * stairRun(stair, thickest);
    // from the node, which is up to a diagonal away, to nodes that are up to a step beyond the borders
    return (Math.sqrt(this.low2[o]!) + Math.sqrt(this.high2[o]!) + SLACK_STEPS) * step > run;
  }

  /** Whether a stair of height `stair` is thicker than `thickest` at a place of the border at height `at`. */
  isThick(x: number, y: number, at: number, stair: number, thickest: number): boolean {
    if (stair <= thickest) return false;
    // the thickness grows with the distance from the level's wall: the distance at which it is just the limit
    const limit = (stairRun(stair, thickest) * (at - this.level.z)) / stair;
    const { x0, y0, step, nx } = this.grid;
    const o = Math.floor((y - y0) / step) * nx + Math.floor((x - x0) / step);
    // mostly the grid's own distance will do
    const about = Math.sqrt(this.low2[o]!) * step;
    const slack = SLACK_STEPS * step;
    if (about - slack > limit) return true;
    if (about + slack <= limit) return false;
    let near = this.near.get(limit);
    if (!near) this.near.set(limit, (near = new SegmentIndex(this.wall, limit)));
    return !near.isNear(x, y);
  }
}
