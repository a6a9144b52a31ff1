import { Motion, type Motions } from '../path/toolpath';
import type { Touched } from '../field/touched';

/** Farther than this above the part nothing counts as cut, mm. */
const CAP_MM = 1;
/** The cutter may be inside the part by this at most, mm, where it is to stay outside. */
export const BELOW_MM = 0.3;
/** Side of the cubes in which motions are looked up, in radii of the ball. */
const CELL_SHARE = 0.25;

/** Cubes share so many slots by a hash of their numbers (Teschner et al. 2003, from memory); what else lies in one is looked at too. */
const SLOTS = 1 << 19;
const slotOf = (i: number, j: number, k: number): number =>
  (Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) & (SLOTS - 1);

/** The balls of a path, swept along its motions at feed, found by the cubes that their middle passes through. */
export class SweptBalls {
  private readonly heads = new Int32Array(SLOTS).fill(-1);
  private next = new Int32Array(1 << 16);
  private motions = new Int32Array(1 << 16);
  private count = 0;

  constructor(
    private readonly path: Motions,
    private readonly radius: number,
    private readonly cell = Math.max(0.2, CELL_SHARE * radius),
    /** From so far inside the part rays begin: the cutter may be in it by this, mm. */
    private readonly below = BELOW_MM,
  ) {
    const { x, y, z, kind } = path;
    for (let k = 1; k < x.length; k++) {
      if (kind[k] === Motion.rapid) continue;
      const length = Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!);
      const n = Math.max(1, Math.ceil((2 * length) / cell));
      let last = -1;
      for (let s = 0; s <= n; s++) {
        const t = s / n;
        const slot = slotOf(
          Math.floor((x[k - 1]! + t * (x[k]! - x[k - 1]!)) / cell),
          Math.floor((y[k - 1]! + t * (y[k]! - y[k - 1]!)) / cell),
          Math.floor((z[k - 1]! + radius + t * (z[k]! - z[k - 1]!)) / cell),
        );
        if (slot !== last) this.put(slot, k);
        last = slot;
      }
    }
  }

  private put(slot: number, motion: number): void {
    if (this.count === this.next.length) {
      const [next, motions] = [new Int32Array(2 * this.count), new Int32Array(2 * this.count)];
      next.set(this.next);
      motions.set(this.motions);
      this.next = next;
      this.motions = motions;
    }
    this.next[this.count] = this.heads[slot]!;
    this.motions[this.count] = motion;
    this.heads[slot] = this.count++;
  }

  /**
   * How far above a place along its normal the first swept ball begins, mm; Infinity when none does within {@link CAP_MM}.
   * Middles are looked for two cubes around that of a ball that touches the place.
   */
  above(p: Touched): number {
    const r = this.radius;
    const i = Math.floor((p.x + r * p.nx) / this.cell);
    const j = Math.floor((p.y + r * p.ny) / this.cell);
    const k = Math.floor((p.z + r * p.nz) / this.cell);
    // the ball that cleared the place had its middle near where it would touch; where it rolled over an edge, farther on
    for (const reach of [1, 3]) {
      let best = CAP_MM;
      for (let di = -reach; di <= reach; di++)
        for (let dj = -reach; dj <= reach; dj++)
          for (let dk = -reach; dk <= reach; dk++)
            for (let e = this.heads[slotOf(i + di, j + dj, k + dk)]!; e >= 0; e = this.next[e]!)
              best = this.into(this.motions[e]!, p, best);
      if (best < CAP_MM) return best;
    }
    return Infinity;
  }

  /**
   * Where the ray along the normal enters the ball swept along a motion: the first of its ends' balls and the cylinder
   * between them; quadratic equations.
   */
  private into(k: number, p: Touched, atMost: number): number {
    const { x, y, z } = this.path;
    const r = this.radius;
    const [ax, ay, az] = [x[k - 1]!, y[k - 1]!, z[k - 1]! + r];
    const [ux, uy, uz] = [x[k]! - ax, y[k]! - ay, z[k]! + r - az];
    const [ox, oy, oz] = [p.x - this.below * p.nx - ax, p.y - this.below * p.ny - ay, p.z - this.below * p.nz - az];
    const uu = ux * ux + uy * uy + uz * uz;
    const best = Math.min(
      atMost,
      intoBall(ox, oy, oz, r, p, this.below),
      intoBall(ox - ux, oy - uy, oz - uz, r, p, this.below),
    );
    if (uu < 1e-18) return best;
    const ou = ox * ux + oy * uy + oz * uz;
    // the ray begins in the cylinder already
    const c = uu * (ox * ox + oy * oy + oz * oz - r * r) - ou * ou;
    if (c <= 0 && ou >= 0 && ou <= uu) return -this.below;
    const nu = p.nx * ux + p.ny * uy + p.nz * uz;
    const a = uu - nu * nu;
    if (a < 1e-15 * uu) return best;
    const b = uu * (ox * p.nx + oy * p.ny + oz * p.nz) - nu * ou;
    const d = b * b - a * c;
    if (d < 0) return best;
    const t = (-b - Math.sqrt(d)) / a;
    const s = ou + t * nu;
    return t >= 0 && s >= 0 && s <= uu ? Math.min(best, t - this.below) : best;
  }
}

/** Where a ray along the normal of a place enters a ball from whose middle it begins at (ox, oy, oz); Infinity if nowhere. */
function intoBall(ox: number, oy: number, oz: number, r: number, p: Touched, below: number): number {
  const c = ox * ox + oy * oy + oz * oz - r * r;
  if (c <= 0) return -below;
  const b = ox * p.nx + oy * p.ny + oz * p.nz;
  const d = b * b - c;
  if (b > 0 || d < 0) return Infinity;
  return -b - Math.sqrt(d) - below;
}
