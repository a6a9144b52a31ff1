import { heightAt, type Profile, type ProfilePiece } from '../cutter/profile';
import { Motion, type Toolpath } from '../path/toolpath';
import type { HeightMap } from './heightMap';
import { type BandHistory, HistoryWriter } from './history';
import { Sweep, TILE } from './sweep';

/** Steel that a rapid takes off counts when the cutter, smaller by this (mm), would still take some. */
export const RAPID_SLACK_MM = 0.002;
/** Volume below which a rapid counts as clear, mm³: rounding of single precision heights. */
const RAPID_VOLUME_MM3 = 1e-4;
/** Shank and holder are looked at this often along a motion, mm. */
const LOOK_MM = 0.5;
/** Less than this inside the steel is touching, not contact, mm: rounding of single precision heights. */
const TOUCH_MM = 2e-4;
/** A flat or bull-nose cutter that goes down steeper than this over a fresh area is plunging: tan 45 degrees. */
const PLUNGE_SLOPE = 1;
/** Share of the cutter's disc that must be freshly cut in one steep motion to count as a plunge. */
const PLUNGE_SHARE = 0.3;

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
}

export type MishapKind = 'rapid' | 'shank' | 'holder' | 'plunge';

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
  const sweep = new Sweep(map, body.piece, rows[0], rows[1]);
  const slim = new Sweep(map, slimmer(body.piece), rows[0], rows[1]);
  slim.adopt(sweep);
  const watch = new BodyWatch(map, sweep, rows, body);
  const removed = new Float32Array(span[1] - span[0]);
  const mishaps: Mishap[] = [];
  const disc = Math.PI * body.piece.radius * body.piece.radius;
  const history = new HistoryWriter(map, rows);
  let nextMark = 0;
  let fresh = 0;
  for (let i = span[0]; i < span[1]; i++) {
    if ((i & CANCEL_EVERY) === 0) cancel?.check();
    if (marks[nextMark] === i) {
      history.mark(i, sweep.changed);
      nextMark++;
    }
    if (i === 0) continue;
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
    sweep.move(ax, ay, az, bx, by, bz, i + 1 < span[1] && marks[nextMark] !== i + 1 && runsOn(path, i));
    removed[i - span[0]] = sweep.removed;
    const steep = az - bz > PLUNGE_SLOPE * Math.hypot(bx - ax, by - ay);
    fresh = steep ? fresh + sweep.cells * map.cell * map.cell : 0;
    if (steep && body.piece.flat > 0 && fresh > PLUNGE_SHARE * disc)
      mishaps.push({ kind: 'plunge', motion: i, amount: fresh / disc });
    if (sweep.tallest > body.fluteLength + TOUCH_MM)
      mishaps.push({ kind: 'shank', motion: i, amount: sweep.tallest - body.fluteLength });
    watch.along(i, ax, ay, az, bx, by, bz, mishaps);
  }
  return { mishaps, removed, neededStickOut: watch.needed, history: history.finish() };
}

/** A gentle cutting move, followed by another one in about the same direction: what it leaves at its end the next one cuts. */
function runsOn({ x, y, z, kind }: Toolpath, i: number): boolean {
  if (kind[i] === Motion.rapid || kind[i + 1] === Motion.rapid) return false;
  const ux = x[i]! - x[i - 1]!;
  const uy = y[i]! - y[i - 1]!;
  const vx = x[i + 1]! - x[i]!;
  const vy = y[i + 1]! - y[i]!;
  const u2 = ux * ux + uy * uy;
  const v2 = vx * vx + vy * vy;
  const uz = z[i]! - z[i - 1]!;
  const vz = z[i + 1]! - z[i]!;
  const dot = ux * vx + uy * vy;
  return uz * uz < u2 && vz * vz < v2 && dot > 0 && dot * dot > 0.25 * u2 * v2;
}

