import { heightAt, type RoundPiece } from '../tool/profile';
import type { Sweep } from './sweep';

/** A circular or helical move about an upright axis; lengths in mm, `turn` in radians, positive counter-clockwise from above. */
export interface ArcMove {
  centreX: number;
  centreY: number;
  fromX: number;
  fromY: number;
  fromZ: number;
  toZ: number;
  turn: number;
}

/** Places at which the envelope of a helix is looked at before its lowest is narrowed down. */
const LOOKS = 32;
const NARROWINGS = 40;
/** A way in plan shorter than this is a move straight up or down, mm. */
const UPRIGHT_MM = 1e-9;
const GOLDEN = (Math.sqrt(5) - 1) / 2;

/**
 * Lowers steel to the exact lower envelope of a cutter along an arc or helix. On a level arc the nearest place of the arc
 * touches. On a helix the tip's height along the way and the rise of the underside with the distance pull against each
 * other: their sum is searched, turn by turn, on the side of the nearest place that lies lower.
 */
export function sweepArc(sweep: Sweep, piece: RoundPiece, move: ArcMove): void {
  const { centreX, centreY, fromX, fromY, fromZ, toZ } = move;
  const r = Math.hypot(fromX - centreX, fromY - centreY);
  const begin = Math.atan2(fromY - centreY, fromX - centreX);
  const way = move.turn < 0 ? -1 : 1;
  const total = Math.abs(move.turn);
  const R = piece.radius;
  const upright = total * r < UPRIGHT_MM;
  const climb = upright ? 0 : (toZ - fromZ) / total;
  const startZ = upright ? Math.min(fromZ, toZ) : fromZ;
  const envelope = (x: number, y: number): number => {
    const rho = Math.hypot(x - centreX, y - centreY);
    if (rho > r + R || rho < r - R) return Infinity;
    const at = (theta: number, psi: number): number => {
      const d2 = rho * rho + r * r - 2 * rho * r * Math.cos(theta - psi);
      return startZ + climb * theta + heightAt(piece, Math.sqrt(Math.max(0, d2)));
    };
    let psi = way * (Math.atan2(y - centreY, x - centreX) - begin);
    psi -= 2 * Math.PI * Math.floor(psi / (2 * Math.PI));
    // the turn before the first and the one behind the last reach into the way from outside
    let lowest = Math.min(at(0, psi), at(total, psi));
    for (let near = psi - 2 * Math.PI; near < total + 2 * Math.PI; near += 2 * Math.PI) {
      const low = Math.max(0, climb > 0 ? near - Math.PI : near);
      const high = Math.min(total, climb < 0 ? near + Math.PI : near);
      if (low > high) continue;
      lowest = Math.min(lowest, climb === 0 ? at(low, psi) : narrowed((theta) => at(theta, psi), low, high));
    }
    return lowest;
  };
  sweep.lower(centreX - r - R, centreY - r - R, centreX + r + R, centreY + r + R, Math.min(fromZ, toZ), envelope);
}

/** Lowest value of a function that has one valley near its lowest of evenly spread looks. */
function narrowed(f: (t: number) => number, low: number, high: number): number {
  let best = Infinity;
  let where = low;
  for (let k = 0; k <= LOOKS; k++) {
    const t = low + ((high - low) * k) / LOOKS;
    const value = f(t);
    if (value < best) {
      best = value;
      where = t;
    }
  }
  let a = Math.max(low, where - (high - low) / LOOKS);
  let b = Math.min(high, where + (high - low) / LOOKS);
  for (let k = 0; k < NARROWINGS; k++) {
    const c = b - GOLDEN * (b - a);
    const d = a + GOLDEN * (b - a);
    const fc = f(c);
    const fd = f(d);
    const here = fc < fd ? fc : fd;
    if (here < best) {
      best = here;
      where = fc < fd ? c : d;
    }
    // out of the cutter's reach at both places: the valley's edge is on the side of the best one known
    const left = fc === fd ? where < c : fc < fd;
    if (left) b = fc === Infinity ? c : d;
    else a = fd === Infinity ? d : c;
  }
  return best;
}
