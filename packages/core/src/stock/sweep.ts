import { meshKernel } from '../geometry/kernel';
import type { ProfilePiece } from '../cutter/profile';
import type { HeightMap } from './heightMap';

/** Cells along the side of a tile, and tiles along the side of a block of tiles. */
export const TILE = 8;
/** A tile's maximum is looked up anew after this many of its cells were lowered; until then it is an upper bound. */
const STALE_CELLS = 12;
/** Entries of the bull-nose table: error below 2e-5 mm (measured), since the minimum is flat where it is read. */
const TABLE = 64;
/** Plan length below which a move counts as a plunge, mm. */
const PLUNGE_MM = 1e-9;
/** Cells this near to a border of what is looked at are looked at, mm. */
const CLOSE_MM = 1e-6;
/** A cell lowered by less than this was cut before, mm: rounding of single precision heights. */
const FRESH_MM = 1e-3;
/** The touching place of a flat cutter on a slope lies on its rim; rounding must not put it outside. */
const ON_RIM = 1 + 1e-9;
const FLAT = 0;
const BALL = 1;
const BULL = 2;

/**
 * Lowers a band of rows of a height map by straight moves of a round-cornered end mill: each cell goes down to the exact
 * lower envelope of the sweep. For a cell at (u along, v across) the touching place along the move is where the cutter's
 * slope equals the move's: closed form for flat and ball, a table over v for the bull-nose.
 */
export class Sweep {
  /** Volume taken off since it was last set to 0, mm³. */
  removed = 0;
  /** Largest height of cut steel above the tip, mm; skins that the rim grazes do not count. */
  tallest = 0;
  /** Cells lowered by more than rounding since it was last set to 0. */
  cells = 0;

  private readonly tilesX: number;
  private readonly firstTileRow: number;
  /** A flag a tile, set when a cell of it is lowered; for whoever keeps a history to clear. */
  readonly changed: Uint8Array;
  private tileMax: Float32Array;
  private stale: Uint8Array;
  private readonly kind: number;
  private readonly flat: number;
  private readonly corner: number;
  private readonly radius: number;
  private readonly table: Float64Array = new Float64Array(TABLE + 2);
  private tableSlope = NaN;
  private ax = 0;
  private ay = 0;
  private ux = 1;
  private uy = 0;
  private length = 0;
  private z0 = 0;
  private slope = 0;
  private measureOnly = false;
  /** Where the last cutting move ended, and whether this one goes on from there. */
  private lastX = NaN;
  private lastY = NaN;
  private lastZ = NaN;
  private goesOn = false;
  /** Whether the end of the last move was left to this one, and that move's direction and how far it may reach back. */
  private owed = false;
  private owedX = 0;
  private owedY = 0;
  private owedBack = 0;
  /** Whether this move's end is left to the next one. */
  private leaves = false;
  /** Cells before and behind these places along the move need no look, mm. */
  private firstU = 0;
  private lastU = 0;

  /**
   * @param map steel to lower
   * @param rowStart first row of the band, a multiple of TILE
   * @param rowEnd row behind the last one
   * @param graze steel that only this much of the rim passes does not count as standing beside the cutter, mm
   */
  constructor(
    readonly map: HeightMap,
    piece: ProfilePiece & { kind: 'round' },
    private readonly rowStart = 0,
    private readonly rowEnd = map.ny,
    private readonly graze = 0,
  ) {
    this.flat = piece.flat;
    this.corner = piece.corner;
    this.radius = piece.radius;
    this.kind = piece.corner === 0 ? FLAT : piece.flat === 0 ? BALL : BULL;
    this.tilesX = Math.ceil(map.nx / TILE);
    this.firstTileRow = Math.floor(rowStart / TILE);
    const rows = Math.ceil(rowEnd / TILE) - this.firstTileRow;
    this.tileMax = new Float32Array(Math.max(0, this.tilesX * rows));
    this.stale = new Uint8Array(this.tileMax.length);
    this.changed = new Uint8Array(this.tileMax.length);
    for (let t = 0; t < this.tileMax.length; t++) this.refresh(t);
  }

  /**
   * Cuts along a straight move of the tip, mm.
   *
   * @param goesOnNext the next call is a move that begins where this one ends: cells that are touched at this move's very
   *   end are left to it, since most of them it cuts deeper; until then they are as they were
   * @throws Error when the move before left its end and this one does not begin there
   */
  move(ax: number, ay: number, az: number, bx: number, by: number, bz: number, goesOnNext = false): void {
    this.measureOnly = false;
    this.goesOn = ax === this.lastX && ay === this.lastY && az === this.lastZ;
    if (!this.goesOn) this.refuseOwed();
    this.leaves = goesOnNext;
    this.run(ax, ay, az, bx, by, bz);
    this.owed = this.leaves && this.length > 0;
    this.owedX = this.ux;
    this.owedY = this.uy;
    this.owedBack = this.slope < 0 ? this.reachAlong() : 0;
    this.lastX = bx;
    this.lastY = by;
    this.lastZ = bz;
  }

