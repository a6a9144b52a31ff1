import { Motion, type Toolpath } from '../src/path/toolpath';

/** What a path meets, in mm of its cutting motions by engagement angle. */
export interface MeasuredLoad {
  /** Length in steel, mm. */
  readonly inSteel: number;
  /** Of that above an angle, mm. */
  readonly above: (angle: number) => number;
  /** Largest angle, rad. */
  readonly most: number;
  /** Steel that links went through, as mm of their length. */
  readonly linksInSteel: number;
}

/** Steel lower than this over the tip is none, mm. */
const THIN_MM = 0.05;
/** Places are looked at this far apart along a path, mm. */
const LOOK_MM = 0.4;

/**
 * The engagement angle along a path, measured on a bitmap of heights that knows nothing of how the path was made: over which
 * angle the front half of a flat cutter's rim meets standing cells, ahead of each short piece, before it is taken off.
 *
 * @param top height of the block's top, over [minX, minY, maxX, maxY]
 */
export function measuredLoad(
  path: Toolpath,
  radius: number,
  top: number,
  [minX, minY, maxX, maxY]: readonly [number, number, number, number],
  cell = 0.1,
): MeasuredLoad {
  const nx = Math.ceil((maxX - minX) / cell);
  const ny = Math.ceil((maxY - minY) / cell);
  const heights = new Float32Array(nx * ny).fill(top);
  const at = (x: number, y: number): number => {
    const i = Math.floor((x - minX) / cell);
    const j = Math.floor((y - minY) / cell);
    return i < 0 || j < 0 || i >= nx || j >= ny ? -Infinity : heights[j * nx + i]!;
  };
  const clear = (x: number, y: number, z: number): void => {
    const i1 = Math.min(nx - 1, Math.floor((x + radius - minX) / cell));
    const j1 = Math.min(ny - 1, Math.floor((y + radius - minY) / cell));
    for (let j = Math.max(0, Math.floor((y - radius - minY) / cell)); j <= j1; j++) {
      const dy = minY + (j + 0.5) * cell - y;
      for (let i = Math.max(0, Math.floor((x - radius - minX) / cell)); i <= i1; i++) {
        const dx = minX + (i + 0.5) * cell - x;
        if (dx * dx + dy * dy <= radius * radius && heights[j * nx + i]! > z) heights[j * nx + i] = z;
      }
    }
  };
  // half a cell's diagonal inside the rim: what stands there was not passed by the rim before
  const rim = radius - cell * Math.SQRT1_2;
  const LOOKS = 90;
  const angles: { angle: number; length: number }[] = [];
  let linksInSteel = 0;
  for (let k = 1; k < path.x.length; k++) {
    const [ax, ay, az] = [path.x[k - 1]!, path.y[k - 1]!, path.z[k - 1]!];
    const [dx, dy, dz] = [path.x[k]! - ax, path.y[k]! - ay, path.z[k]! - az];
    const length = Math.hypot(dx, dy);
    const kind = path.kind[k]!;
    if (kind === Motion.rapid) continue;
    const n = Math.max(1, Math.ceil(length / LOOK_MM));
    const heading = Math.atan2(dy, dx);
    for (let s = 1; s <= n; s++) {
      const [x, y, z] = [ax + (dx * s) / n, ay + (dy * s) / n, az + (dz * s) / n];
      if (length > 0 && kind !== Motion.entry) {
        let met = 0;
        for (let a = 0; a < LOOKS; a++) {
          const angle = heading - Math.PI / 2 + (Math.PI * (a + 0.5)) / LOOKS;
          if (at(x + rim * Math.cos(angle), y + rim * Math.sin(angle)) > z + THIN_MM) met++;
        }
        if (kind === Motion.link) linksInSteel += met > 1 ? length / n : 0;
        else if (met > 1) angles.push({ angle: (met * Math.PI) / LOOKS, length: length / n });
      }
      clear(x, y, z);
    }
  }
  return {
    inSteel: angles.reduce((sum, { length }) => sum + length, 0),
    above: (limit) => angles.reduce((sum, { angle, length }) => sum + (angle > limit ? length : 0), 0),
    most: angles.reduce((most, { angle }) => Math.max(most, angle), 0),
    linksInSteel,
  };
}
