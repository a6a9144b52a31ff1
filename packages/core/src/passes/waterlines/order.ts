import { type Growing } from '../../link/workspace';
import { Motion } from '../../path/toolpath';
import { type CutPass, type GrownPasses, isClosed, turned } from '../order';
import type { ScanRun, SurfaceFollower } from '../scan';

/** Heights below the present one on which the next pass of the same wall is looked for. */
const HEIGHTS_ON = 12;
/** A way across a gap rises by no more than this, mm. */
const LEVEL_MM = 0.02;

/** Where a pass can begin: at an end, or, of a closed one, anywhere. */
interface Beginning {
  readonly run: ScanRun;
  /** The point of it, and whether it is cut from its end. */
  readonly k: number;
  readonly isTurned: boolean;
  readonly distance: number;
}

/** How passes are reached, mm. */
export interface Reaching {
  /** A pass is reached over the surface when it is nearer than this in plan. */
  readonly near: number;
  /** A gap in a line as wide as this is crossed at its height, where nothing stands in the way. */
  readonly gap: number;
  /** Closed passes go on past their beginning by this. */
  readonly overlap: number;
  /** A closed pass below another one is come to along the wall at this angle, rad; undefined: straight down it. */
  readonly rampAngle: number | undefined;
}

/**
 * Cuts passes wall by wall from the top down: the next one is that of the same wall at the next height, reached over the
 * surface when it is near; where there is none, the highest that is left.
 */
export function cutDown(
  runs: readonly ScanRun[],
  bothWays: boolean,
  { near, gap, overlap, rampAngle }: Reaching,
  growing: Growing,
  follower: SurfaceFollower,
): GrownPasses {
  const { path, travel } = growing;
  const cut: CutPass[] = [];
  const byHeight = new Map<number, ScanRun[]>();
  for (const run of runs) byHeight.set(run.line, [...(byHeight.get(run.line) ?? []), run]);
  const heights = [...byHeight.keys()].sort((a, b) => a - b);
  let open = runs.length;
  let line = heights[0] ?? 0;
  while (open > 0) {
    const at = path.last;
    const over = at && acrossGap(byHeight.get(line)!, at, gap, bothWays, follower);
    const next = over?.begins ?? (at && nextBelow(byHeight, heights, line, at, near, bothWays));
    const begins = next ?? highest(byHeight, heights, at, bothWays);
    const rest = byHeight.get(begins.run.line)!;
    rest.splice(rest.indexOf(begins.run), 1);
    open--;
    line = begins.run.line;
    const before = cut.at(-1);
    const ramp =
      at && next && rampAngle !== undefined && before && !begins.run.fromAbove
        ? rampTo(before.run, begins, at, rampAngle, follower)
        : undefined;
    const p = ramp?.points(overlap) ?? pointsFrom(begins, overlap);
    const first = path.length;
    const way =
      ramp?.way ??
      (at && next && !begins.run.fromAbove ? follower.over(at[0], at[1], at[2], p[0]!, p[1]!, p[2]!) : undefined);
    if (over && !begins.run.fromAbove) {
      // it may still meet some steel: at the feed of a cut
      for (let k = 0; k < over.way.length; k += 3)
        path.to(over.way[k]!, over.way[k + 1]!, over.way[k + 2]!, Motion.cut);
    } else if (way && follower.isOpen(way)) {
      // on its way down the wall it cuts
      const kind = ramp ? Motion.cut : Motion.link;
      for (let k = 0; k < way.length; k += 3) path.to(way[k]!, way[k + 1]!, way[k + 2]!, kind);
    } else {
      travel.crossTo(p[0]!, p[1]!, p[2]!);
      path.to(p[0]!, p[1]!, p[2]!, Motion.entry);
    }
    cut.push({ run: begins.run, points: p, way: first, from: path.length });
    for (let k = 3; k < p.length; k += 3) path.to(p[k]!, p[k + 1]!, p[k + 2]!, Motion.cut);
    if (begins.run.leavesAtFeed) travel.riseAtFeed();
  }
  return { ...growing, cut };
}

/**
 * The way from a closed pass to the one below it: along the lower one, coming over from the upper, as far as the angle wants.
 * The lower one is then cut from where the way ends. Undefined where it would not go round it but once.
 */
function rampTo(
  upper: ScanRun,
  begins: Beginning,
  at: readonly [number, number, number],
  angle: number,
  follower: SurfaceFollower,
): { way: number[]; points: (overlap: number) => Float64Array } | undefined {
  if (!isClosed(upper) || !isClosed(begins.run)) return undefined;
  const { points } = begins.run;
  const n = points.length / 3 - 1;
  const drop = at[2] - points[2]!;
  if (!(drop > LEVEL_MM)) return undefined;
  const length = drop / Math.tan(angle);
  const way: number[] = [];
  let [x, y, z] = at;
  let gone = 0;
  let k = begins.k;
  let before: readonly [number, number] = [x, y];
  for (let s = 0; gone < length; s++) {
    if (s >= n / 2) return undefined;
    const [a, b] = [3 * ((begins.k + s) % n), 3 * ((begins.k + s + 1) % n)];
    const [bx, by] = [points[b]!, points[b + 1]!];
    const above = nearestOnRing(upper.points, bx, by);
    // the shorter of both ways counts; the first begins where the tool stands, not at a point of the lower one
    const onUpper = Math.hypot(above[0] - before[0], above[1] - before[1]);
    gone += s === 0 ? onUpper : Math.min(onUpper, Math.hypot(bx - points[a]!, by - points[a + 1]!));
    before = above;
    const share = Math.min(1, gone / length);
    const [tx, ty] = [above[0] + share * (bx - above[0]), above[1] + share * (by - above[1])];
    const own = at[2] - share * drop;
    // over a bend, or an edge that it rolls over, the line between both lies too low
    const tz = share < 1 ? Math.max(own, follower.slim.at(tx, ty)) : own;
    way.push(...follower.over(x, y, z, tx, ty, tz, follower.slim));
    [x, y, z] = [tx, ty, tz];
    k = (begins.k + s + 1) % n;
  }
  // between the chords of two bent walls it may not fit: then it is no way down
  for (let o = 2; o < way.length; o += 3) if (way[o]! > at[2] + LEVEL_MM) return undefined;
  return { way, points: (overlap) => pointsFrom({ ...begins, k }, overlap) };
}

