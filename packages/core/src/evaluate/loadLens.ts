import { sharedFloat32 } from '../base/shared';
import { LoadAlong, type LoadQuantity } from '../load/loadAlong';
import { effectiveDiameter } from '../load/quantities';
import type { HeightMap } from '../steel/heightMap';
import type { StepResult } from './result';
import type { Snapshot, SnapshotStep } from './snapshot';
import { conditionsOf } from './stepLoads';

/** Cells this near to the rim of the cutter are met there, in cells. */
const RIM_CELLS = 0.75;

/**
 * The largest load at which steel was taken over each cell of a map, by a step up to and with a motion; NaN where the step took
 * none.
 */
export function loadField(
  snapshot: Snapshot,
  at: SnapshotStep,
  { engagement, path }: StepResult,
  map: HeightMap,
  lastMotion: number,
  quantity: LoadQuantity,
): Float32Array {
  const { x, y, feed } = path;
  const { motion, share, length, depth } = engagement;
  const along = new LoadAlong(engagement, conditionsOf(snapshot, at));
  const { DC, RE } = at.shape;
  const field = sharedFloat32(map.heights.length).fill(NaN);
  for (let k = 0; k < motion.length; k++) {
    const i = motion[k]!;
    if (i > lastMotion) break;
    const end = [x[i - 1]! + share[k]! * (x[i]! - x[i - 1]!), y[i - 1]! + share[k]! * (y[i]! - y[i - 1]!)] as const;
    paint(
      map,
      field,
      placeBefore(path, i, end, length[k]!),
      end,
      effectiveDiameter(DC, RE, depth[k]!) / 2,
      along.at(k, feed[i]!)[quantity],
    );
  }
  return field;
}

type Place = readonly [x: number, y: number];

/** The place so many mm before another one in plan, which lies on motion i; a rapid ends the search. */
function placeBefore({ x, y, z, kind }: StepResult['path'], i: number, from: Place, length: number): Place {
  let [px, py] = from;
  let left = length;
  for (let m = i; m > 0 && kind[m] !== 0; m--) {
    const [dx, dy] = [x[m - 1]! - px, y[m - 1]! - py];
    const way = m === i ? Math.hypot(dx, dy) : Math.hypot(dx, dy, z[m - 1]! - z[m]!);
    if (way >= left) return [px + (dx * left) / way, py + (dy * left) / way];
    [px, py] = [x[m - 1]!, y[m - 1]!];
    left -= way;
  }
  return [px, py];
}

/** Marks the cells that a disc meets on its way between two places. */
function paint(map: HeightMap, field: Float32Array, a: Place, b: Place, radius: number, value: number): void {
  const { x0, y0, cell, nx, ny } = map;
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const way2 = dx * dx + dy * dy;
  const inner = way2 > (RIM_CELLS * cell) ** 2 ? Math.max(0, radius - RIM_CELLS * cell) ** 2 : 0;
  const i0 = Math.max(0, Math.ceil((Math.min(a[0], b[0]) - radius - x0) / cell - 0.5));
  const i1 = Math.min(nx - 1, Math.floor((Math.max(a[0], b[0]) + radius - x0) / cell - 0.5));
  const j0 = Math.max(0, Math.ceil((Math.min(a[1], b[1]) - radius - y0) / cell - 0.5));
  const j1 = Math.min(ny - 1, Math.floor((Math.max(a[1], b[1]) + radius - y0) / cell - 0.5));
  for (let j = j0; j <= j1; j++)
    for (let i = i0; i <= i1; i++) {
      const [px, py] = [x0 + (i + 0.5) * cell - a[0], y0 + (j + 0.5) * cell - a[1]];
      if (px * px + py * py < inner) continue;
      const t = way2 > 0 ? Math.max(0, Math.min(1, (px * dx + py * dy) / way2)) : 0;
      if ((px - t * dx) ** 2 + (py - t * dy) ** 2 > radius * radius) continue;
      const o = j * nx + i;
      if (!(field[o]! >= value)) field[o] = value;
    }
}