  /** Volume (mm³) that a move would take off, without taking it off. */
  measure(ax: number, ay: number, az: number, bx: number, by: number, bz: number): number {
    const before = this.removed;
    const tallest = this.tallest;
    const cells = this.cells;
    this.measureOnly = true;
    this.goesOn = false;
    this.leaves = false;
    this.run(ax, ay, az, bx, by, bz);
    const volume = this.removed - before;
    this.removed = before;
    this.tallest = tallest;
    this.cells = cells;
    return volume;
  }

  private refuseOwed(): void {
    if (this.owed) throw new Error('A move left its end to the next one, which does not begin there.');
  }

  /**
   * Lowers the cells of a rectangle in plan to an envelope that is nowhere below `low`, the lowest place of the tip, mm.
   * The tallest steel counts from there, so that it is never told too low.
   *
   * @param envelope lowest height (mm) of the swept cutter over a place, Infinity where it does not come
   */
  lower(x0: number, y0: number, x1: number, y1: number, low: number, envelope: (x: number, y: number) => number): void {
    const { cell, nx, heights, floor } = this.map;
    this.refuseOwed();
    this.lastX = NaN;
    const i0 = Math.max(0, Math.floor((x0 - this.map.x0) / cell));
    const i1 = Math.min(nx - 1, Math.floor((x1 - this.map.x0) / cell));
    const j0 = Math.max(this.rowStart, Math.floor((y0 - this.map.y0) / cell));
    const j1 = Math.min(this.rowEnd - 1, Math.floor((y1 - this.map.y0) / cell));
    for (let j = j0; j <= j1; j++) {
      const y = this.map.y0 + (j + 0.5) * cell;
      for (let i = i0; i <= i1; i++) {
        const h = heights[j * nx + i]!;
        if (h <= low || h <= floor) continue;
        const z = Math.max(floor, envelope(this.map.x0 + (i + 0.5) * cell, y));
        if (z >= h) continue;
        heights[j * nx + i] = z;
        this.removed += (h - z) * cell * cell;
        if (h - low > this.tallest) this.tallest = h - low;
        if (h - z > FRESH_MM) this.cells++;
        const t = (((j / TILE) | 0) - this.firstTileRow) * this.tilesX + ((i / TILE) | 0);
        this.stale[t] = Math.min(255, this.stale[t]! + 1);
        this.changed[t] = 1;
      }
    }
  }

  /** Upper bound of the steel in tile (column, row), refreshed when it may be stale. */
  tileTop(column: number, row: number): number {
    const t = (row - this.firstTileRow) * this.tilesX + column;
    if (this.stale[t]! > 0) this.refresh(t);
    return this.tileMax[t]!;
  }

  /** Upper bound of the steel in a tile, as it stands. */
  tileBound(column: number, row: number): number {
    return this.tileMax[(row - this.firstTileRow) * this.tilesX + column]!;
  }

  /** Shares the tile bounds of another sweep over the same map and rows, so that both know the same steel. */
  adopt(other: Sweep): void {
    this.tileMax = other.tileMax;
    this.stale = other.stale;
  }

  private run(ax: number, ay: number, az: number, bx: number, by: number, bz: number): void {
    const { x0, y0, cell, nx } = this.map;
    const R = this.radius;
    const low = az < bz ? az : bz;
    const i0 = Math.max(0, Math.floor(((ax < bx ? ax : bx) - R - x0) / cell - 0.5));
    const i1 = Math.min(nx - 1, Math.ceil(((ax > bx ? ax : bx) + R - x0) / cell - 0.5));
    const j0 = Math.max(this.rowStart, Math.floor(((ay < by ? ay : by) - R - y0) / cell - 0.5));
    const j1 = Math.min(this.rowEnd - 1, Math.ceil(((ay > by ? ay : by) + R - y0) / cell - 0.5));
    this.aim(ax, ay, az, bx, by, bz);
    if (i0 > i1 || j0 > j1) return;
    if (this.kind === BULL && this.slope !== 0) this.fillTable(Math.abs(this.slope));
    const half = TILE * cell * Math.SQRT1_2;
    const length = this.length;
    for (let tj = (j0 / TILE) | 0; tj <= ((j1 / TILE) | 0); tj++)
      for (let ti = (i0 / TILE) | 0; ti <= ((i1 / TILE) | 0); ti++) {
        const t = (tj - this.firstTileRow) * this.tilesX + ti;
        if (this.stale[t]! >= STALE_CELLS) this.refresh(t);
        const top = this.tileMax[t]!;
        if (top <= low) continue;
        const px = x0 + (ti + 0.5) * TILE * cell - ax;
        const py = y0 + (tj + 0.5) * TILE * cell - ay;
        const u = px * this.ux + py * this.uy;
        if (u + half < this.firstU || u - half > this.lastU) continue;
        const v = py * this.ux - px * this.uy;
        const du = u < 0 ? u : u > length ? u - length : 0;
        const d = Math.sqrt(du * du + v * v) - half;
        if (d > R || (d > 0 && top <= low + this.rise(d))) continue;
        const lowered = this.cutTile(
          Math.max(i0, ti * TILE),
          Math.min(i1, ti * TILE + TILE - 1),
          Math.max(j0, tj * TILE),
          Math.min(j1, tj * TILE + TILE - 1),
          low,
        );
        if (lowered > 0 && !this.measureOnly) {
          this.stale[t] = Math.min(255, this.stale[t]! + lowered);
          this.changed[t] = 1;
        }
      }
  }

