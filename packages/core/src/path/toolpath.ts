import { sharedFloat64, sharedUint8 } from '../base/shared';
import type { CycleSpan } from './cycles';
import type { WearSpan } from './wear';
import type { Motion } from './motion';

export { Motion } from './motion';

/** Names of the kinds of motion, by their number. */
export const MOTION_NAMES = ['rapid', 'cut', 'entry', 'exit', 'link'] as const;

/**
 * Where a tool goes, in straight motions, as a structure of arrays. Point i is the tip (mm, in the frame of the work zero);
 * motion i goes from point i - 1 to point i and is of `kind[i]`. Point 0 is the start.
 */
export interface Motions {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly kind: Uint8Array;
  /** Stretches that are a cycle of the control, in their order; none when left out. */
  readonly cycles?: readonly CycleSpan[];
  /** Stretches on which the control compensates wear, in their order; none when left out. */
  readonly wear?: readonly WearSpan[];
}

/** Motions with their feeds: motion i runs at `feed[i]` mm/min; 0 for rapids. */
export interface Toolpath extends Motions {
  readonly feed: Float32Array;
}

/** Grows a path motion by motion. */
export class PathBuilder {
  private readonly points: number[] = [];
  private readonly kinds: number[] = [];

  get length(): number {
    return this.kinds.length;
  }

  get last(): [number, number, number] | undefined {
    const n = this.points.length;
    return n === 0 ? undefined : [this.points[n - 3]!, this.points[n - 2]!, this.points[n - 1]!];
  }

  /** Adds a motion to (x, y, z), mm; one that goes nowhere is left out. */
  to(x: number, y: number, z: number, kind: Motion): void {
    const at = this.last;
    if (at && at[0] === x && at[1] === y && at[2] === z) return;
    this.points.push(x, y, z);
    this.kinds.push(kind);
  }

  build(): Motions {
    const n = this.kinds.length;
    const path: Motions = { x: sharedFloat64(n), y: sharedFloat64(n), z: sharedFloat64(n), kind: sharedUint8(n) };
    for (let i = 0; i < n; i++) {
      path.x[i] = this.points[3 * i]!;
      path.y[i] = this.points[3 * i + 1]!;
      path.z[i] = this.points[3 * i + 2]!;
    }
    path.kind.set(this.kinds);
    return path;
  }
}

/** Length of motion i, mm. */
export function motionLength(path: Motions, i: number): number {
  return i === 0
    ? 0
    : Math.hypot(path.x[i]! - path.x[i - 1]!, path.y[i]! - path.y[i - 1]!, path.z[i]! - path.z[i - 1]!);
}

/** Length by kind of motion, mm. */
export function lengthsOf(path: Motions): Record<(typeof MOTION_NAMES)[number], number> {
  const sums = [0, 0, 0, 0, 0];
  for (let i = 1; i < path.x.length; i++) sums[path.kind[i]!]! += motionLength(path, i);
  return { rapid: sums[0]!, cut: sums[1]!, entry: sums[2]!, exit: sums[3]!, link: sums[4]! };
}

/** What a machine needs to tell the time of a motion: rapid rate in mm/min, acceleration in mm/s². */
export interface Kinematics {
  rapid: number;
  acceleration: number;
  /** How far a corner may be rounded off at speed, mm. */
  rounding: number;
  /** Real time over the calculated one. */
  timeFactor: number;
}

/** Time of a move from rest to rest, s: d/v + v/a, or 2 sqrt(d/a) when it is too short to reach v (kinematics). */
export function restToRest(distance: number, feed: number, acceleration: number): number {
  const v = feed / 60;
  return distance >= (v * v) / acceleration ? distance / v + v / acceleration : 2 * Math.sqrt(distance / acceleration);
}
