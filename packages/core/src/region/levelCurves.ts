import { areaOf, contains, type Polygon, simplifyRing } from '../geometry/polygon';
import { nodeX, nodeY, type TipGrid, type TipSurface } from './tipSurface';

/** A root is known to this length, mm; the side where the cutter may be is returned. */
const ROOT_MM = 2e-4;
/** Largest distance of the true curve from the line that is given for it, mm, where nothing else is asked for. */
export const CURVE_MM = 0.008;
/** What chords may take of that; the rest is for points that are left out. */
const REFINE_SHARE = 0.5;
/** Chords shorter than this are not divided further, mm. */
const SHORTEST_MM = 0.02;
const DEEPEST = 7;
/** Points of a ring nearer than this to the one before are left out, mm. */
const NEAREST_MM = 0.06;
/**
 * Height of an arc above its chord that needs no look, as a share of the tolerance, and how much the bend may change along
 * such a chord, rad a mm of tolerance.
 */
const FAIR_SHARE = 0.31;
const UNEVEN = 1.25;
/** A rise of more than this within {@link ROOT_MM} is a wall or an edge, worth remembering for other heights, mm. */
const JUMP_MM = 0.02;
/** Directions in which the border of an island within one cell is looked for. */
const ISLAND_RAYS = 24;
/**
 * Whether a curve matters is asked in the middles of edges and chords: no place of a cell, whose nodes may be half a step
 * off, lies farther from the middles of its edges than this, in steps of the grid.
 */
export const NEAR_STEPS = 1.6;
/** A bracket of the grid's step halves down to {@link ROOT_MM} in fewer looks. */
const MOST_LOOKS = 40;

/** Corners of a cell in turn, and for each case the directed pieces (edge to edge) with the forbidden side on the left. */
const PIECES: readonly (readonly (readonly [number, number])[])[] = [
  [],
  [[0, 3]],
  [[1, 0]],
  [[1, 3]],
  [[2, 1]],
  [],
  [[2, 0]],
  [[2, 3]],
  [[3, 2]],
  [[0, 2]],
  [],
  [[1, 2]],
  [[3, 1]],
  [[0, 1]],
  [[3, 0]],
  [],
];
const SADDLES: Readonly<Record<number, readonly (readonly [number, number])[][]>> = {
  5: [
    [
      [0, 3],
      [2, 1],
    ],
    [
      [0, 1],
      [2, 3],
    ],
  ],
  10: [
    [
      [1, 0],
      [3, 2],
    ],
    [
      [3, 0],
      [1, 2],
    ],
  ],
};

/**
 * Whether a curve must be exact within {@link NEAR_STEPS} steps of the grid around a place; elsewhere the allowed node of the
 * grid will do.
 */
export type Matters = (x: number, y: number) => boolean;

/** Something that throws when the work was called off. */
export interface Cancel {
  check(): void;
}

/** Where the tip surface jumps between two nodes of the grid: from `zLow` at `low` mm behind the first to `zHigh`. */
interface Jump {
  low: number;
  zLow: number;
  zHigh: number;
}

/**
 * Finds the closed curves where a tip surface crosses one height after another. What is learnt about walls at one height
 * serves at the next.
 */
export class LevelCurves {
  private readonly jumps = new Map<number, Jump>();

  constructor(
    private readonly grid: TipGrid,
    private readonly surface: TipSurface,
    private readonly cancel?: Cancel,
    private readonly tolerance = CURVE_MM,
  ) {}

  /**
   * The curves at height z. The forbidden side (tip surface above z) lies on the left, so its outer borders run
   * counter-clockwise and the openings in it clockwise. Points lie on the allowed side, to {@link ROOT_MM}; chords and
   * left-out points add the tolerance at most. Forbidden islands are found however small, since
   * each holds a summit of the part; openings narrower than the grid's step may be missed.
   */
  at(z: number, matters: Matters = () => true): Polygon[] {
    const { surface, tolerance } = this;
    const rings = new LevelTracer(this.grid, surface, z, matters, this.jumps, this.cancel).rings();
    this.addIslands(rings, z, matters);
    return rings
      .map((ring) => {
        const refined = refineRing(ring, surface, z, matters, tolerance, this.cancel);
        return simplifyRing(refined, (1 - REFINE_SHARE) * tolerance);
      })
      .filter((ring) => ring.length >= 6);
  }

