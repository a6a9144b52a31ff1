import type { Growing } from '../link/workspace';
import { Motion } from '../path/toolpath';
import type { ScanRun, SurfaceFollower } from './scan';

/** Passes in the order in which they are cut, and the path that cuts them. */
export interface GrownPasses extends Growing {
  /** The passes as they are cut, in their order. */
  readonly cut: readonly CutPass[];
}

export interface CutPass {
  readonly run: ScanRun;
  /** Its points in the order of the cut. */
  readonly points: Float64Array;
  /** The first motion of the way to it, and the one that cuts to the second of its points. */
  readonly way: number;
  readonly from: number;
}

/**
 * Cuts the runs line by line, linking to a near end over the surface, else crossing above the steel.
 *
 * @param near a run is reached over the surface when its start is nearer than this, mm
 * @param gap in place of that, where it was set: farther ones are reached where nothing stands in the way
 */
export function cutRuns(
  runs: readonly ScanRun[],
  bothWays: boolean,
  near: number,
  growing: Growing,
  follower: SurfaceFollower,
  gap = near,
): GrownPasses {
  const { path, travel } = growing;
  const cut: CutPass[] = [];
  const byLine = new Map<number, ScanRun[]>();
  for (const run of runs) byLine.set(run.line, [...(byLine.get(run.line) ?? []), run]);
  let open = runs.length;
  let line = runs[0]?.line ?? 0;
  while (open > 0) {
    const at = path.last;
    const next = at ? nearestRun(byLine, line, at, bothWays) : { run: runs[0]!, turned: false, distance: Infinity };
    const rest = byLine.get(next.run.line)!;
    rest.splice(rest.indexOf(next.run), 1);
    if (rest.length === 0) byLine.delete(next.run.line);
    open--;
    line = next.run.line;
    const p = next.turned ? turned(next.run.points) : next.run.points;
    const begins = path.length;
    const isNear = next.distance < gap && !next.run.fromAbove;
    const way = at && isNear ? follower.over(at[0], at[1], at[2], p[0]!, p[1]!, p[2]!) : undefined;
    if (at && way && follower.isOpen(way) && (next.distance < near || follower.isClear([...at, ...way]))) {
      // a long way may lead over ground that is not cut yet: at the feed of a cut
      const kind = next.distance < near ? Motion.link : Motion.cut;
      for (let k = 0; k < way.length; k += 3) path.to(way[k]!, way[k + 1]!, way[k + 2]!, kind);
    } else {
      travel.crossTo(p[0]!, p[1]!, p[2]!);
      path.to(p[0]!, p[1]!, p[2]!, Motion.entry);
    }
    cut.push({ run: next.run, points: p, way: begins, from: path.length });
    for (let k = 3; k < p.length; k += 3) path.to(p[k]!, p[k + 1]!, p[k + 2]!, Motion.cut);
    if (next.run.leavesAtFeed) travel.riseAtFeed();
  }
  return { ...growing, cut };
}

/** The open run whose start is nearest, looking at the lines beside the present one first. */
function nearestRun(
  byLine: Map<number, ScanRun[]>,
  line: number,
  at: readonly [number, number, number],
  bothWays: boolean,
): { run: ScanRun; turned: boolean; distance: number } {
  let best: { run: ScanRun; turned: boolean; distance: number } | undefined;
  let score = Infinity;
  for (const [number, runs] of byLine)
    for (const run of runs) {
      const n = run.points.length;
      const starts: [number, boolean][] =
        bothWays && !run.oneWay
          ? [
              [0, false],
              [n - 3, true],
            ]
          : [[0, false]];
      for (const [o, isTurned] of starts) {
        const distance = Math.hypot(run.points[o]! - at[0], run.points[o + 1]! - at[1]);
        // lines left behind come first, so that no strip stays alone in finished ground
        const weighted = distance + (number < line ? 0 : 1e-6);
        if (weighted < score) {
          score = weighted;
          best = { run, turned: isTurned, distance };
        }
      }
    }
  return best!;
}

export function turned(points: Float64Array): Float64Array {
  const out = new Float64Array(points.length);
  for (let k = 0; k < points.length; k += 3) out.set(points.subarray(points.length - 3 - k, points.length - k), k);
  return out;
}

/** Whether a pass ends where it begins. */
export function isClosed({ points }: ScanRun): boolean {
  const o = points.length - 3;
  return points.length > 6 && points[0] === points[o] && points[1] === points[o + 1] && points[2] === points[o + 2];
}
