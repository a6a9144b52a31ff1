import { rimTouches } from './front';
import type { PlanGrid } from './planGrid';

/** Steel this near to what the cutter cannot reach is not looked at, mm: rounding of the fields. */
const BESIDE_WALL_MM = 0.01;
/** The axis keeps this many steps of the grid more from steel where it is to touch none. */
const AIR_STEPS = 0.5;
/** Beside the rim of the cutter so many steps are lowered: what is asked for lies between nodes. */
const RIM_STEPS = 2;
/** Steel beside a front node lies within so many steps of the rim. */
const NEAR_STEPS = 4;
/** Ways through air are looked for on every second node. */
const WAY_STEPS = 2;

/** The steel at a height while it is cut, and where the axis is clear of it. */
export class LevelSteel {
  /** Signed distance of what is left to cut: above 0 in steel that the cutter reaches. */
  readonly left: Float32Array;
  /** Nodes on which ways are looked for. */
  readonly ways: PlanGrid;
  /** How many nodes of steel stand too near to each of them. */
  private readonly near: Uint16Array;
  /**
   * Nodes of the ways within the cutter's reach of a node, as steps in i and j in turn; for each remainder of the node's i and j,
   * since only every second node is one of the ways.
   */
  private readonly around: readonly Int16Array[];
  private nodesLeft = 0;
  /** What was changed since it is watched: nodes, and what the fields were there. */
  private changed: { nodes: number[]; steel: number[]; left: number[] } | undefined;

