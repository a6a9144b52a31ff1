import { Heap } from '../base/heap';
import { alongOf } from '../levels/loop';
import type { LevelSteel } from './levelSteel';
import { type PlanGrid, valueAt } from './planGrid';

/** The eight nodes around one, counter-clockwise. */
const AROUND = [
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
  [-1, -1],
  [0, -1],
  [1, -1],
] as const;
/** A way begins at a node at most this many radii from where the cutter stands. */
const NEAR_RADII = 1;
/** Rounding of the fields, mm. */
const ROUND_MM = 0.02;
/** A front is walked upstream for so many radii at most: round an island it has no end. */
const LONGEST_WALK = 60;
/** Corners of ways are rounded with such radii where there is room, in radii of the cutter. */
const ROUNDED = [0.6, 0.35, 0.2, 0.1];
const ARC_STEP = Math.PI / 12;

/** Where a pass begins, and its heading there, rad. */
export interface Front {
  readonly x: number;
  readonly y: number;
  readonly heading: number;
  /** The way there through air, x and y in turn, both ends among it; undefined when there is none. */
  readonly way: number[] | undefined;
}

/** Finds where steel can be met next, and ways there on which the cutter touches none. */
export class AirWays {
  /** Nodes from which nothing worth a pass could be taken. */
  private readonly banned: Uint8Array;
  private readonly cost: Float64Array;
  private readonly from: Int32Array;
  private readonly isOpen: Uint8Array;
  /** What the search comes to next. */
  private heap: Heap;
  /** Nodes of the fine grid at which no helix is begun any more. */
  private readonly noHelix: Uint8Array;

  /**
   * @param axis signed distance of where the axis may be, mm
   * @param walls the same for walls alone, mm
   */
  constructor(
    private readonly steel: LevelSteel,
    private readonly axis: Float32Array,
    private readonly walls: Float32Array,
  ) {
    const { ways, grid } = steel;
    const n = ways.nx * ways.ny;
    this.banned = new Uint8Array(n);
    this.cost = new Float64Array(n);
    this.from = new Int32Array(n);
    this.heap = new Heap(this.cost);
    this.isOpen = new Uint8Array(n);
    this.noHelix = new Uint8Array(grid.nx * grid.ny);
    for (let q = 0; q < ways.ny; q++)
      for (let p = 0; p < ways.nx; p++) if (axis[2 * q * grid.nx + 2 * p]! >= 0) this.isOpen[q * ways.nx + p] = 1;
  }

  /** Leaves fronts near a place out from now on. */
  ban(x: number, y: number, within: number): void {
    mark(this.steel.ways, this.banned, x, y, within);
  }

  /** Begins no helix near a place from now on. */
  banHelix(x: number, y: number, within: number): void {
    mark(this.steel.grid, this.noHelix, x, y, within);
  }

  /** Whether a helix may be begun at a node of the fine grid. */
  mayBegin(o: number): boolean {
    return this.noHelix[o] === 0;
  }

  /** The front that is reached by the shortest way through air from a place, with steel on the given side of its heading. */
  nearest(x: number, y: number, side: 1 | -1): Front | undefined {
    if (!this.beginAt(x, y)) return undefined;
    for (let o = this.goOn(); o >= 0; o = this.goOn()) {
      const towards = this.frontAt(o);
      if (towards >= 0) return this.frontFrom(o, towards, side, [x, y]);
    }
    return undefined;
  }

  /** Begins a search for ways from a place; false when none leads from it. */
  private beginAt(x: number, y: number): boolean {
    const begin = this.nodeNear(x, y);
    if (begin < 0) return false;
    this.cost.fill(Infinity);
    this.cost[begin] = 0;
    this.from[begin] = -1;
    this.heap = new Heap(this.cost);
    this.heap.push(begin, 0);
    return true;
  }

  /** The next node that the search comes to; -1 when there is none left. */
  private goOn(): number {
    const { cost, from, isOpen, steel, heap } = this;
    const { nx, ny } = steel.ways;
    const o = heap.pop();
    if (o < 0) return -1;
    const i = o % nx;
    const j = (o - i) / nx;
    const d = cost[o]!;
    for (let dj = -1; dj <= 1; dj++)
      for (let di = -1; di <= 1; di++) {
        const u = i + di;
        const v = j + dj;
        if (u < 0 || v < 0 || u >= nx || v >= ny) continue;
        const next = v * nx + u;
        if (!isOpen[next]) continue;
        const sum = d + (di !== 0 && dj !== 0 ? Math.SQRT2 : 1);
        if (sum >= cost[next]! || !steel.isAir(next)) continue;
        cost[next] = sum;
        from[next] = o;
        heap.push(next, sum);
      }
    return o;
  }

  /** A way through air from where the cutter stands to a place. */
  to(x: number, y: number, at: readonly [number, number]): number[] | undefined {
    const target = this.nodeNear(x, y);
    if (target < 0 || !this.beginAt(...at)) return undefined;
    const way = this.wayTo(target, at);
    return way && [...way, x, y];
  }

