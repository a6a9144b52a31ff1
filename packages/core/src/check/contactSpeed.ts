import type { Cancel } from '../base/cancel';
import { sharedUint8 } from '../base/shared';
import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import { Motion, type Motions } from '../path/toolpath';
import { SLOW_SHARE } from '../field/fit';

/** A ball farther than this off the ground that it is to leave touches nothing, mm. */
const NEAR_MM = 0.1;
/** What stands for a motion that touches nothing. */
export const NO_CONTACT = 255;

/** Where a ball touches the part along a path: speed of its edge there, in percent of that at DC. */
export interface ContactSpeed {
  /** Of each motion, from its middle; {@link NO_CONTACT} where it touches nothing. */
  readonly percent: Uint8Array;
  /** Share of the length in contact along which it is less than a fifth. */
  readonly slow: number;
  /** Half of the length is faster, percent. */
  readonly median: number;
}

export interface SpeedAsk {
  readonly part: ContactMesh;
  readonly path: Motions;
  /** Of the ball, mm, and what it leaves at most. */
  readonly radius: number;
  readonly leaves: number;
  readonly percent: Uint8Array;
  readonly span: readonly [number, number];
}

/** Fills in the speeds of a span of motions. */
export function contactSpeeds({ part, path, radius, leaves, percent, span }: SpeedAsk, cancel?: Cancel): void {
  const nearest = new ClosestPoint(part);
  const { x, y, z, kind } = path;
  const most = radius + leaves + NEAR_MM;
  for (let k = Math.max(1, span[0]); k < span[1]; k++) {
    if ((k & 255) === 0) cancel?.check();
    percent[k] = NO_CONTACT;
    if (kind[k] !== Motion.cut) continue;
    const c = [(x[k]! + x[k - 1]!) / 2, (y[k]! + y[k - 1]!) / 2, (z[k]! + z[k - 1]!) / 2 + radius] as const;
    const d = nearest.distance(...c, most);
    if (d >= most) continue;
    // the edge turns as fast as it is far from the axis
    percent[k] = Math.min(100, Math.round((100 * Math.hypot(nearest.x - c[0], nearest.y - c[1])) / d));
  }
}

/** @param count of motions */
export const emptySpeeds = (count: number): Uint8Array => sharedUint8(count).fill(NO_CONTACT);

/** What the motions come to; undefined when none touches. */
export function contactSpeedOf({ x, y, z }: Motions, percent: Uint8Array): ContactSpeed | undefined {
  const lengths = new Float64Array(101);
  for (let k = 1; k < percent.length; k++)
    if (percent[k]! <= 100)
      lengths[percent[k]!]! += Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!);
  const whole = lengths.reduce((sum, l) => sum + l, 0);
  if (!(whole > 0)) return undefined;
  const slow = lengths.subarray(0, 100 * SLOW_SHARE).reduce((sum, l) => sum + l, 0);
  let [median, sum] = [0, lengths[0]!];
  while (sum < whole / 2) sum += lengths[++median]!;
  return { percent, slow: slow / whole, median };
}