  private aim(ax: number, ay: number, az: number, bx: number, by: number, bz: number): void {
    const dx = bx - ax;
    const dy = by - ay;
    const length = Math.sqrt(dx * dx + dy * dy);
    this.ax = ax;
    this.ay = ay;
    if (length < PLUNGE_MM) {
      this.goesOn = false;
      this.leaves = false;
      this.firstU = -Infinity;
      this.lastU = Infinity;
      this.length = 0;
      this.ux = 1;
      this.uy = 0;
      this.slope = 0;
      this.z0 = az < bz ? az : bz;
      return;
    }
    this.length = length;
    const hadOwed = this.goesOn && this.owed;
    this.ux = dx / length;
    this.uy = dy / length;
    this.slope = (bz - az) / length;
    this.z0 = az;
    // what is touched at the move's very beginning was cut by the move that ended there, but for what that one left, which
    // lies beyond its end: around a turn it reaches back by R times the turn's sine
    const along = this.reachAlong();
    this.firstU = -this.radius;
    if (this.goesOn) {
      let back = this.slope < 0 ? along : 0;
      if (hadOwed) {
        const cos = this.ux * this.owedX + this.uy * this.owedY;
        const sin = Math.abs(this.ux * this.owedY - this.uy * this.owedX);
        back = cos > 0 ? Math.max(back, this.owedBack + this.radius * sin) : this.radius;
      }
      this.firstU = -back;
    }
    this.lastU = length + (this.leaves ? (this.slope > 0 ? along : 0) : this.radius);
  }

  /** How far along the move, at most, a cell's touching place may lie from the cell on a sloped move, mm. */
  private reachAlong(): number {
    if (this.kind !== BALL) return this.radius;
    return (this.radius * Math.abs(this.slope)) / Math.sqrt(1 + this.slope * this.slope);
  }