  /** Adds islands around summits of the part that lie between the nodes of a cell, as seen from the summit all round. */
  private addIslands(rings: Polygon[], z: number, matters: Matters): void {
    const { grid, surface } = this;
    const { summits } = surface;
    const cells = new Set<number>();
    for (let k = 0; k < summits.length; k += 3) {
      if (summits[k + 2]! + surface.lift <= z) continue;
      const x = summits[k]!;
      const y = summits[k + 1]!;
      const i = Math.floor((x - grid.x0) / grid.step);
      const j = Math.floor((y - grid.y0) / grid.step);
      const o = j * grid.nx + i;
      if (cells.has(o)) continue;
      const nodes = [grid.z[o]!, grid.z[o + 1]!, grid.z[o + grid.nx]!, grid.z[o + grid.nx + 1]!];
      if (nodes.some((tip) => tip > z) || !matters(x, y)) continue;
      cells.add(o);
      if (windingAt(rings, x, y) > 0) continue;
      const top = surface.at(x, y);
      const ring: number[] = [];
      for (let n = 0; n < ISLAND_RAYS && top > z; n++) {
        const angle = (-2 * Math.PI * n) / ISLAND_RAYS;
        let reach = grid.step / 8;
        let [ex, ey, tip] = [x, y, top];
        for (; tip > z && reach < 4 * grid.step; reach *= 2) {
          ex = x + reach * Math.cos(angle);
          ey = y + reach * Math.sin(angle);
          tip = surface.at(ex, ey);
        }
        if (tip > z) break;
        ring.unshift(...allowedRoot(surface, z, ex, ey, tip, x, y, top).at);
      }
      if (ring.length === 2 * ISLAND_RAYS) rings.push(Float64Array.from(ring));
    }
  }
}

/** How many forbidden areas less openings of given curves hold a place. */
function windingAt(rings: readonly Polygon[], x: number, y: number): number {
  let count = 0;
  for (const ring of rings) if (contains(ring, x, y)) count += areaOf(ring) > 0 ? 1 : -1;
  return count;
}

class LevelTracer {
  private readonly points: number[] = [];
  private readonly edgePoint = new Map<number, number>();
  private readonly next = new Map<number, number>();

  constructor(
    private readonly grid: TipGrid,
    private readonly surface: TipSurface,
    private readonly z: number,
    private readonly matters: Matters,
    private readonly jumps: Map<number, Jump>,
    cancel?: Cancel,
  ) {
    const { nx, ny, z: nodes } = grid;
    for (let j = 0; j + 1 < ny; j++) {
      cancel?.check();
      let o = j * nx;
      let left = (nodes[o]! > z ? 1 : 0) + (nodes[o + nx]! > z ? 8 : 0);
      for (let i = 0; i + 1 < nx; i++, o++) {
        const right = (nodes[o + 1]! > z ? 2 : 0) + (nodes[o + nx + 1]! > z ? 4 : 0);
        const code = left + right;
        left = (right & 2) / 2 + (right & 4) * 2;
        if (code !== 0 && code !== 15) this.cell(i, j, code);
      }
    }
  }

  rings(): Polygon[] {
    const rings: Polygon[] = [];
    const used = new Set<number>();
    for (const start of this.next.keys()) {
      if (used.has(start)) continue;
      const ring: number[] = [];
      let at: number | undefined = start;
      while (at !== undefined && !used.has(at)) {
        used.add(at);
        ring.push(this.points[2 * at]!, this.points[2 * at + 1]!);
        at = this.next.get(at);
      }
      rings.push(Float64Array.from(ring));
    }
    return rings;
  }

  private cell(i: number, j: number, code: number): void {
    const level = this.z;
    let pieces = PIECES[code]!;
    const saddle = SADDLES[code];
    if (saddle) {
      // between the two allowed corners, which may lie in one valley
      const [a, b] = code === 5 ? [1, 0] : [0, 1];
      const x = (nodeX(this.grid, i + a, j) + nodeX(this.grid, i + b, j + 1)) / 2;
      const y = (nodeY(this.grid, i + a, j) + nodeY(this.grid, i + b, j + 1)) / 2;
      pieces = saddle[this.surface.forbids(x, y, level) ? 1 : 0]!;
    }
    for (const [from, to] of pieces) this.next.set(this.crossing(i, j, from), this.crossing(i, j, to));
  }

