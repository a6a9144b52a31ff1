import type { TipSurface } from './tipSurface';

/** A root is known to this length, mm; the side where the cutter may be is returned. */
export const ROOT_MM = 1e-3;
/** A bracket of the grid's step halves down to {@link ROOT_MM} in fewer looks. */
const MOST_LOOKS = 40;

/** Newton's steps go on as long as each comes nearer by this share, however wide the bracket stays. */
const NEARING = 0.3;
/** Newton's steps on a cubic. */
const STEPS = 4;

/** Where the tip surface jumps between two nodes of the grid: from `zLow` at `low` mm behind the first to `zHigh`. */
export interface Jump {
  low: number;
  zLow: number;
  zHigh: number;
}

/** A stretch of the plan across a curve, from an allowed point a to a forbidden point b, mm. */
export interface Stretch {
  ax: number;
  ay: number;
  bx: number;
  by: number;
  /** The tip surface at a, -Infinity when there is none, and at b. */
  za: number;
  zb: number;
  /** How fast it rises at a towards b, and at b in the same direction; NaN when unknown. */
  ca: number;
  cb: number;
}

/** A root that was found: how far behind the first point, and how fast the surface rises there towards the second. */
export interface Root {
  at: readonly [number, number];
  s: number;
  climb: number;
  jump?: Jump;
}

/**
 * Last allowed point of a stretch, to {@link ROOT_MM}. Each look gives the tip's slope with its height, so Newton's step, aimed
 * a hair to the allowed side, settles a smooth flank in two looks; steps that leave the bracket or follow a weak one are
 * replaced by halving, which settles jumps; the part's outline in plan is found by what the cutter stands on last.
 *
 * @param guess where it may be, mm behind a; NaN when unknown
 */
export function allowedRoot(surface: TipSurface, z: number, stretch: Stretch, guess = NaN): Root {
  const ax = stretch.ax;
  const ay = stretch.ay;
  const za = stretch.za;
  const zb = stretch.zb;
  const dx = stretch.bx - ax;
  const dy = stretch.by - ay;
  const length = Math.sqrt(dx * dx + dy * dy);
  const ux = dx / length;
  const uy = dy / length;
  let low = 0;
  let high = length;
  let s = Math.min(length - ROOT_MM, Math.max(ROOT_MM, expectedRoot(stretch, length, z, guess) - ROOT_MM / 2));
  let bracket = length;
  let zLow = za;
  let zHigh = zb;
  let climb = NaN;
  let isEdge = za === -Infinity && guess > 0;
  let before = Infinity;
  for (let k = 0; k < MOST_LOOKS && high - low > ROOT_MM; k++) {
    const f = surface.at(ax + s * ux, ay + s * uy) - z;
    climb = surface.drop.climb(ux, uy);
    let next = s - f / climb - ROOT_MM / 2;
    if (f > 0) {
      high = s;
      zHigh = f + z;
      // towards where nothing lies under the cutter it jumps where the cutter is off what it stands on here
      isEdge = zLow === -Infinity;
      if (isEdge) next = s - surface.drop.escape(-ux, -uy) - ROOT_MM / 2;
    } else {
      low = s;
      zLow = f + z;
      if (-f <= climb * ROOT_MM) break;
      if (isEdge) next = s + 0.99 * ROOT_MM;
      isEdge = false;
    }
    const isNearing = Math.abs(f) < NEARING * before;
    const weak = (k & 1) === 1 && high - low > bracket / 2 && !isNearing;
    before = Math.abs(f);
    if (next > low && next < high && !weak) s = next;
    else s = 0.5 * (low + high);
    if (k & 1) bracket = high - low;
  }
  const at = [ax + low * ux, ay + low * uy] as const;
  return high - low <= ROOT_MM ? { at, s: low, climb, jump: { low, zLow, zHigh } } : { at, s: low, climb };
}

/**
 * Where the root of a stretch may be, mm behind its first point: at the guess, when that lies in it, or by the surface's heights
 * and slopes at both ends.
 */
export function expectedRoot({ za, zb, ca, cb }: Stretch, length: number, z: number, guess: number): number {
  if (guess > 0 && guess < length) return guess;
  const between = fromCubic(length, zb - za, z - za, ca * length, cb * length);
  if (between > 0) return between;
  // the tangent of the end that is nearer by its own account
  const fromA = (z - za) / ca;
  const fromB = (zb - z) / cb;
  if (fromB > 0 && fromB < length && !(fromA > 0 && fromA < fromB)) return length - fromB;
  if (fromA > 0 && fromA < length) return fromA;
  return za > -Infinity ? (length * (z - za)) / (zb - za) : length / 2;
}

/**
 * Where the cubic through both ends of a stretch, with the slopes there, is at a height; 0 when it need not rise all the way
 * (Fritsch & Carlson 1980, from memory: both slopes within three times the chord's).
 *
 * @param rise of the stretch, `height` above its lower end, `a` and `b` slopes at its ends times its length, mm
 */
function fromCubic(length: number, rise: number, height: number, a: number, b: number): number {
  if (!(rise < Infinity && a >= 0 && b >= 0 && a <= 3 * rise && b <= 3 * rise)) return 0;
  const third = a + b - 2 * rise;
  const second = 3 * rise - 2 * a - b;
  let t = height / rise;
  for (let k = 0; k < STEPS; k++) {
    const climb = a + t * (2 * second + 3 * third * t);
    if (climb > 0) t = Math.min(1, Math.max(0, t - (t * (a + t * (second + third * t)) - height) / climb));
  }
  return t * length;
}
