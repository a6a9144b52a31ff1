import type { Cancel } from '../base/cancel';
import { type Profile, riseOf, slimmer, withClearance } from '../tool/profile';
import { Motion, type Motions } from '../path/toolpath';
import { Batch } from './batch';
import type { Body, Mishap } from './body';
import type { BandLoad } from './engagement';
import type { HeightMap } from '../steel/heightMap';
import { type BandHistory, HistoryWriter } from '../steel/history';
import { SteelContact } from '../steel/steelContact';
import { SteelMemory } from '../steel/steelMemory';
import { Sweep } from '../steel/sweep';

/** Steel that a rapid takes off counts when the cutter, smaller by this (mm), would still take some. */
export const RAPID_SLACK_MM = 0.002;
/** Volume below which a rapid counts as clear, mm³: rounding of single precision heights. */
const RAPID_VOLUME_MM3 = 1e-4;
/** Stretches of this length are looked at as a whole first, with shank and holder wider by half of it, mm. */
const STRETCH_MM = 2;

/** What one band of rows tells of a run. */
export interface BandReport {
  /** Of steel under a cutter that goes straight down, the band's own part, however little. */
  mishaps: Mishap[];
  /** Volume taken off by each motion, mm³, only where any was. */
  removed: Float32Array;
  /** Smallest stick-out that would have kept the holder clear, mm. */
  neededStickOut: number;
  /** How much of the cutter is in the band's steel; nothing unless it was asked for. */
  load: BandLoad;
  history: BandHistory;
}

/**
 * Runs motions `from` to `to` (exclusive) of a toolpath over a band of rows, lowering the steel and watching for rapids
 * through steel, plunges, and contacts of shank and holder with the steel as it is at that moment.
 *
 * @param marks motions, ascending, before which the band's state is kept
 * @param isLoadWanted whether it is looked at how much of the cutter is in steel
 */
export function machineBand(
  map: HeightMap,
  rows: readonly [number, number],
  body: Body,
  path: Motions,
  span: readonly [number, number],
  { marks = [], isLoadWanted = false }: { marks?: ArrayLike<number>; isLoadWanted?: boolean } = {},
  cancel?: Cancel,
): BandReport {
  const stacks = stacksOf(body);
  const room = SteelContact.bytes(map, rows, Object.values(stacks)) + Batch.BYTES + HistoryWriter.BYTES;
  const sweep = new Sweep(map, body.piece, ...rows, body.fluteLength, new SteelMemory(map, ...rows, room));
  const slim = sweep.beside(slimmer(body.piece, RAPID_SLACK_MM));
  stand(sweep, stacks, body.stickOut);
  const near = reachedY(map, rows, body);
  const batch = new Batch(sweep, path, near, body, isLoadWanted);
  const removed = new Float32Array(span[1] - span[0]);
  const mishaps: Mishap[] = [];
  const history = new HistoryWriter(sweep);
  const { x, y, z, kind } = path;
  let nextMark = 0;
  /** The next rapid after the motion that has its turn. */
  let rapid = -1;
  for (let i = span[0]; i < span[1];) {
    cancel?.check();
    if (marks[nextMark] === i) {
      history.mark(i);
      nextMark++;
    }
    if (i === 0) {
      i++;
      continue;
    }
    if (kind[i] === Motion.rapid && isBeside(near, y[i - 1]!, y[i]!)) {
      const low = RAPID_SLACK_MM;
      const struck = slim.measure(x[i - 1]!, y[i - 1]!, z[i - 1]! + low, x[i]!, y[i]!, z[i]! + low);
      if (struck > RAPID_VOLUME_MM3) mishaps.push({ kind: 'rapid', motion: i, amount: struck });
    }
    // a batch ends where something is to be done between two motions
    const mark = marks[nextMark] ?? Infinity;
    if (rapid <= i) rapid = kind.indexOf(Motion.rapid, i + 1);
    if (rapid < 0) rapid = Infinity;
    const end = Math.min(span[1], i + Batch.MOST, rapid, mark > i ? mark : Infinity);
    batch.run(i, end, end < span[1] && end !== mark, mishaps);
    removed.set(batch.volumes.subarray(0, end - i), i - span[0]);
    i = end;
  }
  const { neededStickOut } = batch;
  const load = batch.finishLoad();
  sweep.finish();
  return { mishaps, removed, neededStickOut, load, history: history.finish() };
}

/** Stretch of y from which the tool, holder and all, reaches over a band of rows, mm. */
function reachedY(
  { y0, cell }: HeightMap,
  rows: readonly [number, number],
  { piece, shank, holder }: Body,
): readonly [number, number] {
  const reach = Math.max(piece.radius, ...[...shank, ...holder].map((p) => p.radius)) + cell;
  return [y0 + rows[0] * cell - reach, y0 + rows[1] * cell + reach];
}

/** Whether a motion from one y to another comes into a stretch of it. */
function isBeside([low, high]: readonly [number, number], from: number, to: number): boolean {
  return !((from < low && to < low) || (from > high && to > high));
}

/** What stands above a cutter, as it is and wider, for looks at a stretch of a motion as a whole. */
interface Stacks {
  /** What is wider than the cutter, or beside its corner: it may stand in steel wherever the cutter is. */
  shank: Profile;
  wideShank: Profile;
  /** All from the flutes up: what is slimmer stands in steel only where that is taller than the flutes. */
  neck: Profile;
  holder: Profile;
  wideHolder: Profile;
}

function stacksOf({ piece, shank: all, holder }: Body): Stacks {
  const shank = all.filter((p) => p.radius > piece.radius || p.z < riseOf(piece));
  const wideShank = withClearance(shank, STRETCH_MM / 2, 0);
  return { shank, wideShank, neck: all, holder, wideHolder: withClearance(holder, STRETCH_MM / 2, 0) };
}

/** Puts what stands above the cutter where the sweep's kernel watches it. */
function stand(sweep: Sweep, stacks: Stacks, stickOut: number): void {
  const contact = new SteelContact(sweep, Object.values(stacks) as Profile[]);
  const { shank, wideShank, neck, holder, wideHolder } = stacks;
  const shankAt = [contact.stackAt(shank), contact.stackAt(wideShank), shank.length] as const;
  const neckAt = [contact.stackAt(neck), neck.length] as const;
  const holderAt = [contact.stackAt(holder), contact.stackAt(wideHolder), holder.length] as const;
  sweep.kernel.stand(...shankAt, ...neckAt, ...holderAt, stickOut, STRETCH_MM);
}