  /** Any front, nearest to a place as the crow flies: for when no way through air leads there. */
  anywhere(x: number, y: number, side: 1 | -1): Front | undefined {
    const { ways } = this.steel;
    let best = -1;
    let least = Infinity;
    for (let j = 0; j < ways.ny; j++)
      for (let i = 0; i < ways.nx; i++) {
        const o = j * ways.nx + i;
        if (!this.isOpen[o] || !this.steel.isAir(o)) continue;
        const d = Math.hypot(ways.x0 + i * ways.step - x, ways.y0 + j * ways.step - y);
        if (d >= least || this.frontAt(o) < 0) continue;
        best = o;
        least = d;
      }
    return best < 0 ? undefined : this.frontFrom(best, this.frontAt(best), side, undefined);
  }

  /** Direction in which steel that may be cut lies beside a node in air; -1 when none does. */
  private frontAt(o: number): number {
    if (this.banned[o]) return -1;
    const { nx, ny } = this.steel.ways;
    const i = o % nx;
    const j = (o - i) / nx;
    for (let k = 0; k < 8; k++) {
      const u = i + AROUND[k]![0];
      const v = j + AROUND[k]![1];
      if (u < 0 || v < 0 || u >= nx || v >= ny) continue;
      const next = v * nx + u;
      if (this.isOpen[next] && !this.steel.isAir(next)) return k;
    }
    return -1;
  }

  /** Walks a front against its heading to the wall, or to its end, and begins there. */
  private frontFrom(o: number, towards: number, side: 1 | -1, at: readonly [number, number] | undefined): Front {
    const { ways, radius } = this.steel;
    let [here, steelAt] = [o, towards];
    const most = (LONGEST_WALK * radius) / ways.step;
    for (let n = 0; n < most; n++) {
      const next = this.upstream(here, steelAt, side);
      if (!next || next.node === o || this.banned[next.node]) break;
      [here, steelAt] = [next.node, next.towards];
    }
    const [x, y] = this.placeOf(here);
    const [dx, dy] = this.steel.nearestTo(x, y) ?? AROUND[steelAt]!;
    const heading = Math.atan2(dy, dx) + side * (Math.PI / 2);
    const way = at && this.wayTo(here, at);
    return { x, y, heading, way };
  }

  /** The next node of the front against the heading, with the direction in which its steel lies; undefined at a wall. */
  private upstream(o: number, towards: number, side: 1 | -1): { node: number; towards: number } | undefined {
    const { nx, ny } = this.steel.ways;
    const i = o % nx;
    const j = (o - i) / nx;
    let [pi, pj] = [i + AROUND[towards]![0], j + AROUND[towards]![1]];
    for (let k = 1; k < 8; k++) {
      const [di, dj] = AROUND[(((towards - side * k) % 8) + 8) % 8]!;
      const [u, v] = [i + di, j + dj];
      if (u < 0 || v < 0 || u >= nx || v >= ny) return undefined;
      const node = v * nx + u;
      if (!this.isOpen[node]) return undefined;
      if (this.steel.isAir(node)) {
        const direction = AROUND.findIndex(([a, b]) => u + a === pi && v + b === pj);
        return direction < 0 ? undefined : { node, towards: direction };
      }
      [pi, pj] = [u, v];
    }
    return undefined;
  }

  /** A way through air to a node from where the search was begun: shortest over the nodes, straightened, its corners rounded. */
  private wayTo(target: number, at: readonly [number, number]): number[] | undefined {
    while (!(this.cost[target]! < Infinity)) if (this.goOn() < 0) return undefined;
    const nodes: number[] = [];
    for (let o = target; o >= 0; o = this.from[o]!) nodes.unshift(o);
    return this.rounded(this.straightened([[...at], ...nodes.map((o) => this.placeOf(o))]));
  }

  private straightened(points: readonly [number, number][]): [number, number][] {
    const out: [number, number][] = [points[0]!];
    let k = 0;
    while (k + 1 < points.length) {
      let next = k + 1;
      let reach = 1;
      // as far as it is free, looked at in growing strides
      for (let far = k + 2; far < points.length; far = k + 1 + reach) {
        if (!this.isFreeAlong(points[k]!, points[far]!, k === 0)) break;
        next = far;
        reach *= 2;
      }
      for (let far = next + 1; far < points.length; far++) {
        if (!this.isFreeAlong(points[k]!, points[far]!, k === 0)) break;
        next = far;
      }
      out.push(points[next]!);
      k = next;
    }
    return out;
  }

  private rounded(points: readonly [number, number][]): number[] {
    const out: number[] = [...points[0]!];
    for (let k = 1; k + 1 < points.length; k++) {
      const arc = this.corner([out[out.length - 2]!, out[out.length - 1]!], points[k]!, points[k + 1]!);
      out.push(...arc);
    }
    if (points.length > 1) out.push(...points[points.length - 1]!);
    return out;
  }