/** The place of a ring that is nearest in plan, mm. */
function nearestOnRing(points: Float64Array, x: number, y: number): [number, number] {
  let best: [number, number] = [points[0]!, points[1]!];
  let least = Infinity;
  for (let o = 3; o < points.length; o += 3) {
    const [ax, ay] = [points[o - 3]!, points[o - 2]!];
    const [dx, dy] = [points[o]! - ax, points[o + 1]! - ay];
    const square = dx * dx + dy * dy;
    const t = square > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / square)) : 0;
    const [px, py] = [ax + t * dx, ay + t * dy];
    const distance = Math.hypot(px - x, py - y);
    if (distance < least) {
      least = distance;
      best = [px, py];
    }
  }
  return best;
}

/** The next pass of the same height beyond a gap, and the way to it, which stays at that height. */
function acrossGap(
  runs: readonly ScanRun[],
  at: readonly [number, number, number],
  gap: number,
  bothWays: boolean,
  follower: SurfaceFollower,
): { begins: Beginning; way: number[] } | undefined {
  const begins = nearest(runs, at, bothWays);
  if (!begins || begins.distance > gap || isClosed(begins.run) || begins.run.fromAbove) return undefined;
  const p = pointsFrom(begins, 0);
  if (Math.abs(p[2]! - at[2]) > LEVEL_MM) return undefined;
  const way = follower.over(at[0], at[1], at[2], p[0]!, p[1]!, p[2]!);
  for (let k = 2; k < way.length; k += 3) if (way[k]! > p[2]! + LEVEL_MM) return undefined;
  return follower.isOpen(way) && follower.isClear([...at, ...way]) ? { begins, way } : undefined;
}

function nextBelow(
  byHeight: ReadonlyMap<number, readonly ScanRun[]>,
  heights: readonly number[],
  line: number,
  at: readonly [number, number, number],
  near: number,
  bothWays: boolean,
): Beginning | undefined {
  const place = heights.indexOf(line);
  for (let h = place; h < Math.min(heights.length, place + HEIGHTS_ON); h++) {
    const best = nearest(byHeight.get(heights[h]!)!, at, bothWays);
    if (best && best.distance < near) return best;
  }
  return undefined;
}

/** The nearest of the highest passes that are left. */
function highest(
  byHeight: ReadonlyMap<number, readonly ScanRun[]>,
  heights: readonly number[],
  at: readonly [number, number, number] | undefined,
  bothWays: boolean,
): Beginning {
  for (const h of heights) {
    const runs = byHeight.get(h)!;
    if (runs.length > 0)
      return (at && nearest(runs, at, bothWays)) ?? { run: runs[0]!, k: 0, isTurned: false, distance: Infinity };
  }
  throw new RangeError('no pass is left');
}

function nearest(
  runs: readonly ScanRun[],
  at: readonly [number, number, number],
  bothWays: boolean,
): Beginning | undefined {
  let best: Beginning | undefined;
  for (const run of runs) {
    const n = run.points.length / 3;
    const last = n - 1;
    const candidates = isClosed(run)
      ? Array.from({ length: last }, (_, k) => k)
      : bothWays && !run.oneWay
        ? [0, last]
        : [0];
    for (const k of candidates) {
      const distance = Math.hypot(run.points[3 * k]! - at[0], run.points[3 * k + 1]! - at[1]);
      if (!best || distance < best.distance)
        best = { run, k, isTurned: !isClosed(run) && k === last && k > 0, distance };
    }
  }
  return best;
}

/** Points of a pass in the order of the cut; a closed one begins at the chosen point and goes on past it. */
function pointsFrom({ run, k, isTurned }: Beginning, overlap: number): Float64Array {
  const { points } = run;
  if (isTurned) return turned(points);
  if (!isClosed(run)) return points;
  const ring = points.length / 3 - 1;
  const out: number[] = [];
  const put = (i: number): void => {
    const o = 3 * ((k + i) % ring);
    out.push(points[o]!, points[o + 1]!, points[o + 2]!);
  };
  for (let i = 0; i <= ring; i++) put(i);
  let left = overlap;
  for (let i = 1; i < ring && left > 1e-6; i++) {
    const [a, b] = [3 * ((k + i - 1) % ring), 3 * ((k + i) % ring)];
    const length = Math.hypot(points[b]! - points[a]!, points[b + 1]! - points[a + 1]!);
    const t = Math.min(1, left / Math.max(length, 1e-12));
    out.push(
      points[a]! + t * (points[b]! - points[a]!),
      points[a + 1]! + t * (points[b + 1]! - points[a + 1]!),
      points[a + 2]!,
    );
    left -= length;
  }
  return Float64Array.from(out);
}