function slimmer(piece: ProfilePiece & { kind: 'round' }): ProfilePiece & { kind: 'round' } {
  const by = Math.min(RAPID_SLACK_MM, piece.radius / 4);
  const corner = Math.max(0, piece.corner - by);
  return { ...piece, corner, flat: piece.radius - by - corner, radius: piece.radius - by };
}

/** Tiles along the side of a block of tiles, whose highest steel is kept too. */
const BLOCK = 8;
/** A block's highest steel is looked up again at the earliest after this many motions. */
const BLOCK_AGE = 400;

/** Looks for steel inside shank and holder, through the maxima of tiles and of blocks of tiles. */
class BodyWatch {
  /** Largest stick-out that any look so far asked for, mm. */
  needed = 0;
  private top: number;
  private moves = 0;
  private readonly columns: number;
  private readonly firstBlock: number;
  private readonly blockTop: Float32Array;
  private readonly blockAge: Int32Array;

  constructor(
    private readonly map: HeightMap,
    private readonly sweep: Sweep,
    private readonly rows: readonly [number, number],
    private readonly body: Body,
  ) {
    this.columns = Math.ceil(map.nx / (TILE * BLOCK));
    this.firstBlock = Math.floor(rows[0] / (TILE * BLOCK));
    const count = this.columns * (Math.ceil(rows[1] / (TILE * BLOCK)) - this.firstBlock);
    this.blockTop = new Float32Array(count);
    this.blockAge = new Int32Array(count);
    for (let b = 0; b < count; b++) this.refreshBlock(b);
    this.top = this.highest();
  }

  along(i: number, ax: number, ay: number, az: number, bx: number, by: number, bz: number, out: Mishap[]): void {
    if (++this.moves % 2000 === 0) this.top = this.highest();
    const low = Math.min(az, bz);
    const { shank, holder, stickOut } = this.body;
    const shankLow = shank.length > 0 ? shank[0]!.z : Infinity;
    const holderLow = holder.length > 0 ? Math.min(this.needed, stickOut) : Infinity;
    if (low + shankLow >= this.top && low + holderLow >= this.top) return;
    const length = Math.hypot(bx - ax, by - ay, bz - az);
    const steps = Math.max(1, Math.ceil(length / LOOK_MM));
    let shankHit = 0;
    let holderHit = 0;
    for (let k = 1; k <= steps; k++) {
      const t = k / steps;
      const x = ax + t * (bx - ax);
      const y = ay + t * (by - ay);
      const z = az + t * (bz - az);
      if (shankLow < Infinity) shankHit = Math.max(shankHit, this.excess(shank, x, y, z, TOUCH_MM));
      if (holderLow < Infinity) {
        const wanted = this.excess(holder, x, y, z, Math.min(this.needed, stickOut));
        if (wanted > this.needed) this.needed = wanted;
        holderHit = Math.max(holderHit, wanted - stickOut);
      }
    }
    if (shankHit > TOUCH_MM) out.push({ kind: 'shank', motion: i, amount: shankHit });
    if (holderHit > TOUCH_MM) out.push({ kind: 'holder', motion: i, amount: holderHit });
  }

  private highest(): number {
    let top = -Infinity;
    for (let b = 0; b < this.blockTop.length; b++) {
      this.refreshBlock(b);
      if (this.blockTop[b]! > top) top = this.blockTop[b]!;
    }
    return top;
  }

  private refreshBlock(b: number): void {
    const { map, rows, sweep } = this;
    const bi = (b % this.columns) * BLOCK;
    const bj = (Math.floor(b / this.columns) + this.firstBlock) * BLOCK;
    let top = -Infinity;
    for (let tj = Math.max(bj, Math.floor(rows[0] / TILE)); tj < bj + BLOCK && tj * TILE < rows[1]; tj++)
      for (let ti = bi; ti < bi + BLOCK && ti * TILE < map.nx; ti++) {
        const t = sweep.tileTop(ti, tj);
        if (t > top) top = t;
      }
    this.blockTop[b] = top;
    this.blockAge[b] = this.moves;
  }