  /** A corner as an arc, where there is room for one on half of its shorter side. */
  private corner([ax, ay]: [number, number], [x, y]: [number, number], [bx, by]: [number, number]): number[] {
    const before = Math.hypot(x - ax, y - ay);
    const after = Math.hypot(bx - x, by - y);
    if (before < 1e-9 || after < 1e-9) return [x, y];
    const [ux, uy] = [(x - ax) / before, (y - ay) / before];
    const [vx, vy] = [(bx - x) / after, (by - y) / after];
    const turn = Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy);
    if (Math.abs(turn) < 0.05) return [x, y];
    for (const share of ROUNDED) {
      const r = share * this.steel.radius;
      const cut = r * Math.tan(Math.abs(turn) / 2);
      if (cut > before || cut > after / 2) continue;
      const [sx, sy] = [x - cut * ux, y - cut * uy];
      const way = turn > 0 ? 1 : -1;
      const [cx, cy] = [sx - way * r * uy, sy + way * r * ux];
      const first = Math.atan2(sy - cy, sx - cx);
      const n = Math.max(1, Math.ceil(Math.abs(turn) / ARC_STEP));
      const arc: number[] = [];
      for (let k = 0; k <= n; k++) {
        const a = first + (turn * k) / n;
        arc.push(cx + r * Math.cos(a), cy + r * Math.sin(a));
      }
      let isFree = true;
      for (let k = 0; k < arc.length && isFree; k += 2) isFree = this.isFreeAt(arc[k]!, arc[k + 1]!);
      if (isFree) return arc;
    }
    return [x, y];
  }

  private isFreeAt(x: number, y: number): boolean {
    return valueAt(this.steel.grid, this.axis, x, y, -1) >= 0 && this.steel.isAirAt(x, y);
  }

  /** @param isLeaving the first end is where a cut ended, nearer to steel than nodes may be */
  private isFreeAlong(a: readonly [number, number], b: readonly [number, number], isLeaving: boolean): boolean {
    const { steel, axis } = this;
    const leaving = NEAR_RADII * steel.radius;
    // what was cut before may have ended where this height has no room: from there it may be left
    const least = isLeaving ? Math.min(0, valueAt(steel.grid, axis, a[0], a[1], -1) - ROUND_MM) : 0;
    for (const [x, y] of alongOf(Float64Array.of(...a, ...b), steel.grid.step)) {
      const isNear = isLeaving && Math.hypot(x - a[0], y - a[1]) <= leaving;
      if (valueAt(steel.grid, axis, x, y, -1) < (isNear ? least : 0)) return false;
      if (valueAt(steel.grid, this.walls, x, y, -1) < -ROUND_MM) return false;
      if (steel.isAirAt(x, y)) continue;
      if (isNear && steel.isJustAirAt(x, y)) continue;
      return false;
    }
    return true;
  }

  /** The node in air that is nearest to a place and can be reached straight from it; -1 when none can. */
  private nodeNear(x: number, y: number): number {
    const { x0, y0, step, nx, ny } = this.steel.ways;
    const reach = NEAR_RADII * this.steel.radius;
    const places: { o: number; far: number }[] = [];
    const i1 = Math.min(nx - 1, Math.floor((x + reach - x0) / step));
    const j1 = Math.min(ny - 1, Math.floor((y + reach - y0) / step));
    for (let j = Math.max(0, Math.ceil((y - reach - y0) / step)); j <= j1; j++)
      for (let i = Math.max(0, Math.ceil((x - reach - x0) / step)); i <= i1; i++) {
        const o = j * nx + i;
        if (this.isOpen[o] && this.steel.isAir(o))
          places.push({ o, far: Math.hypot(x0 + i * step - x, y0 + j * step - y) });
      }
    places.sort((a, b) => a.far - b.far);
    return places.find(({ o }) => this.isFreeAlong([x, y], this.placeOf(o), true))?.o ?? -1;
  }

  private placeOf(o: number): [number, number] {
    const { x0, y0, step, nx } = this.steel.ways;
    const i = o % nx;
    return [x0 + i * step, y0 + ((o - i) / nx) * step];
  }
}

/** Marks the nodes of a grid in a square around a place. */
function mark({ x0, y0, step, nx, ny }: PlanGrid, marks: Uint8Array, x: number, y: number, within: number): void {
  const reach = Math.max(within, step);
  const i1 = Math.min(nx - 1, Math.floor((x + reach - x0) / step));
  const j1 = Math.min(ny - 1, Math.floor((y + reach - y0) / step));
  for (let j = Math.max(0, Math.ceil((y - reach - y0) / step)); j <= j1; j++)
    for (let i = Math.max(0, Math.ceil((x - reach - x0) / step)); i <= i1; i++) marks[j * nx + i] = 1;
}
