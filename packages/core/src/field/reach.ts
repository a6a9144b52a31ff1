import type { Cancel } from '../base/cancel';
import { CutterDrop, ProfileDrop } from '../tool/drop';
import { heightAt, type Profile } from '../tool/profile';
import { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import { type TipSurfaceSpec, TipSurface } from './tipSurface';
import type { HeightMap } from '../steel/heightMap';
import { THICKEST_MM } from '../steel/leftover';

/** Places where the cutter is tried, in radii apart, and at most so far apart, mm. */
const STEP_SHARE = 1 / 8;
const ROUGH_SHARE = 1 / 4;
const WIDEST_STEP_MM = 1;
/** The cutter leans against walls this far off, mm: rounding would have it on top of them. */
const OFF_WALL_MM = 1e-4;
/** Walls that it is pushed away from, one after another. */
const PUSHES = 4;
/** What stands less than this above the allowance is reached, mm. */
const REACHED_MM = 0.01;

/** How low a cutter can take the steel over a part: by trying it on a grid, and where it would just touch each place. */
export class Reach {
  private readonly surface: TipSurface;
  private readonly ray: CutterDrop;
  private readonly body?: ProfileDrop;
  private readonly nearest: ClosestPoint;
  private readonly step: number;
  private readonly tips = new Map<number, number>();

  /**
   * @param body shank and holder above the tip, kept off the part as it is
   * @param share of the radius by which places where the cutter is tried lie apart
   */
  constructor(
    private readonly spec: TipSurfaceSpec,
    body: Profile = [],
    share = STEP_SHARE,
  ) {
    this.surface = new TipSurface(spec);
    this.ray = new CutterDrop(spec.mesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    this.nearest = new ClosestPoint(spec.mesh as ContactMesh);
    if (body.length > 0) this.body = new ProfileDrop(spec.mesh, body);
    this.step = Math.min(WIDEST_STEP_MM, share * spec.piece.radius);
  }

  /** Lowest height that the cutter can leave at (x, y), mm; -Infinity where no part holds it up. */
  lowest(x: number, y: number): number {
    const { side, floor } = this.spec;
    this.ray.at(x, y);
    const contact = this.ray.contact();
    if (!contact || contact.nz <= 0) return this.fromGrid(x, y, Infinity);
    // most places are simply touched
    const wanted = contact.z + (side + (floor - side) * contact.nz) / contact.nz + REACHED_MM;
    let low = this.touching(x, y, contact.nx, contact.ny);
    if (low <= wanted) return low;
    low = this.fromGrid(x, y, low);
    if (low > contact.z + Math.max(side, floor) + REACHED_MM) low = Math.min(low, this.besideWall(x, y, low));
    return low;
  }

  /** Height that is left at (x, y) where the grown cutter would just touch the place below, whose normal leans so. */
  private touching(x: number, y: number, nx: number, ny: number): number {
    const { piece, side } = this.spec;
    const flat = Math.hypot(nx, ny);
    const away = flat > 1e-9 ? piece.flat / flat + piece.corner + side : 0;
    const dx = away * nx;
    const dy = away * ny;
    return this.tipAt(x + dx, y + dy) + heightAt(piece, Math.hypot(dx, dy));
  }

  private fromGrid(x: number, y: number, atMost: number): number {
    const { piece } = this.spec;
    const { radius } = piece;
    const { step } = this;
    const i0 = Math.ceil((x - radius) / step);
    const i1 = Math.floor((x + radius) / step);
    const j0 = Math.ceil((y - radius) / step);
    const j1 = Math.floor((y + radius) / step);
    let low = atMost;
    for (let j = j0; j <= j1; j++)
      for (let i = i0; i <= i1; i++) {
        const dx = i * step - x;
        const dy = j * step - y;
        const d = Math.sqrt(dx * dx + dy * dy);
        if (d > radius) continue;
        const tip = this.node(i, j);
        if (tip < low) low = Math.min(low, tip + heightAt(piece, d));
      }
    return low;
  }

  /** Height that is left at (x, y) by the cutter leaning against the wall that is nearest to what stands there. */
  private besideWall(x: number, y: number, z: number): number {
    const { piece, side } = this.spec;
    const away = this.nearest.distance(x, y, z);
    const dx = x - this.nearest.x;
    const dy = y - this.nearest.y;
    const flat = Math.hypot(dx, dy);
    if (flat < REACHED_MM || flat > piece.radius + side || away === 0) return Infinity;
    const out = (piece.radius + side + OFF_WALL_MM) / flat;
    let cx = this.nearest.x + out * dx;
    let cy = this.nearest.y + out * dy;
    let low = Infinity;
    for (let push = 0; push < PUSHES; push++) {
      const d = Math.hypot(cx - x, cy - y);
      const tip = this.tipAt(cx, cy);
      low = Math.min(low, tip + heightAt(piece, d));
      if (tip >= z || d > piece.radius) {
        // a second wall holds it up: away from that one too
        const at = this.surface.drop.contact();
        const [ux, uy] = at ? [cx - at.x, cy - at.y] : [0, 0];
        const l = Math.hypot(ux, uy);
        if (l < REACHED_MM || l > piece.radius + side) break;
        const by = (piece.radius + side + OFF_WALL_MM - l) / l;
        cx += by * ux;
        cy += by * uy;
      } else break;
    }
    return low;
  }

  private node(i: number, j: number): number {
    const key = (j + 1e6) * 4e6 + i + 1e6;
    let tip = this.tips.get(key);
    if (tip === undefined) {
      tip = this.tipAt(i * this.step, j * this.step);
      this.tips.set(key, tip);
    }
    return tip;
  }

  private tipAt(x: number, y: number): number {
    const tip = this.surface.at(x, y);
    return this.body ? Math.max(tip, this.body.at(x, y, tip)) : tip;
  }
}

/** Lowers rows of a map of steel to what a cutter could leave there. */
export function lowerToReach(
  map: HeightMap,
  spec: TipSurfaceSpec,
  rows: readonly [number, number],
  cancel?: Cancel,
): void {
  const reach = new Reach(spec);
  for (let j = rows[0]; j < rows[1]; j++) {
    cancel?.check();
    for (let i = 0; i < map.nx; i++) {
      const o = j * map.nx + i;
      const low = Math.max(map.floor, reach.lowest(map.x0 + (i + 0.5) * map.cell, map.y0 + (j + 0.5) * map.cell));
      if (low < map.heights[o]!) map.heights[o] = low;
    }
  }
}

/** What a cutter would take of the steel that is left, and leave. */
export interface Reached {
  /** mm³ that stand too thick above the allowance, and of these what it would take. */
  left: number;
  taken: number;
  /** Thickest that would stay above the allowance, mm. */
  thickest: number;
  /** Time of the cuts, s: each cell's volume at the rate of one pass of depth `ap` as wide as it is thick, `ae` at most. */
  time: number;
}

export interface ReachInput {
  spec: TipSurfaceSpec;
  /** Shank and holder above the tip. */
  body: Profile;
  stock: HeightMap;
  /** Steel above the part along its normal, mm. */
  leftover: Float32Array;
  /** Cells to be looked at, each standing for `cellArea` mm². */
  cells: Uint32Array;
  cellArea: number;
  allowance: number;
  threshold: number;
  ap: number;
  ae: number;
  /** mm/min. */
  feed: number;
}

/** Tries a cutter on the places where too much is left. Steel beside them is not looked at: holders are held against the part. */
export function reachedBy(input: ReachInput, cancel?: Cancel): Reached {
  const { stock, leftover, allowance, threshold, spec } = input;
  const reach = new Reach(spec, input.body, ROUGH_SHARE);
  const closest = new ClosestPoint(spec.mesh as ContactMesh);
  const out: Reached = { left: 0, taken: 0, thickest: 0, time: 0 };
  input.cells.forEach((o, k) => {
    if ((k & 63) === 0) cancel?.check();
    const x = stock.x0 + ((o % stock.nx) + 0.5) * stock.cell;
    const y = stock.y0 + (Math.floor(o / stock.nx) + 0.5) * stock.cell;
    const before = leftover[o]!;
    const low = Math.max(stock.floor, reach.lowest(x, y));
    let after = before;
    if (low < stock.heights[o]!) after = Math.min(before, closest.distance(x, y, low, THICKEST_MM));
    const taken = (before - Math.max(after, allowance)) * input.cellArea;
    out.left += (before - allowance) * input.cellArea;
    out.taken += taken;
    const stays = after - allowance;
    if (stays > threshold) out.thickest = Math.max(out.thickest, stays);
    const width = Math.max(0.05, Math.min(input.ae, before - allowance));
    out.time += (taken / (input.ap * width * input.feed)) * 60;
  });
  return out;
}

/** Cells where more than `threshold` stands above the allowance, thinned out evenly to about `most`, and what each stands for. */
export function restCells(
  stock: HeightMap,
  leftover: Float32Array,
  allowance: number,
  threshold: number,
  most: number,
): { cells: Uint32Array; stride: number } {
  const is = (o: number): boolean => leftover[o]! - allowance > threshold;
  let all = 0;
  for (let o = 0; o < leftover.length; o++) if (is(o)) all++;
  const stride = Math.max(1, Math.ceil(Math.sqrt(all / most)));
  const cells: number[] = [];
  for (let j = 0; j < stock.ny; j += stride)
    for (let i = 0; i < stock.nx; i += stride) if (is(j * stock.nx + i)) cells.push(j * stock.nx + i);
  return { cells: Uint32Array.from(cells), stride };
}
