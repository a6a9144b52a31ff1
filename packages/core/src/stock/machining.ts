import { type Profile, type ProfilePiece, withClearance } from '../cutter/profile';
import { Motion, type Toolpath } from '../path/toolpath';
import type { HeightMap } from './heightMap';
import { type BandHistory, HistoryWriter } from './history';
import { SteelContact } from './steelContact';
import { runsOn, Sweep } from './sweep';

/** Steel that a rapid takes off counts when the cutter, smaller by this (mm), would still take some. */
export const RAPID_SLACK_MM = 0.002;
/** Volume below which a rapid counts as clear, mm³: rounding of single precision heights. */
const RAPID_VOLUME_MM3 = 1e-4;
/** Shank and holder are looked at this often along a motion, mm. */
const LOOK_MM = 0.5;
/** Stretches of this length are looked at as a whole first, with shank and holder wider by half of it, mm. */
const STRETCH_MM = 2;
/** Less than this inside the steel is touching, not contact, mm: rounding of single precision heights. */
const TOUCH_MM = 2e-4;
/** A flat or bull-nose cutter that goes down steeper than this over a fresh area is plunging: tan 45 degrees. */
const PLUNGE_SLOPE = 1;
/** Share of the cutter's disc that must be freshly cut in one steep motion to count as a plunge. */
const PLUNGE_SHARE = 0.3;

/**
 * A skin that paths' tolerances leave on a wall may stand taller than the flutes where the neck above them is slimmer by it: up
 * to the first of these; rounding by the second, mm.
 */
const GRAZED_MM = 0.03;
const GRAZED_LEAST_MM = 0.002;

/** Motions between two looks at the cancel flag, less one: a power of two. */
const CANCEL_EVERY = 255;

/** A cutter with what stands above it. */
export interface Body {
  piece: ProfilePiece & { kind: 'round' };
  shank: Profile;
  /** Holder with its lower end at 0. */
  holder: Profile;
  stickOut: number;
  fluteLength: number;
  /** Whether it cuts over its centre and may go straight down into steel. */
  centreCutting?: boolean;
}

export type MishapKind = 'rapid' | 'shank' | 'holder' | 'plunge' | 'fixture';

/** Something that must not happen, at a motion; `amount` is mm³ for rapids and plunges (of disc share), mm for contacts. */
export interface Mishap {
  kind: MishapKind;
  motion: number;
  amount: number;
}

/** What one band of rows tells of a run. */
export interface BandReport {
  mishaps: Mishap[];
  /** Volume taken off by each motion, mm³, only where any was. */
  removed: Float32Array;
  /** Highest steel above the tip that each motion took, mm. */
  depth: Float32Array;
  /** Smallest stick-out that would have kept the holder clear, mm. */
  neededStickOut: number;
  history: BandHistory;
}

/**
 * Runs motions `from` to `to` (exclusive) of a toolpath over a band of rows, lowering the steel and watching for rapids
 * through steel, plunges, and contacts of shank and holder with the steel as it is at that moment.
 *
 * @param marks motions, ascending, before which the band's state is kept
 */
export function machineBand(
  map: HeightMap,
  rows: readonly [number, number],
  body: Body,
  path: Toolpath,
  span: readonly [number, number],
  marks: ArrayLike<number> = [],
  cancel?: { check(): void },
): BandReport {
  const sweep = new Sweep(map, body.piece, rows[0], rows[1], grazeOf(body));
  const slim = sweep.beside(slimmer(body.piece));
  const watch = new BodyWatch(sweep, rows, body);
  const removed = new Float32Array(span[1] - span[0]);
  const depth = new Float32Array(span[1] - span[0]);
  const mishaps: Mishap[] = [];
  const disc = Math.PI * body.piece.radius * body.piece.radius;
  const history = new HistoryWriter(sweep.map, rows);
  const touches = touchesBand(map, rows, body, path);
  let nextMark = 0;
  let fresh = 0;
  for (let i = span[0]; i < span[1]; i++) {
    if ((i & CANCEL_EVERY) === 0) cancel?.check();
    if (marks[nextMark] === i) {
      history.mark(i, sweep.changed);
      nextMark++;
    }
    if (i === 0) continue;
    if (!touches(i)) {
      fresh = 0;
      continue;
    }
    const { x, y, z, kind } = path;
    const ax = x[i - 1]!;
    const ay = y[i - 1]!;
    const az = z[i - 1]!;
    const bx = x[i]!;
    const by = y[i]!;
    const bz = z[i]!;
    if (kind[i] === Motion.rapid) {
      const struck = slim.measure(ax, ay, az + RAPID_SLACK_MM, bx, by, bz + RAPID_SLACK_MM);
      if (struck > RAPID_VOLUME_MM3) mishaps.push({ kind: 'rapid', motion: i, amount: struck });
    }
    sweep.removed = 0;
    sweep.cells = 0;
    sweep.tallest = 0;
    const isEndOwed = i + 1 < span[1] && marks[nextMark] !== i + 1 && isCutOn(path, i) && touches(i + 1);
    sweep.move(ax, ay, az, bx, by, bz, isEndOwed);
    removed[i - span[0]] = sweep.removed;
    depth[i - span[0]] = sweep.tallest;
    const steep = az - bz > PLUNGE_SLOPE * Math.hypot(bx - ax, by - ay);
    fresh = steep ? fresh + sweep.cells * map.cell * map.cell : 0;
    if (steep && !body.centreCutting && body.piece.flat > 0 && fresh > PLUNGE_SHARE * disc)
      mishaps.push({ kind: 'plunge', motion: i, amount: fresh / disc });
    if (sweep.tallest > body.fluteLength + TOUCH_MM)
      mishaps.push({ kind: 'shank', motion: i, amount: sweep.tallest - body.fluteLength });
    watch.along(i, ax, ay, az, bx, by, bz, mishaps);
  }
  sweep.finish();
  return { mishaps, removed, depth, neededStickOut: watch.needed, history: history.finish() };
}

