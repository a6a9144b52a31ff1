import { CutterDrop } from '../cutter/drop';
import type { ProfilePiece } from '../cutter/profile';
import type { ContactMesh } from '../geometry/contactMesh';
import type { Toolpath } from '../path/toolpath';

/** A motion that goes below the part, and by how much at most (mm, along Z, with the cutter slimmer by the tolerance). */
export interface Gouge {
  motion: number;
  depth: number;
}

/** Contact is looked at this often along a motion, mm: an upright wall met between two looks is cut into by no more. */
const LOOK_MM = 0.1;

/**
 * Looks along motions `span[0]` to `span[1]` (exclusive) for places where the cutter, made smaller by `tolerance` mm all
 * round, would still be inside the part, by exact contact.
 */
export function gougesAlong(
  part: ContactMesh,
  piece: ProfilePiece & { kind: 'round' },
  path: Toolpath,
  span: readonly [number, number],
  tolerance: number,
  cancel?: { check(): void },
): Gouge[] {
  const corner = Math.max(0, piece.corner - tolerance);
  const flat = Math.max(0, piece.radius - tolerance - corner);
  const drop = new CutterDrop(part, { kind: 'round', z: 0, flat, corner, radius: flat + corner });
  // a smaller corner about the same centre lifts the tip by what it lost
  const lift = piece.corner > 0 ? piece.corner - corner : tolerance;
  const gouges: Gouge[] = [];
  const { x, y, z } = path;
  for (let i = Math.max(1, span[0]); i < span[1]; i++) {
    if ((i & 63) === 0) cancel?.check();
    const dx = x[i]! - x[i - 1]!;
    const dy = y[i]! - y[i - 1]!;
    const dz = z[i]! - z[i - 1]!;
    const steps = Math.max(1, Math.ceil(Math.hypot(dx, dy, dz) / LOOK_MM));
    let depth = 0;
    for (let k = 1; k <= steps; k++) {
      const t = k / steps;
      const tip = z[i - 1]! + t * dz + lift;
      const lowest = drop.at(x[i - 1]! + t * dx, y[i - 1]! + t * dy, tip);
      if (lowest - tip > depth) depth = lowest - tip;
    }
    if (depth > 0) gouges.push({ motion: i, depth });
  }
  return gouges;
}
