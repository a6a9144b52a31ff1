import { sharedFloat64 } from '../base/shared';
import { type Kinematics, Motion, motionLength, restToRest, type Toolpath } from './toolpath';

/** Turns below this are straight on, radians. */
const STRAIGHT = 1e-6;

/**
 * Time at the end of each motion, s from the path's start. Rapids run from rest to rest. Feed motions speed up and slow down
 * at the machine's acceleration a along the path; through a corner no faster than v² = a R with R the radius of the arc that
 * rounds it by the machine's own δ, R = δ sin(φ/2) / (1 - sin(φ/2)) for an angle φ between the motions (geometry), and along a
 * row of chords no faster than v² = a r with r the radius that they follow (centripetal acceleration).
 */
export function timesOf(path: Toolpath, machine: Kinematics): Float64Array {
  const n = path.x.length;
  const times = sharedFloat64(n);
  const a = machine.acceleration;
  // square of the speed at the end of each motion
  const through = new Float64Array(n);
  /** The last motion that went anywhere; at its end the cutter stands until the next one does. */
  let last: { i: number; x: number; y: number; z: number } | undefined;
  const lengths = new Float64Array(n);
  for (let i = 1; i < n; i++) {
    const d = (lengths[i] = motionLength(path, i));
    if (d === 0) continue;
    const x = (path.x[i]! - path.x[i - 1]!) / d;
    const y = (path.y[i]! - path.y[i - 1]!) / d;
    const z = (path.z[i]! - path.z[i - 1]!) / d;
    if (last && path.kind[i] !== Motion.rapid && path.kind[last.i] !== Motion.rapid) {
      const feed = Math.min(path.feed[i]!, path.feed[last.i]!) / 60;
      const cos = x * last.x + y * last.y + z * last.z;
      through.fill(Math.min(feed * feed, a * cornerRadius(cos, lengths[last.i]!, d, machine.rounding)), last.i, i);
    }
    last = { i, x, y, z };
  }
  if (n > 0) through[n - 1] = 0;
  // no faster into a motion than it can be slowed down along it, nor out of it than it can be sped up
  for (let i = n - 1; i > 0; i--) through[i - 1] = Math.min(through[i - 1]!, through[i]! + 2 * a * lengths[i]!);
  for (let i = 1; i < n; i++) {
    const d = lengths[i]!;
    if (d === 0) {
      times[i] = times[i - 1]!;
      continue;
    }
    if (path.kind[i] === Motion.rapid) {
      times[i] = times[i - 1]! + restToRest(d, machine.rapid, a);
      continue;
    }
    through[i] = Math.min(through[i]!, through[i - 1]! + 2 * a * d);
    times[i] = times[i - 1]! + timeOf(d, through[i - 1]!, through[i]!, path.feed[i]! / 60, a);
  }
  if (machine.timeFactor !== 1) for (let i = 0; i < n; i++) times[i]! *= machine.timeFactor;
  return times;
}

/** Time of a motion, s, between two squared speeds and up to a feed in mm/s (kinematics). */
function timeOf(d: number, from2: number, to2: number, feed: number, a: number): number {
  const peak = Math.min(feed, Math.sqrt((from2 + to2) / 2 + a * d));
  const even = Math.max(0, d - (2 * peak * peak - from2 - to2) / (2 * a));
  return (2 * peak - Math.sqrt(from2) - Math.sqrt(to2)) / a + even / peak;
}

/** Radius at which two motions that turn by arccos(`cos`) can be run through, mm; Infinity straight on. */
function cornerRadius(cos: number, before: number, after: number, rounding: number): number {
  const turn = Math.acos(Math.min(1, Math.max(-1, cos)));
  if (turn < STRAIGHT) return Infinity;
  const half = Math.sin((Math.PI - turn) / 2);
  const rounded = (rounding * half) / (1 - half);
  return Math.min(rounded, (before + after) / 2 / turn);
}