  /** Point where the curve crosses an edge of cell (i, j): 0 below, 1 right, 2 above, 3 left. */
  private crossing(i: number, j: number, edge: number): number {
    const ci = edge === 1 ? i + 1 : i;
    const cj = edge === 2 ? j + 1 : j;
    const upright = edge === 1 || edge === 3;
    const key = 2 * (cj * this.grid.nx + ci) + (upright ? 1 : 0);
    const known = this.edgePoint.get(key);
    if (known !== undefined) return known;
    const { nx, z, climbs, shifts } = this.grid;
    const o = cj * nx + ci;
    const other = upright ? o + nx : o + 1;
    const ax = nodeX(this.grid, ci, cj);
    const ay = nodeY(this.grid, ci, cj);
    const bx = nodeX(this.grid, upright ? ci : ci + 1, upright ? cj + 1 : cj);
    const by = nodeY(this.grid, upright ? ci : ci + 1, upright ? cj + 1 : cj);
    const za = z[o]!;
    const zb = z[other]!;
    const along = upright ? 1 : 0;
    // known along the axes only
    const isAside = shifts[2 * o + 1 - along] !== 0 || shifts[2 * other + 1 - along] !== 0;
    const ca = isAside ? NaN : climbs[2 * o + along]!;
    const cb = isAside ? NaN : climbs[2 * other + along]!;
    let at: readonly [number, number];
    if (!this.matters((ax + bx) / 2, (ay + by) / 2)) at = za > this.z ? [bx, by] : [ax, ay];
    else if (za > this.z) at = this.root(2 * key, bx, by, zb, ax, ay, za, -cb, -ca);
    else at = this.root(2 * key + 1, ax, ay, za, bx, by, zb, ca, cb);
    const n = this.points.length / 2;
    this.points.push(at[0], at[1]);
    this.edgePoint.set(key, n);
    return n;
  }

  /** The allowed root between nodes a and b, from a jump known there, seen from the same side, when it spans this height. */
  private root(
    key: number,
    ax: number,
    ay: number,
    za: number,
    bx: number,
    by: number,
    zb: number,
    ca: number,
    cb: number,
  ): readonly [number, number] {
    const known = this.jumps.get(key);
    if (known && known.zLow <= this.z && this.z < known.zHigh) {
      const share = known.low / Math.hypot(bx - ax, by - ay);
      return [ax + share * (bx - ax), ay + share * (by - ay)];
    }
    const { at, jump } = allowedRoot(this.surface, this.z, ax, ay, za, bx, by, zb, ca, cb);
    if (jump && jump.zHigh - jump.zLow > JUMP_MM) this.jumps.set(key, jump);
    return at;
  }
}

/**
 * Last allowed point between an allowed point a and a forbidden point b, to {@link ROOT_MM}. Each look gives the tip's
 * slope with its height, so Newton's step, aimed a hair to the allowed side, settles a smooth flank in two looks; steps
 * that leave the bracket or follow a weak one are replaced by halving, which settles jumps.
 *
 * @param za tip surface at a, mm; -Infinity when there is none
 * @param ca how fast it rises at a towards b, and `cb` at b in the same direction; NaN when unknown
 */
function allowedRoot(
  surface: TipSurface,
  z: number,
  ax: number,
  ay: number,
  za: number,
  bx: number,
  by: number,
  zb: number,
  ca = NaN,
  cb = NaN,
): { at: readonly [number, number]; jump?: Jump } {
  const length = Math.hypot(bx - ax, by - ay);
  const ux = (bx - ax) / length;
  const uy = (by - ay) / length;
  let low = 0;
  let high = length;
  let s = za > -Infinity ? (length * (z - za)) / (zb - za) : length / 2;
  // the tangent of the end that is nearer by its own account
  const fromA = (z - za) / ca;
  const fromB = (zb - z) / cb;
  if (fromB > 0 && fromB < length && !(fromA > 0 && fromA < fromB)) s = length - fromB - ROOT_MM / 2;
  else if (fromA > 0 && fromA < length) s = fromA - ROOT_MM / 2;
  s = Math.min(length - ROOT_MM, Math.max(ROOT_MM, s));
  let bracket = length;
  let zLow = za;
  let zHigh = zb;
  for (let k = 0; k < MOST_LOOKS && high - low > ROOT_MM; k++) {
    const f = surface.at(ax + s * ux, ay + s * uy) - z;
    const climb = surface.drop.climb(ux, uy);
    if (f > 0) {
      high = s;
      zHigh = f + z;
    } else {
      low = s;
      zLow = f + z;
      if (-f <= climb * ROOT_MM) break;
    }
    const next = s - f / climb - ROOT_MM / 2;
    const weak = (k & 1) === 1 && high - low > bracket / 2;
    if (next > low && next < high && !weak) s = next;
    else s = 0.5 * (low + high);
    if (k & 1) bracket = high - low;
  }
  const at = [ax + low * ux, ay + low * uy] as const;
  return high - low <= ROOT_MM ? { at, jump: { low, zLow, zHigh } } : { at };
}

function refineRing(
  ring: Polygon,
  surface: TipSurface,
  z: number,
  matters: Matters,
  tolerance: number,
  cancel?: Cancel,
): Polygon {
  const out: number[] = [];
  const points = withoutNear(ring);
  const n = points.length / 2;
  const fair = fairChords(points, tolerance);
  const refiner = new Refiner(surface, z, REFINE_SHARE * tolerance, out);
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    out.push(points[2 * k]!, points[2 * k + 1]!);
    if ((k & 63) === 0) cancel?.check();
    if (fair[k]) continue;
    const [ax, ay, bx, by] = [points[2 * k]!, points[2 * k + 1]!, points[2 * m]!, points[2 * m + 1]!];
    if (matters((ax + bx) / 2, (ay + by) / 2)) refiner.between(ax, ay, bx, by, 0);
  }
  return Float64Array.from(out);
}

