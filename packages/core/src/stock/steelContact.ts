import { heightAt, type Profile } from '../cutter/profile';
import type { HeightMap } from './heightMap';
import { type Sweep, TILE } from './sweep';

/** Tiles along the side of a block of tiles, whose highest steel is kept too. */
const BLOCK = 8;
/** A block's highest steel is looked up again at the earliest after this many motions. */
const BLOCK_AGE = 400;

/**
 * Contact of a stack of convex pieces with a band of the steel as it stands, the sweep that lowers it running meanwhile:
 * the same question as {@link ProfileDrop} asks of a mesh, answered through the maxima of tiles and of blocks of tiles.
 */
export class SteelContact {
  private readonly map: HeightMap;
  private moves = 0;
  /** No steel of the band is higher, mm. */
  private top = Infinity;
  private readonly columns: number;
  private readonly firstBlock: number;
  private readonly blockTop: Float32Array;
  private readonly blockAge: Int32Array;
  /** For each radius asked for the highest steel around each tile, and some beside the band, as it was known at an age. */
  private readonly around = new Map<number, { tops: Float32Array; ages: Int32Array }>();

  constructor(
    private readonly sweep: Sweep,
    private readonly rows: readonly [number, number],
  ) {
    this.map = sweep.map;
    this.columns = Math.ceil(this.map.nx / (TILE * BLOCK));
    this.firstBlock = Math.floor(rows[0] / (TILE * BLOCK));
    const count = this.columns * (Math.ceil(rows[1] / (TILE * BLOCK)) - this.firstBlock);
    this.blockTop = new Float32Array(count);
    this.blockAge = new Int32Array(count);
    this.highest();
  }

  /** Tells that another motion has run: maxima of blocks grow old by it. */
  age(): void {
    this.moves++;
  }

  /** Largest tip height (mm) at which the profile touches the band's steel with its axis at (x, y); -Infinity for none. */
  at(profile: Profile, x: number, y: number): number {
    return this.excess(profile, x, y, 0, -Infinity);
  }

  /** Highest steel of the band, mm. */
  highest(): number {
    let top = -Infinity;
    for (let b = 0; b < this.blockTop.length; b++) {
      this.refreshBlock(b);
      if (this.blockTop[b]! > top) top = this.blockTop[b]!;
    }
    this.top = top;
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
  excess(profile: Profile, x: number, y: number, z: number, known: number): number {
    const { x0, y0, cell, nx } = this.map;
    // pieces that stand over all steel around them need no look: they stand lowest first, widening upward
    const room = this.top - z - known;
    let widest = -1;
    for (const piece of profile)
      if (piece.z < room && piece.z < this.topAround(piece.radius, x, y, z + known + piece.z) - z - known)
        widest = piece.radius;
    if (widest < 0) return known;
    const i0 = Math.max(0, Math.floor((x - widest - x0) / cell - 0.5));
    const i1 = Math.min(nx - 1, Math.ceil((x + widest - x0) / cell - 0.5));
    const j0 = Math.max(this.rows[0], Math.floor((y - widest - y0) / cell - 0.5));
    const j1 = Math.min(this.rows[1] - 1, Math.ceil((y + widest - y0) / cell - 0.5));
    if (i0 > i1 || j0 > j1) return known;
    const [t0, t1] = [Math.floor(i0 / TILE), Math.floor(i1 / TILE)];
    const [r0, r1] = [Math.floor(j0 / TILE), Math.floor(j1 / TILE)];
    let most = known;
    const side = TILE * BLOCK * cell;
    for (let bj = Math.floor(r0 / BLOCK); bj * BLOCK <= r1; bj++)
      for (let bi = Math.floor(t0 / BLOCK); bi * BLOCK <= t1; bi++) {
        const b = (bj - this.firstBlock) * this.columns + bi;
        const near = distanceToSquare(x0 + bi * side - x, y0 + bj * side - y, side);
        const under = z + most + lowestFrom(profile, near);
        if (this.blockTop[b]! <= under) continue;
        if (this.moves - this.blockAge[b]! > BLOCK_AGE) {
          this.refreshBlock(b);
          if (this.blockTop[b]! <= under) continue;
        }
        most = this.sweep.excess(
          profile,
          x,
          y,
          z,
          most,
          [Math.max(t0, bi * BLOCK), Math.min(t1, bi * BLOCK + BLOCK - 1)],
          [Math.max(r0, bj * BLOCK), Math.min(r1, bj * BLOCK + BLOCK - 1)],
        );
      }
    return most;
  }

  /**
   * An upper bound of the steel within a radius of (x, y), mm; looked up anew only when it is above `enough` and old, since
   * steel gets lower only.
   */
  private topAround(radius: number, x: number, y: number, enough: number): number {
    const { map, sweep, rows } = this;
    const side = TILE * map.cell;
    const [ti, tj] = [Math.floor((x - map.x0) / side), Math.floor((y - map.y0) / side)];
    const beyond = Math.ceil(radius / side) + 1;
    const columns = Math.ceil(map.nx / TILE);
    const [firstRow, lastRow] = [Math.floor(rows[0] / TILE), Math.ceil(rows[1] / TILE) - 1];
    const tall = lastRow - firstRow + 1;
    // places far outside the band see nothing of it
    if (ti < -beyond || ti >= columns + beyond || tj < firstRow - beyond || tj > lastRow + beyond) return -Infinity;
    let around = this.around.get(radius);
    if (!around) {
      const count = (columns + 2 * beyond) * (tall + 2 * beyond);
      around = { tops: new Float32Array(count).fill(Infinity), ages: new Int32Array(count).fill(-BLOCK_AGE - 1) };
      this.around.set(radius, around);
    }
    const t = (tj - firstRow + beyond) * (columns + 2 * beyond) + ti + beyond;
    if (around.tops[t]! <= enough || this.moves - around.ages[t]! <= BLOCK_AGE) return around.tops[t]!;
    let top = -Infinity;
    for (let j = Math.max(firstRow, tj - beyond); j <= Math.min(lastRow, tj + beyond); j++)
      for (let i = Math.max(0, ti - beyond); i <= Math.min(columns - 1, ti + beyond); i++)
        top = Math.max(top, sweep.tileBound(i, j));
    around.tops[t] = top;
    around.ages[t] = this.moves;
    return top;
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
