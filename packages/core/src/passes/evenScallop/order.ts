import type { TipSurfaceSpec } from '../../field/tipSurface';
import type { BoundsTest } from '../../field/bounds';
import type { Growing } from '../../link/workspace';
import { Motion } from '../../path/toolpath';
import { type CutPass, type GrownPasses, turned } from '../order';
import type { ScanRun } from '../scan';
import { type Place, Rolling } from './rolling';

export interface EvenOrder {
  /** For each line the one beside it from which its front came; -1: none. */
  readonly parents: readonly number[];
  /** Whether lines without a parent come first. */
  readonly isInward: boolean;
  /** A line is reached over the surface when it is nearer than this, mm. */
  readonly near: number;
  readonly spec: TipSurfaceSpec;
  readonly bounds: BoundsTest;
  readonly tolerance: number;
}

/** Cuts lines one after another: from each on to those whose fronts came from it, the nearest first. */
export function cutEven(runs: readonly ScanRun[], order: EvenOrder, growing: Growing): GrownPasses {
  const { path, travel } = growing;
  const { parents, isInward, near } = order;
  const of = new Map<number, ScanRun[]>();
  for (const run of runs) of.set(run.line, [...(of.get(run.line) ?? []), run]);
  const children: number[][] = parents.map(() => []);
  const roots: number[] = [];
  parents.forEach((parent, k) => (parent < 0 ? roots : children[parent]!).push(k));
  const cut: CutPass[] = [];
  const rolling = new Rolling(order.spec, order.tolerance);
  const rise = order.spec.piece.corner;
  /** Over the surface from one place of the tip to another. */
  const over = (a: Place, b: Place): Place[] | undefined => {
    const way = rolling.over([a[0], a[1], a[2] + rise], [b[0], b[1], b[2] + rise]);
    const tips = way?.map(([x, y, z]): Place => [x, y, z - rise]);
    return tips?.some((p) => order.bounds.forbids(...p)) ? undefined : tips;
  };

  const cutLine = (line: number): void => {
    const left = of.get(line) ?? [];
    while (left.length > 0) {
      const at = path.last;
      const best: Start = at ? nearestOf(left, at)! : { run: left[0]!, k: 0, isTurned: false, distance: Infinity };
      left.splice(left.indexOf(best.run), 1);
      const p = from(best);
      const first = path.length;
      const way = at && best.distance < near && !best.run.fromAbove ? over(at, [p[0]!, p[1]!, p[2]!]) : undefined;
      if (way) for (const [x, y, z] of way) path.to(x, y, z, Motion.link);
      else {
        travel.crossTo(p[0]!, p[1]!, p[2]!);
        path.to(p[0]!, p[1]!, p[2]!, Motion.entry);
      }
      cut.push({ run: best.run, points: p, way: first, from: path.length });
      for (let k = 3; k < p.length; k += 3) path.to(p[k]!, p[k + 1]!, p[k + 2]!, Motion.cut);
      if (best.run.leavesAtFeed) travel.riseAtFeed();
    }
  };
  /** The nearest of some lines, taken out of the list. */
  const takeNearest = (list: number[]): number => {
    const at = path.last;
    let best = 0;
    let least = Infinity;
    if (at)
      list.forEach((line, k) => {
        const found = nearestOf(of.get(line) ?? [], at);
        if (found && found.distance < least) [best, least] = [k, found.distance];
      });
    return list.splice(best, 1)[0]!;
  };
  // depth first without recursion: a spiral of lines may be thousands deep
  const stack: { line: number; open: number[] }[] = [{ line: -1, open: roots }];
  while (stack.length > 0) {
    const top = stack[stack.length - 1]!;
    if (top.open.length > 0) {
      const line = takeNearest(top.open);
      if (isInward) cutLine(line);
      stack.push({ line, open: children[line]!.slice() });
      continue;
    }
    stack.pop();
    if (!isInward && top.line >= 0) cutLine(top.line);
  }
  return { ...growing, cut };
}

interface Start {
  readonly run: ScanRun;
  readonly k: number;
  readonly isTurned: boolean;
  readonly distance: number;
}

function nearestOf(runs: readonly ScanRun[], at: readonly [number, number, number]): Start | undefined {
  let best: Start | undefined;
  for (const run of runs) {
    const { points } = run;
    const last = points.length / 3 - 1;
    const distance = (k: number): number =>
      Math.hypot(points[3 * k]! - at[0], points[3 * k + 1]! - at[1], points[3 * k + 2]! - at[2]);
    if (isClosed(points)) {
      for (let k = 0; k < last; k++) {
        const d = distance(k);
        if (!best || d < best.distance) best = { run, k, isTurned: false, distance: d };
      }
      continue;
    }
    const begin = distance(0);
    const end = run.oneWay ? Infinity : distance(last);
    const nearer = Math.min(begin, end);
    if (!best || nearer < best.distance) best = { run, k: 0, isTurned: end < begin, distance: nearer };
  }
  return best;
}

function isClosed(points: Float64Array): boolean {
  const o = points.length - 3;
  return points.length > 6 && points[0] === points[o] && points[1] === points[o + 1] && points[2] === points[o + 2];
}

function from({ run: { points }, k, isTurned }: Start): Float64Array {
  if (isTurned) return turned(points);
  if (k === 0) return points;
  const ring = points.length / 3 - 1;
  const out = new Float64Array(points.length);
  for (let i = 0; i <= ring; i++) out.set(points.subarray(3 * ((k + i) % ring), 3 * ((k + i) % ring) + 3), 3 * i);
  return out;
}
