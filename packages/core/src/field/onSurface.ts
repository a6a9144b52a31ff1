import { ClosestPoint } from '../geometry/closest';
import type { TipSurfaceSpec } from './tipSurface';

/** A place is put at its distance from the part to this, mm, in at most so many looks. */
const PLACE_MM = 2e-5;
const MOST_LOOKS = 5;

/** Puts places at the distance from the part at which the middle of a cutter's round touches it, by its nearest place. */
export class OnSurface {
  /** Middle of the round of the last place, mm, and the part's unit normal towards it. */
  x = 0;
  y = 0;
  z = 0;
  nx = 0;
  ny = 0;
  nz = 1;
  /** Radius of the round with its allowance, mm. */
  readonly reach: number;
  /** So much higher the tip surface lies than the round touches, where the allowance on floors is another one, mm. */
  private readonly lift: number;
  private readonly nearest: ClosestPoint;

  constructor(spec: TipSurfaceSpec) {
    this.nearest = new ClosestPoint(spec.mesh);
    this.reach = spec.piece.corner + spec.side;
    this.lift = spec.floor - spec.side;
  }

  /** Puts (x, y, z) on to the surface; gives how far it was off at the last look, mm: large in a valley between two sides. */
  put(x: number, y: number, z: number, looks = MOST_LOOKS): number {
    const { nearest, reach, lift } = this;
    let off = Infinity;
    for (let k = 0; k < looks && off > PLACE_MM; k++) {
      const d = Math.max(nearest.distance(x, y, z - lift), 1e-9);
      off = Math.abs(d - reach);
      this.nx = (x - nearest.x) / d;
      this.ny = (y - nearest.y) / d;
      this.nz = (z - lift - nearest.z) / d;
      x = nearest.x + reach * this.nx;
      y = nearest.y + reach * this.ny;
      z = nearest.z + reach * this.nz + lift;
    }
    this.x = x;
    this.y = y;
    this.z = z;
    return off;
  }
}
