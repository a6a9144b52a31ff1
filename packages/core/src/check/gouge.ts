import type { Cancel } from '../base/cancel';
import { CutterDrop } from '../tool/drop';
import type { ProfilePiece } from '../tool/profile';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Motions } from '../path/toolpath';

/** A motion that goes below the part, and by how much at most (mm, along Z, with the cutter slimmer by the tolerance). */
export interface Gouge {
  motion: number;
  depth: number;
}

/** Contact is looked at this often along a motion, mm: an upright wall met between two looks is cut into by no more. */
const LOOK_MM = 0.1;
/**
 * Stretches of a motion that are looked at as a whole, mm: a cutter wider by half of one stands in for all places along it.
 * Where that one is clear, nothing is touched anywhere on the stretch; else it is looked at closely.
 */
const STRETCHES_MM = [0.4, 0.8, 1.6, 3.2];
/** Close looks in a row before a stretch is tried again, and clear stretches before a longer one is, where one was not. */
const CLOSE_LOOKS = 16;
const CLEAR_STRETCHES = 6;

/**
 * Looks along motions `span[0]` to `span[1]` (exclusive) for places where a piece of the tool, made smaller by `tolerance`
 * mm all round, would still be inside the part, by exact contact.
 */
export function gougesAlong(
  part: ContactMesh,
  piece: ProfilePiece,
  path: Motions,
  span: readonly [number, number],
  tolerance: number,
  cancel?: Cancel,
): Gouge[] {
  const slim = slimmer(piece, tolerance);
  const grownBy = (by: number): CutterDrop =>
    new CutterDrop(part, { ...slim, flat: slim.flat + by, radius: slim.radius + by });
  const drop = grownBy(0);
  const wide = STRETCHES_MM.map((stretch) => grownBy(stretch / 2));
  const top = part.box.maxZ;
  const gouges: Gouge[] = [];
  const { x, y, z } = path;
  let size = 0;
  let close = 0;
  /** Clear stretches to come before a longer one is tried. */
  let wait = 0;
  for (let i = Math.max(1, span[0]); i < span[1]; i++) {
    if ((i & 63) === 0) cancel?.check();
    if (Math.min(z[i - 1]!, z[i]!) + piece.z >= top) continue;
    const ax = x[i - 1]!;
    const ay = y[i - 1]!;
    // what is smaller all round ends higher up, too
    const az = z[i - 1]! + tolerance;
    const dx = x[i]! - ax;
    const dy = y[i]! - ay;
    const dz = z[i]! + tolerance - az;
    const plan = Math.hypot(dx, dy);
    const steps = Math.max(1, Math.ceil(Math.hypot(plan, dz) / LOOK_MM));
    let depth = 0;
    for (let k = 0; k < steps;) {
      if (close === 0) {
        const ahead = Math.min(steps - k, Math.max(1, Math.floor((STRETCHES_MM[size]! / plan) * steps)));
        const middle = (k + ahead / 2) / steps;
        const low = az + dz * (dz < 0 ? (k + ahead) / steps : k / steps);
        if (ahead > 1 && !wide[size]!.exceeds(ax + middle * dx, ay + middle * dy, low)) {
          k += ahead;
          if (wait > 0) wait--;
          else if (size + 1 < wide.length) size++;
          continue;
        }
        if (ahead > 1 && size > 0) {
          size--;
          wait = CLEAR_STRETCHES;
          continue;
        }
        close = CLOSE_LOOKS;
      }
      close--;
      const t = ++k / steps;
      const tip = az + t * dz;
      const lowest = drop.at(ax + t * dx, ay + t * dy, tip);
      if (lowest - tip > depth) depth = lowest - tip;
    }
    if (depth > 0) gouges.push({ motion: i, depth });
  }
  return gouges;
}

/** A piece smaller by `tolerance` mm all round. */
function slimmer(piece: ProfilePiece, tolerance: number): ProfilePiece {
  if (piece.kind === 'cone') {
    const flat = Math.max(0, piece.flat - tolerance);
    return { ...piece, flat, radius: Math.max(flat, piece.radius - tolerance) };
  }
  const corner = Math.max(0, piece.corner - tolerance);
  const flat = Math.max(0, piece.radius - tolerance - corner);
  return { ...piece, corner, flat, radius: flat + corner };
}
