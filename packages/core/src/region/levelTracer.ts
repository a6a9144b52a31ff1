import type { Polygon } from '../geometry/polygon';
import { allowedRoot, type Jump } from './curveRoot';
import type { Cancel } from './levelCurves';
import { type Matters, NEAR_STEPS } from './matters';
import { nodeX, nodeY, type TipGrid, type TipSurface } from './tipSurface';

/** A rise of more than this within {@link ROOT_MM} is a wall or an edge, worth remembering for other heights, mm. */
const JUMP_MM = 0.02;

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

/** What was found at the heights before, for each edge of the grid and each side from which it is seen. */
export interface Walls {
  jumps: Map<number, Jump>;
  /** The last root on it: mm behind its allowed end, its height, and how fast the surface rises there. */
  roots: Map<number, { s: number; z: number; climb: number }>;
}

/** The trace of a lower height, whose points will do where the curve cannot leave them by more than `within` mm. */
export interface Below {
  trace: LevelTracer;
  within: number;
}

/** Follows one height through the cells of a grid. */
export class LevelTracer {
  private readonly points: number[] = [];
  private readonly edgePoint = new Map<number, number>();
  private readonly next = new Map<number, number>();

  constructor(
    private readonly grid: TipGrid,
    private readonly surface: TipSurface,
    private readonly z: number,
    private readonly matters: Matters,
    private readonly walls: Walls,
    private readonly below?: Below,
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
    let at = za > this.z ? this.pointBelow(key, ax, ay) : this.pointBelow(key, bx, by);
    if (at) {
      // the curve lies between that point and the forbidden end
    } else if (!this.matters((ax + bx) / 2, (ay + by) / 2, NEAR_STEPS * this.grid.step))
      at = za > this.z ? [bx, by] : [ax, ay];
    else if (za > this.z) at = this.root(2 * key, bx, by, zb, ax, ay, za, -cb, -ca);
    else at = this.root(2 * key + 1, ax, ay, za, bx, by, zb, ca, cb);
    const n = this.points.length / 2;
    this.points.push(at[0], at[1]);
    this.edgePoint.set(key, n);
    return n;
  }

  /** The point of the trace below on an edge whose forbidden end is (x, y), where the curve is near enough to it. */
  private pointBelow(key: number, x: number, y: number): readonly [number, number] | undefined {
    const { below } = this;
    const n = below?.trace.edgePoint.get(key);
    if (!below || n === undefined) return undefined;
    const [px, py] = [below.trace.points[2 * n]!, below.trace.points[2 * n + 1]!];
    const far = Math.hypot(x - px, y - py);
    if (far <= below.within) return [px, py];
    const share = below.within / far;
    return this.surface.forbids(px + share * (x - px), py + share * (y - py), this.z) ? [px, py] : undefined;
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
    const { jumps, roots } = this.walls;
    const known = jumps.get(key);
    if (known && known.zLow <= this.z && this.z < known.zHigh) {
      const share = known.low / Math.hypot(bx - ax, by - ay);
      return [ax + share * (bx - ax), ay + share * (by - ay)];
    }
    // a wall goes on from height to height as it stands
    const last = roots.get(key);
    const guess = last ? last.s + (this.z - last.z) / last.climb : NaN;
    const { at, s, climb, jump } = allowedRoot(this.surface, this.z, ax, ay, za, bx, by, zb, ca, cb, guess);
    if (jump && jump.zHigh - jump.zLow > JUMP_MM) jumps.set(key, jump);
    else roots.set(key, { s, z: this.z, climb });
    return at;
  }
}
