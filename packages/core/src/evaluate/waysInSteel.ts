import { sharedUint8 } from '../base/shared';
import { Motion, type Motions } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';

/** Steel that a motion takes of less than this cross-section is none, mm². */
const LEAST_TAKEN_MM2 = 0.02;

/** A path whose ways through air are fed fast: those that take steel all the same, if only a sliver, are cuts. */
export function withCutsForWays(path: Motions, removed: Float32Array, engagement: Engagement): Motions {
  const { x, y, z, kind } = path;
  const told = sharedUint8(kind.length);
  told.set(kind);
  for (let k = 1; k < kind.length; k++) {
    const length = Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!);
    if (kind[k] === Motion.link && removed[k]! > LEAST_TAKEN_MM2 * length) told[k] = Motion.cut;
  }
  // a stretch of the load that takes some is fed as one
  const { motion, length, area } = engagement;
  for (let s = 0; s < motion.length; s++) {
    let left = area[s]! > LEAST_TAKEN_MM2 ? length[s]! : 0;
    for (let k = motion[s]!; left > 0 && kind[k] === Motion.link; k--) {
      told[k] = Motion.cut;
      left -= Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!);
    }
  }
  return { ...path, kind: told };
}
