import type { Growing } from '../../link/workspace';
import { Motion } from '../../path/toolpath';
import { type CutPass, type GrownPasses, isClosed, turned } from '../order';
import type { ScanRun } from '../scan';
import type { Place } from './rolling';
import type { SurfaceLink } from './surfaceLink';

export interface EvenOrder {
  /** For each line the one beside it from which its front came; -1: none. */
  readonly parents: readonly number[];
  /** Whether lines without a parent come first. */
  readonly isInward: boolean;
  /** A line is reached over the surface when it is nearer than this, mm. */
  readonly near: number;
  /** Nearer than this it lies beside the last one, mm. */
  readonly beside: number;
  readonly link: SurfaceLink;
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
  const cutLine = (line: number): void => {
    const left = of.get(line) ?? [];
    while (left.length > 0) {
      const at = path.last;
      const best: Start = at
        ? nearestOf(left, at)!
        : { run: left[0]!, k: 0, t: 0, isTurned: false, distance: Infinity };
      left.splice(left.indexOf(best.run), 1);
      const p = from(best);
      const first = path.length;
      const way =
        at && best.distance < near && !best.run.fromAbove ? order.link.over(at, [p[0]!, p[1]!, p[2]!]) : undefined;
      // a long way may lead over ground that is not cut yet: at the feed of a cut
      const kind = best.distance < order.beside ? Motion.link : Motion.cut;
      if (way) for (const [x, y, z] of way) path.to(x, y, z, kind);
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

/** Where a line begins: of an open one at an end, of a closed one anywhere between two of its points. */
interface Start {
  readonly run: ScanRun;
  readonly k: number;
  /** Share of the way from point k to the next. */
  readonly t: number;
  readonly isTurned: boolean;
  readonly distance: number;
}

function nearestOf(runs: readonly ScanRun[], at: Place): Start | undefined {
  let best: Start | undefined;
  for (const run of runs) {
    const p = run.points;
    const last = p.length / 3 - 1;
    if (isClosed(run)) {
      for (let k = 0; k < last; k++) {
        const o = 3 * k;
        const [dx, dy, dz] = [p[o + 3]! - p[o]!, p[o + 4]! - p[o + 1]!, p[o + 5]! - p[o + 2]!];
        const [x, y, z] = [at[0] - p[o]!, at[1] - p[o + 1]!, at[2] - p[o + 2]!];
        const square = dx * dx + dy * dy + dz * dz;
        const t = square > 0 ? Math.min(1, Math.max(0, (x * dx + y * dy + z * dz) / square)) : 0;
        const distance = Math.hypot(x - t * dx, y - t * dy, z - t * dz);
        if (!best || distance < best.distance) best = { run, k, t, isTurned: false, distance };
      }
      continue;
    }
    const to = (o: number): number => Math.hypot(p[o]! - at[0], p[o + 1]! - at[1], p[o + 2]! - at[2]);
    const begin = to(0);
    const end = run.oneWay ? Infinity : to(3 * last);
    const nearer = Math.min(begin, end);
    if (!best || nearer < best.distance) best = { run, k: 0, t: 0, isTurned: end < begin, distance: nearer };
  }
  return best;
}

/** Points of a line in the order of the cut. */
function from({ run: { points: p }, k, t, isTurned }: Start): Float64Array {
  if (isTurned) return turned(p);
  if (k === 0 && t === 0) return p;
  const ring = p.length / 3 - 1;
  const isOn = t === 0 || t === 1;
  const out: number[] = [];
  const begin = [0, 1, 2].map((axis) => p[3 * k + axis]! + t * (p[3 * k + 3 + axis]! - p[3 * k + axis]!));
  if (!isOn) out.push(...begin);
  const first = isOn ? k + t : k + 1;
  for (let i = 0; i < ring + (isOn ? 1 : 0); i++) {
    const o = 3 * ((first + i) % ring);
    out.push(p[o]!, p[o + 1]!, p[o + 2]!);
  }
  if (!isOn) out.push(...begin);
  return Float64Array.from(out);
}
