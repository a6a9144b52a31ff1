import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Touched } from './touched';

/** A cutter touches what it is no farther from than this, mm. */
const TOUCH_MM = 1e-3;
/** A place this near to other faces lies on the border of its own, mm. */
const ON_BORDER_MM = 1e-3;
/** What rounding may take of a distance that is asked for no farther than this, mm. */
const ROUNDING_MM = 1e-9;
/** On a border a cutter that leans by more than this from its own face (cosine) rolls over to the next one. */
const ROLLS_COS = Math.cos((1 * Math.PI) / 180);

/** Faces of the part by which a finishing step is held, as meshes of their own in the frame of the work zero. */
export interface FaceLimits {
  /** Only where the cutter touches `own`; `others` is the rest of the part. */
  readonly only?: { readonly own: ContactMesh; readonly others: ContactMesh | undefined } | undefined;
  /** The cutter stays so far away from these, mm. */
  readonly clear: readonly { readonly mesh: ContactMesh; readonly distance: number }[];
}

/** Tells which places of the part a step is to cut that is held by faces. */
export class FaceTest {
  private readonly own: ClosestPoint | undefined;
  private readonly others: ClosestPoint | undefined;
  private readonly clear: readonly { readonly nearest: ClosestPoint; readonly least: number }[];

  /** @param round radius at which the cutter's corner touches the part: with its allowance, mm */
  constructor(
    private readonly limits: FaceLimits,
    private readonly round: number,
  ) {
    const { only, clear } = limits;
    this.own = only && new ClosestPoint(only.own);
    this.others = only?.others && new ClosestPoint(only.others);
    this.clear = clear.map(({ mesh, distance }) => ({
      nearest: new ClosestPoint(mesh),
      least: round + distance - TOUCH_MM,
    }));
  }

  /** Whether the cutter may touch the part at a place, and that place is one of those that are asked for. */
  at({ x, y, z, nx, ny, nz }: Touched): boolean {
    const { round } = this;
    const [cx, cy, cz] = [x + round * nx, y + round * ny, z + round * nz];
    if (this.clear.some(({ nearest, least }) => nearest.distance(cx, cy, cz, least) < least - ROUNDING_MM))
      return false;
    if (!this.own) return true;
    const near = round + TOUCH_MM;
    const distance = this.own.distance(cx, cy, cz, near);
    if (distance >= near - ROUNDING_MM) return false;
    if (!this.others) return true;
    const { x: px, y: py, z: pz, last } = this.own;
    if (this.others.distance(px, py, pz, ON_BORDER_MM) >= ON_BORDER_MM - ROUNDING_MM) return true;
    const [fx, fy, fz] = outward(this.limits.only!.own, last);
    return (cx - px) * fx + (cy - py) * fy + (cz - pz) * fz >= ROLLS_COS * distance;
  }
}

/** Outward unit normal of a triangle. */
function outward({ triangles: t }: ContactMesh, i: number): [number, number, number] {
  const o = 9 * i;
  const [ux, uy, uz] = [t[o + 3]! - t[o]!, t[o + 4]! - t[o + 1]!, t[o + 5]! - t[o + 2]!];
  const [vx, vy, vz] = [t[o + 6]! - t[o]!, t[o + 7]! - t[o + 1]!, t[o + 8]! - t[o + 2]!];
  const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
  const l = Math.hypot(...n) || 1;
  return [n[0] / l, n[1] / l, n[2] / l];
}