  /** How far the steel stands above the profile when the tip is at (x, y, z), mm; `known` when it is not more than that. */
  private excess(profile: Profile, x: number, y: number, z: number, known: number): number {
    const { x0, y0, cell, nx } = this.map;
    const widest = profile[profile.length - 1]!.radius;
    const i0 = Math.max(0, Math.floor((x - widest - x0) / cell - 0.5));
    const i1 = Math.min(nx - 1, Math.ceil((x + widest - x0) / cell - 0.5));
    const j0 = Math.max(this.rows[0], Math.floor((y - widest - y0) / cell - 0.5));
    const j1 = Math.min(this.rows[1] - 1, Math.ceil((y + widest - y0) / cell - 0.5));
    let most = known;
    const span = TILE * BLOCK;
    const side = span * cell;
    for (let bj = Math.floor(j0 / span); bj * span <= j1; bj++)
      for (let bi = Math.floor(i0 / span); bi * span <= i1; bi++) {
        const b = (bj - this.firstBlock) * this.columns + bi;
        const near = distanceToSquare(x0 + bi * side - x, y0 + bj * side - y, side);
        const under = z + most + lowestFrom(profile, near);
        if (this.blockTop[b]! <= under) continue;
        if (this.moves - this.blockAge[b]! > BLOCK_AGE) {
          this.refreshBlock(b);
          if (this.blockTop[b]! <= under) continue;
        }
        most = this.excessInBlock(profile, x, y, z, most, [
          Math.max(i0, bi * span),
          Math.min(i1, bi * span + span - 1),
          Math.max(j0, bj * span),
          Math.min(j1, bj * span + span - 1),
        ]);
      }
    return most;
  }

  private excessInBlock(
    profile: Profile,
    x: number,
    y: number,
    z: number,
    known: number,
    [i0, i1, j0, j1]: readonly [number, number, number, number],
  ): number {
    const { x0, y0, cell, nx, heights } = this.map;
    const widest = profile[profile.length - 1]!.radius;
    const side = TILE * cell;
    let most = known;
    for (let tj = Math.floor(j0 / TILE); tj * TILE <= j1; tj++)
      for (let ti = Math.floor(i0 / TILE); ti * TILE <= i1; ti++) {
        const bound = this.sweep.tileBound(ti, tj);
        if (bound - z <= most) continue;
        const near = distanceToSquare(x0 + ti * side - x, y0 + tj * side - y, side);
        const under = z + most + lowestFrom(profile, near);
        if (bound <= under || this.sweep.tileTop(ti, tj) <= under) continue;
        for (let j = Math.max(j0, tj * TILE); j <= Math.min(j1, tj * TILE + TILE - 1); j++) {
          const dy = y0 + (j + 0.5) * cell - y;
          for (let i = Math.max(i0, ti * TILE); i <= Math.min(i1, ti * TILE + TILE - 1); i++) {
            const h = heights[j * nx + i]! - z;
            if (h <= most) continue;
            const dx = x0 + (i + 0.5) * cell - x;
            const d = Math.sqrt(dx * dx + dy * dy);
            if (d > widest) continue;
            for (const piece of profile) {
              if (d > piece.radius) continue;
              const over = h - heightAt(piece, d);
              if (over > most) most = over;
            }
          }
        }
      }
    return most;
  }
}

/** Distance from the origin to a square whose lower left corner is at (x, y). */
function distanceToSquare(x: number, y: number, side: number): number {
  const dx = x > 0 ? x : x + side < 0 ? x + side : 0;
  const dy = y > 0 ? y : y + side < 0 ? y + side : 0;
  return Math.sqrt(dx * dx + dy * dy);
}

/** Lowest height of a stack at radius d or beyond, Infinity outside it; pieces stand lowest first, widening upward. */
function lowestFrom(profile: Profile, d: number): number {
  for (const piece of profile) if (d <= piece.radius) return heightAt(piece, d);
  return Infinity;
}
