import type { Polygon } from '../geometry/polygon';
import { SegmentIndex } from '../geometry/segmentIndex';
import type { TipGrid } from '../field/tipSurface';

/** More levels than this are not put between two, however fine the stairs are to be. */
const MOST_BETWEEN = 64;

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
  /** The wall, for each distance that was asked for. */
  private readonly near = new Map<number, SegmentIndex>();

  /**
   * @param wall borders of what is closed to the axis at the level, on whose upper side the stairs lie
   * @param z height of the level, mm
   */
  constructor(
    private readonly grid: TipGrid,
    private readonly wall: readonly Polygon[],
    private readonly z: number,
  ) {}

  /** Whether the axis may stand there over what the level could not reach; never no where it does. */
  isOver(x: number, y: number): boolean {
    const { x0, y0, step, nx, ny, z } = this.grid;
    const i = Math.floor((x - x0) / step);
    const j = Math.floor((y - y0) / step);
    if (i < 0 || j < 0 || i + 1 >= nx || j + 1 >= ny) return false;
    const o = j * nx + i;
    return Math.max(z[o]!, z[o + 1]!, z[o + nx]!, z[o + nx + 1]!) > this.z;
  }

  /**
   * The distance from the level's wall up to which a stair is thinner than `thickest` along the border at height `at`, mm: the
   * thickness grows with it.
   */
  thinWithin(at: number, stair: number, thickest: number): number {
    return stair <= thickest ? Infinity : (stairRun(stair, thickest) * (at - this.z)) / stair;
  }

  /** Whether a place lies within `limit` mm of the level's wall less `room`. */
  isNear(x: number, y: number, limit: number, room = 0): boolean {
    if (limit === Infinity) return true;
    if (room >= limit) return false;
    let near = this.near.get(limit);
    if (!near) this.near.set(limit, (near = new SegmentIndex(this.wall, limit)));
    return near.isNear(x, y, limit - room);
  }
}