  private cutTile(i0: number, i1: number, j0: number, j1: number, low: number): number {
    const { x0, y0, cell, nx, heights, floor } = this.map;
    const { ux, uy, ax, ay, length, slope, z0, kind, radius, flat, corner, table, measureOnly, goesOn, leaves } = this;
    const { owedX, owedY, firstU, lastU } = this;
    const owedFrom = this.owed ? -this.owedBack - CLOSE_MM : Infinity;
    const least = low > floor ? low : floor;
    // the part of a row between the lines across the move's ends and along its sides, as columns: place a + b y
    const steepX = Math.abs(ux) > 1e-6;
    const steepY = Math.abs(uy) > 1e-6;
    const perCell = 1 / cell;
    const before = ((firstU - CLOSE_MM) / ux) * perCell;
    const behind = ((lastU + CLOSE_MM) / ux) * perCell;
    const endFrom = before < behind ? before : behind;
    const endTo = before < behind ? behind : before;
    const endShift = (-uy / ux) * perCell;
    const sideReach = ((radius + CLOSE_MM) / Math.abs(uy)) * perCell;
    const sideShift = (ux / uy) * perCell;
    const origin = (ax - x0) * perCell - 0.5;
    const R2 = radius * radius;
    const rim2 = R2 * ON_RIM;
    const inside2 = Math.max(0.9 * radius, radius - this.graze) ** 2;
    const flat2 = flat * flat;
    const corner2 = corner * corner;
    const upright = 1 / Math.sqrt(1 + slope * slope);
    const tilt = slope * upright;
    const perTable = TABLE / radius;
    // on the way down the flat takes the cells under it at the move's very end, which is the next move's
    const under = leaves && slope < 0 ? (kind === FLAT ? radius : kind === BULL ? flat : 0) - CLOSE_MM : 0;
    const endX = length * ux;
    const endY = length * uy;
    // sums in local numbers: a field written for every cell costs more than the cell itself
    let removed = 0;
    let tallest = this.tallest;
    let fresh = 0;
    let lowered = 0;
    for (let j = j0; j <= j1; j++) {
      const y = y0 + (j + 0.5) * cell - ay;
      const row = j * nx;
      let from = i0;
      let to = i1;
      if (steepX) {
        const shift = origin + y * endShift;
        if (shift + endFrom > from) from = Math.ceil(shift + endFrom);
        if (shift + endTo < to) to = Math.floor(shift + endTo);
      }
      if (steepY) {
        const shift = origin + y * sideShift;
        if (shift - sideReach > from) from = Math.ceil(shift - sideReach);
        if (shift + sideReach < to) to = Math.floor(shift + sideReach);
      }
      const yux = y * ux;
      const yuy = y * uy;
      let skipFrom = to + 1;
      let skipTo = to;
      const across2 = under * under - (y - endY) * (y - endY);
      if (under > 0 && across2 > 0) {
        const half = Math.sqrt(across2);
        skipFrom = Math.ceil(origin + (endX - half) * perCell);
        skipTo = Math.floor(origin + (endX + half) * perCell);
      }
      for (let i = from; i <= to; i++) {
        if (i >= skipFrom && i <= skipTo) {
          i = skipTo;
          continue;
        }
        const h = heights[row + i]!;
        if (h <= least) continue;
        const x = x0 + (i + 0.5) * cell - ax;
        const v = yux - x * uy;
        const w2 = R2 - v * v;
        if (w2 < 0) continue;
        const u = x * ux + yuy;
        let s = u;
        let q = 0;
        if (kind === BALL) {
          q = Math.sqrt(w2);
          s = u - q * tilt;
        } else if (slope !== 0) {
          q = Math.sqrt(w2);
          if (kind === BULL) {
            const at = (v < 0 ? -v : v) * perTable;
            const k = at | 0;
            q *= table[k]! + (table[k + 1]! - table[k]!) * (at - k);
          }
          s = slope > 0 ? u - q : u + q;
        }
        let tip: number;
        let z: number;
        if (kind === BALL && s > 0 && s < length) {
          // between the ends a ball's section across the move is all that is needed
          tip = z0 + slope * s;
          z = tip + corner - q * upright;
        } else {
          if (s <= 0) {
            if (goesOn && x * owedX + y * owedY < owedFrom) continue;
            s = 0;
          } else if (s >= length) {
            if (leaves) continue;
            s = length;
          }
          const e = u - s;
          const d2 = e * e + v * v;
          if (d2 > rim2) continue;
          tip = z0 + slope * s;
          z = tip;
          if (d2 > flat2 && corner > 0) {
            const out = flat === 0 ? d2 : (Math.sqrt(d2) - flat) ** 2;
            z += out >= corner2 ? corner : corner - Math.sqrt(corner2 - out);
          }
        }
        if (z >= h) continue;
        if (z < floor) z = floor;
        removed += h - z;
        if (h - tip > tallest && inside2 >= (u - s) * (u - s) + v * v) tallest = h - tip;
        lowered++;
        if (h - z > FRESH_MM) fresh++;
        if (!measureOnly) heights[row + i] = z;
      }
    }
    this.removed += removed * cell * cell;
    this.tallest = tallest;
    this.cells += fresh;
    return lowered;
  }

  private rise(d: number): number {
    const e = d - this.flat;
    if (e <= 0) return 0;
    const r = this.corner;
    return e >= r ? r : r - Math.sqrt(r * r - e * e);
  }

  /**
   * For each v: how far before the cell, along the move, the axis stands when the cutter touches it deepest, as a share of
   * the half chord sqrt(R² - v²): a share runs smoothly to the rim, where the distance itself does not.
   */
  private fillTable(m: number): void {
    if (m === this.tableSlope) return;
    this.tableSlope = m;
    const { flat, corner, radius } = this;
    for (let k = 0; k <= TABLE; k++) {
      const v = (k / TABLE) * radius;
      const chord = Math.sqrt(Math.max(0, radius * radius - v * v));
      this.table[k] = k < TABLE ? meshKernel().bullTouch(flat, corner, m, v) / chord : this.table[k - 1]!;
    }
    this.table[TABLE + 1] = this.table[TABLE]!;
  }

  private refresh(t: number): void {
    const { nx, heights } = this.map;
    const ti = t % this.tilesX;
    const tj = Math.floor(t / this.tilesX) + this.firstTileRow;
    const i1 = Math.min(nx, ti * TILE + TILE);
    const j1 = Math.min(this.rowEnd, tj * TILE + TILE);
    let top = -Infinity;
    for (let j = Math.max(this.rowStart, tj * TILE); j < j1; j++)
      for (let i = ti * TILE; i < i1; i++) if (heights[j * nx + i]! > top) top = heights[j * nx + i]!;
    this.tileMax[t] = top;
    this.stale[t] = 0;
  }
}
