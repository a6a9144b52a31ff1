import type { Polygon } from '../geometry/polygon';
import { allowedRoot, expectedRoot, type Jump, type Stretch } from './curveRoot';
import type { Cancel } from '../base/cancel';
import { type Matters, NEAR_STEPS } from './matters';
import type { Stretches } from './stretches';
import { nodeX, nodeY, type TipGrid, type TipSurface } from './tipSurface';

/**
 * Beyond where a curve is expected it is looked for, in turn, this share of what counts as near the curve below: where the
 * surface is too high there the curve has been passed.
 */
const BEYOND_SHARES = [0.02, 0.2, 1];

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

/** The trace of a lower height, whose rings will do where a curve nowhere leaves them by more than `within` mm. */
export interface Below {
  trace: LevelTracer;
  within: number;
  /** Whether the curve is that near to the lower one, or does not matter, all around a place. */
  covers: Matters;
}

/** An edge of the grid, seen from its allowed end. */
interface Edge extends Stretch {
  /** How far the axis moves from b towards a until the cutter is off what it stands on at b, mm; 0: not known. */
  escape: number;
}

/** Follows one height through the cells of a grid. */
export class LevelTracer {
  /** Rings that are those of the trace below. */
  readonly lower = new Set<Polygon>();
  /** Edges of the grid that are crossed, by their numbers, in the order in which they were come upon. */
  private readonly crossed: number[] = [];
  /** For each of them the next one, the forbidden side on the left. */
  private readonly next: number[] = [];
  /** Where the curve crosses them: x and y, once the rings were followed. */
  private points = new Float64Array();
  /** For each edge of the grid its place among those that are crossed, and one more; 0 for the others. */
  private readonly places: Int32Array;

  constructor(
    private readonly grid: TipGrid,
    stretches: Stretches,
    private readonly surface: TipSurface,
    readonly z: number,
    readonly matters: Matters,
    private readonly walls: Walls,
    readonly below?: Below,
    cancel?: Cancel,
  ) {
    this.places = new Int32Array(2 * grid.nx * grid.ny);
    for (let j = 0; j + 1 < grid.ny; j++) {
      cancel?.check();
      stretches.crossedIn(j, z, (from, to) => this.cells(j, from, to));
    }
  }

  rings(): Polygon[] {
    const rings: Polygon[] = [];
    const used = new Uint8Array(this.crossed.length);
    this.points = new Float64Array(2 * used.length);
    for (let start = 0; start < used.length; start++) {
      if (used[start]) continue;
      const places: number[] = [];
      for (let at = start; at >= 0 && !used[at]; at = this.places[this.next[at]!]! - 1) {
        used[at] = 1;
        places.push(at);
      }
      // all of one kind, or the ring would jump from one curve to the other
      const isBelow = this.takeBelow(places);
      const ring = new Float64Array(2 * places.length);
      places.forEach((at, k) => {
        if (!isBelow) this.put(at, this.crossing(this.crossed[at]!));
        ring[2 * k] = this.points[2 * at]!;
        ring[2 * k + 1] = this.points[2 * at + 1]!;
      });
      if (isBelow) this.lower.add(ring);
      rings.push(ring);
    }
    return rings;
  }

  private put(place: number, [x, y]: readonly [number, number]): void {
    this.points[2 * place] = x;
    this.points[2 * place + 1] = y;
  }

  /** Looks at the cells of row j in columns `from` to `to` (exclusive). */
  private cells(j: number, from: number, to: number): void {
    const { z } = this;
    const { nx, z: nodes } = this.grid;
    let o = j * nx + from;
    let left = (nodes[o]! > z ? 1 : 0) + (nodes[o + nx]! > z ? 8 : 0);
    for (let i = from; i < to; i++, o++) {
      const right = (nodes[o + 1]! > z ? 2 : 0) + (nodes[o + nx + 1]! > z ? 4 : 0);
      const code = left + right;
      left = (right & 2) / 2 + (right & 4) * 2;
      if (code !== 0 && code !== 15) this.cell(i, j, code);
    }
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
    for (const [from, to] of pieces) {
      const edge = this.edge(i, j, from);
      this.places[edge] = this.crossed.push(edge);
      this.next.push(this.edge(i, j, to));
    }
  }

  /** Number of an edge of cell (i, j): 0 below, 1 right, 2 above, 3 left. */
  private edge(i: number, j: number, edge: number): number {
    const ci = edge === 1 ? i + 1 : i;
    const cj = edge === 2 ? j + 1 : j;
    return 2 * (cj * this.grid.nx + ci) + (edge & 1);
  }

  /** Point where the curve crosses an edge. */
  private crossing(edge: number): readonly [number, number] {
    const stretch = this.stretchOf(edge);
    return this.mattersAt(stretch) ? this.root(this.keyOf(edge), stretch) : [stretch.ax, stretch.ay];
  }