  /**
   * @param steel signed distance of all steel, lowered with the cuts
   * @param reached signed distance of what the cutter reaches
   */
  constructor(
    readonly grid: PlanGrid,
    readonly steel: Float32Array,
    reached: Float32Array,
    readonly radius: number,
  ) {
    const { step, nx, ny } = grid;
    this.left = new Float32Array(steel.length);
    for (let o = 0; o < steel.length; o++) this.left[o] = Math.min(reached[o]! - BESIDE_WALL_MM, steel[o]!);
    this.ways = {
      ...grid,
      step: WAY_STEPS * step,
      nx: Math.floor((nx - 1) / WAY_STEPS) + 1,
      ny: Math.floor((ny - 1) / WAY_STEPS) + 1,
    };
    this.near = new Uint16Array(this.ways.nx * this.ways.ny);
    const reach = radius / step + AIR_STEPS;
    this.around = Array.from({ length: WAY_STEPS * WAY_STEPS }, (_, rest) => {
      const around: number[] = [];
      const [ri, rj] = [rest % WAY_STEPS, Math.floor(rest / WAY_STEPS)];
      for (let j = -Math.ceil(reach); j <= reach; j++)
        for (let i = -Math.ceil(reach); i <= reach; i++)
          if (i * i + j * j <= reach * reach && (i + ri) % WAY_STEPS === 0 && (j + rj) % WAY_STEPS === 0)
            around.push((i + ri) / WAY_STEPS, (j + rj) / WAY_STEPS);
      return Int16Array.from(around);
    });
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++)
        if (this.left[j * nx + i]! > 0) {
          this.nodesLeft++;
          this.mark(i, j, 1);
        }
  }

  /** Steel that is left and can be reached, mm². */
  get areaLeft(): number {
    return this.nodesLeft * this.grid.step ** 2;
  }

  /** Whether the axis may stand at a node of the ways and touch no steel. */
  isAir(o: number): boolean {
    return this.near[o] === 0;
  }

  /** Whether the axis is clear of steel at a place: at all nodes of the ways around it. */
  isAirAt(x: number, y: number): boolean {
    const { x0, y0, step, nx, ny } = this.ways;
    const i = Math.floor((x - x0) / step);
    const j = Math.floor((y - y0) / step);
    if (i < 0 || j < 0 || i + 1 >= nx || j + 1 >= ny) return false;
    const o = j * nx + i;
    const { near } = this;
    return near[o] === 0 && near[o + 1] === 0 && near[o + nx] === 0 && near[o + nx + 1] === 0;
  }

  /** The same to the bounds of the fields, which is dearer. */
  isJustAirAt(x: number, y: number): boolean {
    return !rimTouches(this.grid, this.left, this.radius, x, y);
  }

  /** From a place to the nearest steel just beyond the cutter's rim, mm; undefined when there is none. */
  nearestTo(x: number, y: number): readonly [number, number] | undefined {
    const { x0, y0, step, nx, ny } = this.grid;
    const reach = this.radius + NEAR_STEPS * step;
    let least = reach * reach;
    let found: readonly [number, number] | undefined;
    const i1 = Math.min(nx - 1, Math.floor((x + reach - x0) / step));
    const j1 = Math.min(ny - 1, Math.floor((y + reach - y0) / step));
    for (let j = Math.max(0, Math.ceil((y - reach - y0) / step)); j <= j1; j++)
      for (let i = Math.max(0, Math.ceil((x - reach - x0) / step)); i <= i1; i++) {
        if (this.left[j * nx + i]! <= 0) continue;
        const dx = x0 + i * step - x;
        const dy = y0 + j * step - y;
        const square = dx * dx + dy * dy;
        if (square >= least) continue;
        least = square;
        found = [dx, dy];
      }
    return found;
  }

  /**
   * Lowers the steel along a straight motion of the axis; gives the area that it took, mm².
   *
   * @param goesOn it goes on from the last motion, in a step that is short against the cutter: only its rim is looked at
   */
  cut(ax: number, ay: number, bx: number, by: number, goesOn = false): number {
    const { radius } = this;
    const { x0, y0, step, nx, ny } = this.grid;
    const reach = radius + RIM_STEPS * step;
    const inner = goesOn ? radius - RIM_STEPS * step - Math.hypot(bx - ax, by - ay) : 0;
    const j0 = Math.max(0, Math.ceil((Math.min(ay, by) - reach - y0) / step));
    const j1 = Math.min(ny - 1, Math.floor((Math.max(ay, by) + reach - y0) / step));
    const low = Math.min(ax, bx);
    const high = Math.max(ax, bx);
    let taken = 0;
    for (let j = j0; j <= j1; j++) {
      const y = y0 + j * step;
      // no part of the motion comes nearer to the row than this
      const off = Math.max(0, Math.min(ay, by) - y, y - Math.max(ay, by));
      const wide = Math.sqrt(Math.max(0, reach * reach - off * off));
      const i0 = Math.max(0, Math.ceil((low - wide - x0) / step));
      const i1 = Math.min(nx - 1, Math.floor((high + wide - x0) / step));
      const far = y - by;
      const within = inner > Math.abs(far) ? Math.sqrt(inner * inner - far * far) : 0;
      if (within > 0) {
        taken += this.lower(j, i0, Math.min(i1, Math.floor((bx - within - x0) / step)), ax, ay, bx, by);
        taken += this.lower(j, Math.max(i0, Math.ceil((bx + within - x0) / step)), i1, ax, ay, bx, by);
      } else taken += this.lower(j, i0, i1, ax, ay, bx, by);
    }
    this.nodesLeft -= taken;
    return taken * step * step;
  }

  /** Lowers nodes i0 to i1 of a row; gives how many are no steel any more. */
  private lower(j: number, i0: number, i1: number, ax: number, ay: number, bx: number, by: number): number {
    const { left, steel, radius, changed } = this;
    const { x0, y0, step, nx } = this.grid;
    const dx = bx - ax;
    const dy = by - ay;
    const length = dx * dx + dy * dy;
    const over = length > 0 ? 1 / length : 0;
    const y = y0 + j * step - ay;
    let taken = 0;
    for (let i = i0; i <= i1; i++) {
      const o = j * nx + i;
      const far = steel[o]! + radius;
      if (far <= 0) continue;
      const x = x0 + i * step - ax;
      let t = (x * dx + y * dy) * over;
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      const ex = x - t * dx;
      const ey = y - t * dy;
      const square = ex * ex + ey * ey;
      if (square >= far * far) continue;
      const d = Math.sqrt(square) - radius;
      if (changed) {
        changed.nodes.push(o);
        changed.steel.push(steel[o]!);
        changed.left.push(left[o]!);
      }
      steel[o] = d;
      if (d >= left[o]!) continue;
      if (left[o]! > 0 && d <= 0) {
        taken++;
        this.mark(i, j, -1);
      }
      left[o] = d;
    }
    return taken;
  }

  /** From now on what is cut can be taken back. */
  watch(): void {
    this.changed = { nodes: [], steel: [], left: [] };
  }

  /** What was cut since it is watched stays cut. */
  keep(): void {
    this.changed = undefined;
  }

  /** Takes back what was cut since it is watched. */
  takeBack(): void {
    const { changed, grid } = this;
    this.changed = undefined;
    if (!changed) return;
    for (let k = changed.nodes.length - 1; k >= 0; k--) {
      const o = changed.nodes[k]!;
      const before = changed.left[k]!;
      if (before > 0 && this.left[o]! <= 0) {
        this.nodesLeft++;
        this.mark(o % grid.nx, Math.floor(o / grid.nx), 1);
      }
      this.steel[o] = changed.steel[k]!;
      this.left[o] = before;
    }
  }

  /** Counts a node of steel for the nodes of the ways around it, or no longer. */
  private mark(i: number, j: number, by: 1 | -1): void {
    const { near, ways } = this;
    const { nx, ny } = ways;
    const around = this.around[(i % WAY_STEPS) + WAY_STEPS * (j % WAY_STEPS)]!;
    const p = Math.floor(i / WAY_STEPS);
    const q = Math.floor(j / WAY_STEPS);
    for (let k = 0; k < around.length; k += 2) {
      const u = p + around[k]!;
      const v = q + around[k + 1]!;
      if (u >= 0 && v >= 0 && u < nx && v < ny) near[v * nx + u]! += by;
    }
  }
}
