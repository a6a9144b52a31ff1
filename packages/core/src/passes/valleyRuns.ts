import type { BoundsTest } from '../field/bounds';
import { Buried } from '../field/buried';
import type { TipSurfaceSpec } from '../field/tipSurface';
import type { Valley } from '../field/valleys';
import { touchedFrom, Wanted, type WantedSpec } from '../field/wanted';
import { ClosestPoint } from '../geometry/closest';
import type { HeightMap } from '../steel/heightMap';
import type { ScanRun } from './scan';

/** It is looked at least so often along a way what is wanted, mm. */
const LOOK_MM = 0.5;
/** Gaps in what is wanted up to this are cut as well, mm: at a border it comes and goes. */
const GAP_MM = 1.5;

export interface WayAsk {
  readonly spec: TipSurfaceSpec;
  readonly wanted: WantedSpec;
  readonly bounds: BoundsTest;
  readonly steel: HeightMap;
  readonly mostSteel: number;
  readonly lowest: number;
  /** Shorter pieces are left out, mm. */
  readonly leastLength: number;
}

/** Whether a place of a way is cut, or why not: only what is not wanted may be passed over. */
type Mark = 'yes' | 'no' | 'steel' | 'closed';

/** What of ways of the round's middle is to be cut, as passes of the tip. */
export function wayRuns(ways: readonly Valley[], ask: WayAsk): ScanRun[] {
  const { spec, lowest, leastLength } = ask;
  const nearest = new ClosestPoint(spec.mesh);
  const wanted = new Wanted(ask.wanted, spec.piece, ask.steel);
  const buried = new Buried(ask.steel, spec.piece, ask.mostSteel);
  const look = (x: number, y: number, z: number): Mark => {
    if (z < lowest || (!ask.bounds.none && ask.bounds.forbids(x, y, z))) return 'closed';
    if (buried.at(x, y, z)) return 'steel';
    if (!wanted.everywhere) {
      const touched = touchedFrom(nearest, x, y, z + spec.piece.corner);
      if (!wanted.at(touched, x, y, z)) return 'no';
    }
    return 'yes';
  };
  return ways.flatMap((way, line) => {
    const points = dense(way, spec.piece.corner);
    const marks = points.map(([x, y, z]) => look(x, y, z));
    const isRing = way.isClosed && !marks.every((m) => m === 'yes');
    // the last place of a ring is its first again: told once, unless it is cut all round
    if (isRing) [points, marks].forEach((list) => list.pop());
    bridge(points, marks);
    const runs: ScanRun[] = [];
    // it begins where it is not wanted
    const n = points.length;
    const shift = isRing
      ? Math.max(
          0,
          marks.findIndex((m) => m !== 'yes'),
        )
      : 0;
    let from = -1;
    const at = (k: number): number => (k + shift) % n;
    for (let k = 0; k <= n; k++) {
      const isIn = k < n && marks[at(k)] === 'yes';
      if (isIn && from < 0) from = k;
      if (isIn || from < 0) continue;
      const piece = Array.from({ length: k - from }, (_, s) => points[at(from + s)]!);
      const stopped: [boolean, boolean] = [
        (from > 0 || isRing) && marks[at(from - 1 + n)] === 'steel',
        (k < n || isRing) && marks[at(k)] === 'steel',
      ];
      if (lengthOf(piece) >= leastLength)
        runs.push({ line, points: Float64Array.from(own(piece)), stoppedBySteel: stopped });
      from = -1;
    }
    return runs;
  });
}

/** A place of the tip on a way, and whether it is one of the way's own points. */
type Place = readonly [x: number, y: number, z: number, own: boolean];

function dense({ points: p }: Valley, rise: number): Place[] {
  const n = p.length / 3;
  const out: Place[] = [];
  for (let k = 0; k + 1 < n; k++) {
    const [ax, ay, az] = [p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!];
    const [bx, by, bz] = [p[3 * k + 3]!, p[3 * k + 4]!, p[3 * k + 5]!];
    const pieces = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay, bz - az) / LOOK_MM));
    for (let s = 0; s < pieces; s++) {
      const t = s / pieces;
      out.push([ax + t * (bx - ax), ay + t * (by - ay), az + t * (bz - az) - rise, s === 0]);
    }
  }
  out.push([p[3 * n - 3]!, p[3 * n - 2]!, p[3 * n - 1]! - rise, true]);
  return out;
}

/** Only own points, and both ends. */
function own(piece: readonly Place[]): number[] {
  return piece.filter((p, k) => p[3] || k === 0 || k === piece.length - 1).flatMap(([x, y, z]) => [x, y, z]);
}

function bridge(points: readonly Place[], marks: Mark[]): void {
  let last = -1;
  for (let k = 0; k < marks.length; k++) {
    if (marks[k] === 'steel' || marks[k] === 'closed') last = -1;
    if (marks[k] !== 'yes') continue;
    if (last >= 0 && k - last > 1 && lengthOf(points.slice(last, k + 1)) <= GAP_MM)
      for (let g = last + 1; g < k; g++) marks[g] = 'yes';
    last = k;
  }
}

function lengthOf(points: readonly Place[]): number {
  let length = 0;
  for (let k = 1; k < points.length; k++)
    length += Math.hypot(
      points[k]![0] - points[k - 1]![0],
      points[k]![1] - points[k - 1]![1],
      points[k]![2] - points[k - 1]![2],
    );
  return length;
}