/** A ring without points so near to the one before that their chord's direction is noise. */
function withoutNear(ring: Polygon): Polygon {
  const kept: number[] = [];
  for (let k = 0; k < ring.length; k += 2) {
    const last = kept.length - 2;
    if (last >= 0 && Math.hypot(ring[k]! - kept[last]!, ring[k + 1]! - kept[last + 1]!) < NEAREST_MM) continue;
    kept.push(ring[k]!, ring[k + 1]!);
  }
  return Float64Array.from(kept);
}

/**
 * Chords that need no look: those at which the ring bends evenly, the same before as behind, and so little that the arc's
 * height L² κ / 8 is within tolerance. A corner or a notch shows as a bend that its neighbours do not have.
 */
function fairChords(ring: Polygon, tolerance: number): Uint8Array {
  const n = ring.length / 2;
  const length = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const m = k + 1 < n ? k + 1 : 0;
    length[k] = Math.hypot(ring[2 * m]! - ring[2 * k]!, ring[2 * m + 1]! - ring[2 * k + 1]!);
  }
  const bend = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const b = k > 0 ? k - 1 : n - 1;
    const m = k + 1 < n ? k + 1 : 0;
    const px = ring[2 * k]! - ring[2 * b]!;
    const py = ring[2 * k + 1]! - ring[2 * b + 1]!;
    const qx = ring[2 * m]! - ring[2 * k]!;
    const qy = ring[2 * m + 1]! - ring[2 * k + 1]!;
    bend[k] = (2 * Math.atan2(px * qy - py * qx, px * qx + py * qy)) / (length[b]! + length[k]!);
  }
  const fair = new Uint8Array(n);
  for (let k = 0; k < n; k++) {
    const at = (by: number): number => bend[(k + by + n) % n]!;
    const L = length[k]!;
    const strongest = Math.max(Math.abs(at(0)), Math.abs(at(1)));
    const uneven = Math.max(Math.abs(at(0) - at(-1)), Math.abs(at(1) - at(0)), Math.abs(at(2) - at(1)));
    fair[k] = strongest * L * L < 8 * FAIR_SHARE * tolerance && uneven * L < UNEVEN * tolerance ? 1 : 0;
  }
  return fair;
}

/** Puts points between two of a curve where it leaves their chord. */
class Refiner {
  /** @param tolerance by which it may leave the chord to either side, mm */
  constructor(
    private readonly surface: TipSurface,
    private readonly z: number,
    private readonly tolerance: number,
    private readonly out: number[],
  ) {}

  between(ax: number, ay: number, bx: number, by: number, depth: number): void {
    const { surface, z, tolerance } = this;
    const dx = bx - ax;
    const dy = by - ay;
    const length = Math.hypot(dx, dy);
    if (length < SHORTEST_MM || depth >= DEEPEST) return;
    const mx = 0.5 * (ax + bx);
    const my = 0.5 * (ay + by);
    // to the right of the chord, where the curve's allowed side is
    const nx = dy / length;
    const ny = -dx / length;
    const f = surface.at(mx, my) - z;
    const off = -f / surface.drop.climb(nx, ny);
    // the slope at the middle tells how far the curve is; where it tells nothing, a look on the other side does
    if (Math.abs(off) <= tolerance) return;
    const inside = f > 0;
    const sign = inside ? 1 : -1;
    let reach = off * sign > 0 && off * sign < length / 2 ? off * sign + ROOT_MM / 2 : tolerance;
    let ex = mx + sign * reach * nx;
    let ey = my + sign * reach * ny;
    let beyond = surface.at(ex, ey) - z;
    let px = ex;
    let py = ey;
    // on the allowed side and next to the curve: that is the point
    if (!(inside && beyond <= 0 && beyond >= surface.drop.climb(nx, ny) * 2 * ROOT_MM)) {
      if (beyond > 0 !== inside && reach <= tolerance) return;
      while (beyond > 0 === inside) {
        if (reach >= length) return;
        reach = Math.min(length, 2 * reach);
        ex = mx + sign * reach * nx;
        ey = my + sign * reach * ny;
        beyond = surface.at(ex, ey) - z;
      }
      const root = inside
        ? allowedRoot(surface, z, ex, ey, beyond + z, mx, my, f + z)
        : allowedRoot(surface, z, mx, my, f + z, ex, ey, beyond + z);
      [px, py] = root.at;
    }
    this.between(ax, ay, px, py, depth + 1);
    this.out.push(px, py);
    this.between(px, py, bx, by, depth + 1);
  }
}
