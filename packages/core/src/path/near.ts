import { Motion, type Motions } from './toolpath';

/** The motion at feed that passes nearest to a place; 0 where there is none. */
export function motionNear(
  { x, y, z, kind }: Motions,
  place: { readonly x: number; readonly y: number; readonly z: number },
): number {
  let best = 0;
  let nearest = Infinity;
  for (let k = 1; k < x.length; k++) {
    if (kind[k] === Motion.rapid) continue;
    const [dx, dy, dz] = [x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!];
    const [px, py, pz] = [place.x - x[k - 1]!, place.y - y[k - 1]!, place.z - z[k - 1]!];
    const length2 = dx * dx + dy * dy + dz * dz;
    const t = length2 > 0 ? Math.max(0, Math.min(1, (px * dx + py * dy + pz * dz) / length2)) : 0;
    const distance = Math.hypot(px - t * dx, py - t * dy, pz - t * dz);
    if (distance >= nearest) continue;
    nearest = distance;
    best = k;
  }
  return best;
}