  /** The edge from its allowed to its forbidden end. */
  private stretchOf(edge: number): Edge {
    const { grid } = this;
    const { nx, z, climbs, shifts, escapes } = grid;
    const along = edge & 1;
    const o = edge >> 1;
    const other = along ? o + nx : o + 1;
    const i = o % nx;
    const j = (o - i) / nx;
    const ax = nodeX(grid, i, j);
    const ay = nodeY(grid, i, j);
    const bx = nodeX(grid, i + 1 - along, j + along);
    const by = nodeY(grid, i + 1 - along, j + along);
    const za = z[o]!;
    const zb = z[other]!;
    // known along the axes only
    const isAside = shifts[2 * o + 1 - along] !== 0 || shifts[2 * other + 1 - along] !== 0;
    const ca = isAside ? NaN : climbs[2 * o + along]!;
    const cb = isAside ? NaN : climbs[2 * other + along]!;
    if (za > this.z) {
      const escape = escapes[4 * o + 2 * along]!;
      return { ax: bx, ay: by, za: zb, bx: ax, by: ay, zb: za, ca: -cb, cb: -ca, escape };
    }
    return { ax, ay, za, bx, by, zb, ca, cb, escape: escapes[4 * other + 2 * along + 1]! };
  }

  /** Names an edge and the side from which it is seen. */
  private keyOf(edge: number): number {
    return 2 * edge + (this.grid.z[edge >> 1]! > this.z ? 0 : 1);
  }

  private mattersAt({ ax, ay, bx, by }: Stretch): boolean {
    return this.matters((ax + bx) / 2, (ay + by) / 2, NEAR_STEPS * this.grid.step);
  }

  /**
   * Whether the curve goes farther from the one below than `within` at any place that matters. Where the surface is too high at
   * a place near the one below, the curve runs between there and an allowed node; that is looked for where it is expected.
   */
  leavesBelow(counts: (x: number, y: number) => boolean): boolean {
    const { below } = this;
    return !below || this.crossed.some((edge) => !this.isNearBelow(edge, below, counts));
  }

  private isNearBelow(edge: number, below: Below, counts: (x: number, y: number) => boolean): boolean {
    const stretch = this.stretchOf(edge);
    if (!this.mattersAt(stretch)) return true;
    const { ax, ay, bx, by } = stretch;
    const key = this.keyOf(edge);
    const length = Math.hypot(bx - ax, by - ay);
    const jump = this.jumpOn(key);
    const expected = jump ? jump.low : expectedRoot(stretch, length, this.z, this.guess(key, stretch, length));
    const ux = (bx - ax) / length;
    const uy = (by - ay) / length;
    if (!counts(ax + expected * ux, ay + expected * uy) || this.pointBelow(edge, below)) return true;
    if (!below.covers(ax, ay, 0)) return false;
    if (below.covers(bx, by, 0)) return true;
    return BEYOND_SHARES.some((share) => {
      const s = Math.min(length, expected + share * below.within);
      const x = ax + s * ux;
      const y = ay + s * uy;
      return below.covers(x, y, 0) && this.surface.forbids(x, y, this.z);
    });
  }

  /** Whether the points of the trace below on edges of a ring do; then they are taken. */
  private takeBelow(places: readonly number[]): boolean {
    const { below } = this;
    if (!below) return false;
    for (const at of places) {
      const point = this.pointBelow(this.crossed[at]!, below);
      if (!point) return false;
      this.put(at, point);
    }
    return true;
  }

  /** The point of the trace below on an edge; undefined when the curve is too far from any. */
  private pointBelow(edge: number, { trace, within }: Below): readonly [number, number] | undefined {
    const place = trace.places[edge]! - 1;
    if (place < 0) return undefined;
    const { grid } = this;
    const o = edge >> 1;
    // the curve lies between that point and the forbidden end of the edge
    const [x, y] = nodeAt(grid, grid.z[o]! > this.z ? o : edge & 1 ? o + grid.nx : o + 1);
    const point = [trace.points[2 * place]!, trace.points[2 * place + 1]!] as const;
    const [px, py] = point;
    const far = Math.hypot(x - px, y - py);
    if (far <= within) return point;
    const share = within / far;
    return this.surface.forbids(px + share * (x - px), py + share * (y - py), this.z) ? point : undefined;
  }

  /** The allowed root on an edge, from a jump known there, seen from the same side, when it spans this height. */
  private root(key: number, edge: Edge): readonly [number, number] {
    const { ax, ay, bx, by } = edge;
    const length = Math.hypot(bx - ax, by - ay);
    const known = this.jumpOn(key);
    if (known) {
      const share = known.low / length;
      return [ax + share * (bx - ax), ay + share * (by - ay)];
    }
    const { jumps, roots } = this.walls;
    const { at, s, climb, jump } = allowedRoot(this.surface, this.z, edge, this.guess(key, edge, length));
    if (jump && jump.zHigh - jump.zLow > JUMP_MM) jumps.set(key, jump);
    else roots.set(key, { s, z: this.z, climb });
    return at;
  }

  /** A jump on an edge that spans this height. */
  private jumpOn(key: number): Jump | undefined {
    const known = this.walls.jumps.get(key);
    return known && known.zLow <= this.z && this.z < known.zHigh ? known : undefined;
  }

  /**
   * Where on an edge the root may be by what is known of it, mm behind a: a wall goes on from height to height as it stands, and
   * the part's outline is where the cutter is off what it stands on at b. NaN when nothing is known.
   */
  private guess(key: number, { za, escape }: Edge, length: number): number {
    if (za === -Infinity && escape > 0) return length - escape;
    const last = this.walls.roots.get(key);
    return last ? last.s + (this.z - last.z) / last.climb : NaN;
  }
}

function nodeAt(grid: TipGrid, o: number): [number, number] {
  const i = o % grid.nx;
  const j = (o - i) / grid.nx;
  return [nodeX(grid, i, j), nodeY(grid, i, j)];
}
