import { turned } from '../order';
import type { ScanRun } from '../scan';
import type { Place } from './rolling';
import type { SurfaceLink } from './surfaceLink';

/**
 * Passes with short lines beside them taken in: the cutter leaves its pass where it is nearest, cuts the line and comes back over
 * the surface. Without that each of them would be a lift.
 *
 * @param shorts lines of the tip, and the pass beside each
 * @param near no farther from the pass, mm
 * @returns the passes, and the lines to which no way led
 */
export function withDetours(
  runs: readonly ScanRun[],
  shorts: readonly { readonly points: Float64Array; readonly beside: number }[],
  near: number,
  link: SurfaceLink,
): { runs: ScanRun[]; left: number[] } {
  const byLine = new Map<number, number[]>();
  runs.forEach(({ line }, k) => byLine.set(line, [...(byLine.get(line) ?? []), k]));
  const taken: { k: number; points: number[] }[][] = runs.map(() => []);
  const left: number[] = [];
  const placeAt = (p: ArrayLike<number>, o: number): Place => [p[o]!, p[o + 1]!, p[o + 2]!];
  shorts.forEach(({ points, beside }, number) => {
    const found = nearestPoint(runs, byLine.get(beside) ?? [], points);
    if (!found || found.distance > near) {
      left.push(number);
      return;
    }
    const { run, k, end } = found;
    const from = placeAt(runs[run]!.points, 3 * k);
    const way = end === 0 ? points : turned(points);
    const last = way.length - 3;
    const there = link.over(from, placeAt(way, 0));
    const back = link.over(placeAt(way, last), from);
    if (!there || !back) {
      left.push(number);
      return;
    }
    taken[run]!.push({ k, points: [...there.flat(), ...way.subarray(3), ...back.flat()] });
  });
  return { runs: runs.map((run, r) => spliced(run, taken[r]!)), left };
}

function spliced(run: ScanRun, detours: { k: number; points: number[] }[]): ScanRun {
  if (detours.length === 0) return run;
  const sorted = [...detours].sort((a, b) => a.k - b.k);
  const out: number[] = [];
  let from = 0;
  for (const { k, points } of sorted) {
    for (; from <= 3 * k; from += 3) out.push(run.points[from]!, run.points[from + 1]!, run.points[from + 2]!);
    // the way back ends exactly where it began
    out.push(...points.slice(0, -3), ...run.points.subarray(3 * k, 3 * k + 3));
  }
  out.push(...run.points.subarray(from));
  return { ...run, points: Float64Array.from(out) };
}

/** The point of some passes that is nearest to either end of a line. */
function nearestPoint(
  runs: readonly ScanRun[],
  of: readonly number[],
  line: Float64Array,
): { run: number; k: number; end: 0 | 1; distance: number } | undefined {
  let best: { run: number; k: number; end: 0 | 1; distance: number } | undefined;
  const last = line.length - 3;
  for (const run of of) {
    const { points } = runs[run]!;
    for (let o = 0; o < points.length; o += 3)
      for (const end of [0, 1] as const) {
        const e = end * last;
        const distance = Math.hypot(
          points[o]! - line[e]!,
          points[o + 1]! - line[e + 1]!,
          points[o + 2]! - line[e + 2]!,
        );
        if (!best || distance < best.distance) best = { run, k: o / 3, end, distance };
      }
  }
  return best;
}
