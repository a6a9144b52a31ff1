import { type PlanGrid, valueAt } from './planGrid';

/** Places on the front half of the cutter's rim at which it is asked for steel. */
const LOOKS = 73;

const COS = Float64Array.from({ length: LOOKS }, (_, k) => Math.cos(angleOf(k)));
const SIN = Float64Array.from({ length: LOOKS }, (_, k) => Math.sin(angleOf(k)));

function angleOf(k: number): number {
  return -Math.PI / 2 + (Math.PI * k) / (LOOKS - 1);
}

/**
 * The load on a cutter that is about to stand at (x, y), as an engagement angle (ISO 3002-3), rad: the angle over which its front
 * meets steel, or that of a straight cut which removes as much per mm, whichever is larger. A thin arc dead ahead removes
 * 2.6 times what the same arc at the side does, so the angle alone is no load.
 *
 * @param steel signed distance of the steel, above 0 in it
 * @param cos direction of the motion
 * @param counted share of the angle that counts: less than 1 where a thin chip over a wide angle is to pass
 */
export function frontLoad(
  grid: PlanGrid,
  steel: Float32Array,
  radius: number,
  x: number,
  y: number,
  cos: number,
  sin: number,
  counted = 1,
): number {
  let angle = 0;
  let removed = 0;
  let before = 0;
  for (let k = 0; k < LOOKS; k++) {
    const c = COS[k]!;
    const s = SIN[k]!;
    const here = valueAt(grid, steel, x + radius * (cos * c - sin * s), y + radius * (sin * c + cos * s), -1);
    if (k > 0 && (here > 0 || before > 0)) {
      const share = here > 0 && before > 0 ? 1 : here > 0 ? here / (here - before) : before / (before - here);
      const step = share * (Math.PI / (LOOKS - 1));
      angle += step;
      removed += step * 0.5 * (c + COS[k - 1]!);
    }
    before = here;
  }
  // a straight cut over the angle T takes ae = R (1 - cos T)
  return Math.max(counted * angle, Math.acos(Math.max(-1, 1 - removed)));
}

/** What the rim has just passed is told as this far in steel at most, by lines between nodes, mm. */
const ROUND_MM = 0.02;

/** Whether any place of the whole rim lies in steel. */
export function rimTouches(grid: PlanGrid, steel: Float32Array, radius: number, x: number, y: number): boolean {
  for (let k = 0; k < LOOKS; k++) {
    const [dx, dy] = [radius * COS[k]!, radius * SIN[k]!];
    if (valueAt(grid, steel, x + dx, y + dy, -1) > ROUND_MM || valueAt(grid, steel, x - dx, y - dy, -1) > ROUND_MM)
      return true;
  }
  return false;
}