/** Which motions come near enough to a band of rows for the tool, holder and all, to reach over it. */
function touchesBand(
  { y0, cell }: HeightMap,
  rows: readonly [number, number],
  { piece, shank, holder }: Body,
  { y }: Toolpath,
): (motion: number) => boolean {
  const reach = Math.max(piece.radius, ...[...shank, ...holder].map((p) => p.radius)) + cell;
  const [low, high] = [y0 + rows[0] * cell - reach, y0 + rows[1] * cell + reach];
  return (i) => !((y[i - 1]! < low && y[i]! < low) || (y[i - 1]! > high && y[i]! > high));
}

/** Skin on a wall that passes the neck above the flutes, mm. */
function grazeOf({ piece, shank }: Body): number {
  const neck = shank[0]?.radius ?? piece.radius;
  return Math.min(GRAZED_MM, Math.max(GRAZED_LEAST_MM, piece.radius - neck));
}

/** Whether a cutting motion is followed by another one that cuts what it leaves at its end. */
function isCutOn({ x, y, z, kind }: Toolpath, i: number): boolean {
  if (kind[i] === Motion.rapid || kind[i + 1] === Motion.rapid) return false;
  const [ux, uy, uz] = [x[i]! - x[i - 1]!, y[i]! - y[i - 1]!, z[i]! - z[i - 1]!];
  return runsOn(ux, uy, uz, x[i + 1]! - x[i]!, y[i + 1]! - y[i]!, z[i + 1]! - z[i]!);
}

function slimmer(piece: ProfilePiece & { kind: 'round' }): ProfilePiece & { kind: 'round' } {
  const by = Math.min(RAPID_SLACK_MM, piece.radius / 4);
  const corner = Math.max(0, piece.corner - by);
  return { ...piece, corner, flat: piece.radius - by - corner, radius: piece.radius - by };
}

/** Looks for steel inside shank and holder, through the maxima of tiles and of blocks of tiles. */
class BodyWatch {
  /** Largest stick-out that any look so far asked for, mm. */
  needed = 0;
  private top: number;
  private moves = 0;
  private readonly steel: SteelContact;
  /** What of the shank can come to steel at all: in what is no wider than the cutter none is left when the cutter has passed. */
  private readonly shank: Profile;
  private readonly wideShank: Profile;
  private readonly wideHolder: Profile;

  constructor(
    sweep: Sweep,
    rows: readonly [number, number],
    private readonly body: Body,
  ) {
    this.steel = new SteelContact(sweep, rows);
    this.top = this.steel.highest();
    const { radius, corner } = body.piece;
    this.shank = body.shank.filter((piece) => piece.radius > radius || piece.z < corner);
    this.wideShank = withClearance(this.shank, STRETCH_MM / 2, 0);
    this.wideHolder = withClearance(body.holder, STRETCH_MM / 2, 0);
  }

  along(i: number, ax: number, ay: number, az: number, bx: number, by: number, bz: number, out: Mishap[]): void {
    this.steel.age();
    if (++this.moves % 2000 === 0) this.top = this.steel.highest();
    const low = Math.min(az, bz);
    const { shank } = this;
    const { holder, stickOut } = this.body;
    const shankLow = shank.length > 0 ? shank[0]!.z : Infinity;
    const holderLow = holder.length > 0 ? Math.min(this.needed, stickOut) : Infinity;
    if (low + shankLow >= this.top && low + holderLow >= this.top) return;
    const length = Math.hypot(bx - ax, by - ay, bz - az);
    const steps = Math.max(1, Math.ceil(length / LOOK_MM));
    const ahead = Math.max(1, Math.floor((STRETCH_MM / length) * steps));
    let shankHit = 0;
    let holderHit = 0;
    for (let from = 0; from < steps; from += ahead) {
      const to = Math.min(steps, from + ahead);
      const middle = (from + to) / (2 * steps);
      const [mx, my] = [ax + middle * (bx - ax), ay + middle * (by - ay)];
      const lowest = az + (bz - az) * (bz < az ? to / steps : from / steps);
      const isOne = to - from === 1;
      const known = Math.min(this.needed, stickOut);
      const seesShank =
        shankLow < Infinity && (isOne || this.steel.excess(this.wideShank, mx, my, lowest, TOUCH_MM) > TOUCH_MM);
      const seesHolder =
        holderLow < Infinity && (isOne || this.steel.excess(this.wideHolder, mx, my, lowest, known) > known);
      if (!seesShank && !seesHolder) continue;
      for (let k = from + 1; k <= to; k++) {
        const t = k / steps;
        const x = ax + t * (bx - ax);
        const y = ay + t * (by - ay);
        const z = az + t * (bz - az);
        if (seesShank) shankHit = Math.max(shankHit, this.steel.excess(shank, x, y, z, TOUCH_MM));
        if (!seesHolder) continue;
        const wanted = this.steel.excess(holder, x, y, z, Math.min(this.needed, stickOut));
        if (wanted > this.needed) this.needed = wanted;
        holderHit = Math.max(holderHit, wanted - stickOut);
      }
    }
    if (shankHit > TOUCH_MM) out.push({ kind: 'shank', motion: i, amount: shankHit });
    if (holderHit > TOUCH_MM) out.push({ kind: 'holder', motion: i, amount: holderHit });
  }
}
