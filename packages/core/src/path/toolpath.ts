import { sharedFloat32, sharedFloat64, sharedUint8 } from '../geometry/shared';

/** What a motion is for; it decides feed, colour and what is counted. */
export enum Motion {
  /** At rapid rate, above all steel or through cleared space. */
  rapid = 0,
  cut = 1,
  /** Into steel: helix, ramp, lead-in. */
  entry = 2,
  exit = 3,
  /** Between cuts without leaving the work. */
  link = 4,
}

/** Names of the kinds of motion, by their number. */
export const MOTION_NAMES = ['rapid', 'cut', 'entry', 'exit', 'link'] as const;

/**
 * A toolpath of straight motions as a structure of arrays. Point i is the tip (mm, in the frame of the work zero);
 * motion i goes from point i - 1 to point i, is of `kind[i]` and runs at `feed[i]` mm/min. Point 0 is the start.
 */
export interface Toolpath {
  x: Float64Array;
  y: Float64Array;
  z: Float64Array;
  kind: Uint8Array;
  feed: Float32Array;
}

/** Feeds of a step, mm/min. */
export interface Feeds {
  cut: number;
  entry: number;
  link: number;
}

/** Grows a toolpath motion by motion. */
export class PathBuilder {
  private readonly points: number[] = [];
  private readonly kinds: number[] = [];
  private readonly rates: number[] = [];

  constructor(private readonly feeds: Feeds) {}

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
    this.rates.push(this.feedOf(kind));
  }

  build(): Toolpath {
    const n = this.kinds.length;
    const path: Toolpath = {
      x: sharedFloat64(n),
      y: sharedFloat64(n),
      z: sharedFloat64(n),
      kind: sharedUint8(n),
      feed: sharedFloat32(n),
    };
    for (let i = 0; i < n; i++) {
      path.x[i] = this.points[3 * i]!;
      path.y[i] = this.points[3 * i + 1]!;
      path.z[i] = this.points[3 * i + 2]!;
    }
    path.kind.set(this.kinds);
    path.feed.set(this.rates);
    return path;
  }

  private feedOf(kind: Motion): number {
    if (kind === Motion.rapid) return 0;
    if (kind === Motion.entry) return this.feeds.entry;
    return kind === Motion.link ? this.feeds.link : this.feeds.cut;
  }
}

/** Length of motion i, mm. */
export function motionLength(path: Toolpath, i: number): number {
  return i === 0
    ? 0
    : Math.hypot(path.x[i]! - path.x[i - 1]!, path.y[i]! - path.y[i - 1]!, path.z[i]! - path.z[i - 1]!);
}

/** Length by kind of motion, mm. */
export function lengthsOf(path: Toolpath): Record<(typeof MOTION_NAMES)[number], number> {
  const sums = [0, 0, 0, 0, 0];
  for (let i = 1; i < path.x.length; i++) sums[path.kind[i]!]! += motionLength(path, i);
  return { rapid: sums[0]!, cut: sums[1]!, entry: sums[2]!, exit: sums[3]!, link: sums[4]! };
}

/** What a machine needs to tell the time of a motion: rapid rate in mm/min, acceleration in mm/s². */
export interface Kinematics {
  rapid: number;
  acceleration: number;
}

/** Time of a move from rest to rest, s: d/v + v/a, or 2 sqrt(d/a) when it is too short to reach v (kinematics). */
export function restToRest(distance: number, feed: number, acceleration: number): number {
  const v = feed / 60;
  return distance >= (v * v) / acceleration ? distance / v + v / acceleration : 2 * Math.sqrt(distance / acceleration);
}
