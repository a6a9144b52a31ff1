import { type ContactMesh, FAN, LEAF } from '../geometry/contactMesh';
import { bullTouch } from './bullTouch';
import type { ProfilePiece } from './profile';

/** A contact point this far outside its facet (share of the facet's area) still counts: rounding of the test. */
const INSIDE = -1e-11;
/** A facet whose normal leans less than this is level: its lean is rounding and tells no direction. */
const LEVEL_LEAN = 2e-8;
/** Plan length below which an edge counts as upright, mm. */
const UPRIGHT_EDGE_MM = 1e-12;
const STACK = 1024;
const KIND_FLAT = 0;
const KIND_BALL = 1;
const KIND_BULL = 2;
const KIND_CONE = 3;

/** What the cutter touches. */
export interface Contact {
  /** Point on the part, mm. */
  x: number;
  y: number;
  z: number;
  /** Unit normal from the part to the cutter. */
  nx: number;
  ny: number;
  nz: number;
  element: 'facet' | 'edge';
  /** Number of the triangle in the contact mesh. */
  triangle: number;
}

/**
 * Exact contact of one convex profile piece, lowered along Z onto a mesh: the largest tip height at which it touches
 * facets, edges or vertices. Keeps the last contact to start the next query from, so neighbouring queries are fast.
 * Facet: the point of the cutter whose normal is the facet's. Edge: a concave maximum along the edge, closed form but
 * for the bull-nose, whose root is found by guarded Newton (Choi & Jerard 1998, from memory).
 */
export class CutterDrop {
  /** Triangle of the last contact, -1 for none. */
  triangle = -1;
  private edge = -1;
  private along = 0;
  private bestTip = -Infinity;
  private px = 0;
  private py = 0;
  private last = -1;
  private readonly stack = new Int32Array(STACK);
  private readonly kind: number;
  private readonly z: number;
  private readonly flat: number;
  private readonly corner: number;
  private readonly radius: number;
  private readonly slope: number;

  constructor(
    private readonly mesh: ContactMesh,
    piece: ProfilePiece,
  ) {
    this.z = piece.z;
    this.flat = piece.flat;
    this.radius = piece.radius;
    this.corner = piece.kind === 'round' ? piece.corner : 0;
    this.slope = piece.kind === 'cone' ? piece.slope : 0;
    if (piece.kind === 'cone') this.kind = KIND_CONE;
    else if (piece.corner === 0) this.kind = KIND_FLAT;
    else this.kind = piece.flat === 0 ? KIND_BALL : KIND_BULL;
  }

  /**
   * Tip height (mm) of the touching cutter with its axis at (x, y), mm; -Infinity where nothing lies under it.
   *
   * @param atLeast only contacts above this tip height are of interest; it is returned when there is none
   */
  at(x: number, y: number, atLeast = -Infinity): number {
    this.begin(x, y, atLeast);
    this.descend(false);
    if (this.triangle >= 0) this.last = (this.triangle / LEAF) | 0;
    return this.bestTip - this.z;
  }

  private begin(x: number, y: number, atLeast: number): void {
    this.px = x;
    this.py = y;
    this.triangle = -1;
    this.bestTip = atLeast + this.z;
  }

  /** Walks the tree, best leaf first; with `any` only until something is touched. */
  private descend(any: boolean): void {
    const { boxes, levels, count } = this.mesh;
    const stack = this.stack;
    const top = levels.length - 2;
    if (this.last >= 0) {
      this.leaf(this.last, count);
      if (any && this.triangle >= 0) return;
    }
    let size = 0;
    stack[size++] = levels[top]!;
    stack[size++] = top;
    while (size > 0) {
      const level = stack[--size]!;
      const node = stack[--size]!;
      if (level === 0) {
        if (node === this.last || !this.boxCanTouch(boxes, node * 6)) continue;
        this.leaf(node, count);
        if (any && this.triangle >= 0) return;
        continue;
      }
      if (!this.boxCanTouch(boxes, node * 6)) continue;
      const first = levels[level - 1]! + Math.imul(node - levels[level]!, FAN);
      const end = Math.min(levels[level]!, first + FAN);
      for (let child = first; child < end; child++) {
        if (this.boxCanTouch(boxes, child * 6)) {
          stack[size++] = child;
          stack[size++] = level - 1;
        }
      }
    }
  }

  /** Whether the cutter with its tip at (x, y, tip) is inside the mesh: {@link at} is above `tip`. Stops at the first proof. */
  exceeds(x: number, y: number, tip: number): boolean {
    this.begin(x, y, tip);
    this.descend(true);
    if (this.triangle >= 0) this.last = (this.triangle / LEAF) | 0;
    return this.triangle >= 0;
  }

  /** The contact found by the last query, or undefined when there was none. */
  contact(): Contact | undefined {
    const i = this.triangle;
    if (i < 0) return undefined;
    return this.edge < 0 ? this.facetContact(i) : this.edgeContact(i);
  }

  private boxCanTouch(boxes: Float32Array, o: number): boolean {
    const q = boxes[o + 5]! - this.bestTip;
    if (!(q > 0)) return false;
    const x = this.px;
    const y = this.py;
    const dx = x < boxes[o]! ? boxes[o]! - x : x > boxes[o + 2]! ? x - boxes[o + 2]! : 0;
    const dy = y < boxes[o + 1]! ? boxes[o + 1]! - y : y > boxes[o + 3]! ? y - boxes[o + 3]! : 0;
    const d2 = dx * dx + dy * dy;
    const R = this.radius;
    if (d2 > R * R) return false;
    if (this.kind === KIND_FLAT) return true;
    if (this.kind === KIND_CONE) {
      const reach = this.flat + q / this.slope;
      return reach >= R || d2 <= reach * reach;
    }
    const r = this.corner;
    if (q >= r) return true;
    if (this.kind === KIND_BALL) return d2 <= q * (2 * r - q);
    const reach = this.flat + Math.sqrt(q * (2 * r - q));
    return d2 <= reach * reach;
  }

  private leaf(node: number, count: number): void {
    const first = node * LEAF;
    const end = Math.min(count, first + LEAF);
    for (let i = first; i < end; i++) this.testTriangle(i);
  }

  private testTriangle(i: number): void {
    const planes = this.mesh.planes;
    const nz = planes[4 * i + 2]!;
    const x = this.px;
    const y = this.py;
    if (nz > 0) {
      const nx = planes[4 * i]!;
      const ny = planes[4 * i + 1]!;
      const h2 = nx * nx + ny * ny;
      const h = Math.sqrt(h2);
      let out: number;
      let rise: number;
      if (this.kind === KIND_CONE) {
        const atRim = h > this.slope * nz;
        const reach = atRim ? this.radius : this.flat;
        out = h > LEVEL_LEAN ? reach / h : 0;
        rise = atRim ? this.slope * (this.radius - this.flat) : 0;
      } else {
        out = (h > LEVEL_LEAN ? this.flat / h : 0) + this.corner;
        rise = this.corner * (1 - nz);
      }
      const cx = x - out * nx;
      const cy = y - out * ny;
      const tip = (planes[4 * i + 3]! - nx * cx - ny * cy) / nz - rise;
      if (tip <= this.bestTip) return;
      if (this.inside(i, cx, cy)) {
        this.bestTip = tip;
        this.triangle = i;
        this.edge = -1;
        return;
      }
    }
    const kept = this.mesh.edges[i]!;
    if (kept & 1) this.testEdge(i, 0);
    if (kept & 2) this.testEdge(i, 1);
    if (kept & 4) this.testEdge(i, 2);
  }

  private inside(i: number, x: number, y: number): boolean {
    const t = this.mesh.triangles;
    const o = 9 * i;
    const ax = t[o]! - x;
    const ay = t[o + 1]! - y;
    const bx = t[o + 3]! - x;
    const by = t[o + 4]! - y;
    const cx = t[o + 6]! - x;
    const cy = t[o + 7]! - y;
    const e0 = ax * by - ay * bx;
    const e1 = bx * cy - by * cx;
    const e2 = cx * ay - cy * ax;
    const area = e0 + e1 + e2;
    const slack = INSIDE * Math.abs(area);
    return area > 0 ? e0 >= slack && e1 >= slack && e2 >= slack : -e0 >= slack && -e1 >= slack && -e2 >= slack;
  }

  private testEdge(i: number, e: number): void {
    const t = this.mesh.triangles;
    const a = 9 * i + 3 * e;
    const b = 9 * i + (e === 2 ? 0 : 3 * e + 3);
    const az = t[a + 2]!;
    const bz = t[b + 2]!;
    const highest = az > bz ? az : bz;
    if (highest <= this.bestTip) return;
    const ax = t[a]! - this.px;
    const ay = t[a + 1]! - this.py;
    let ux = t[b]! - t[a]!;
    let uy = t[b + 1]! - t[a + 1]!;
    const length = Math.sqrt(ux * ux + uy * uy);
    const R2 = this.radius * this.radius;
    if (length < UPRIGHT_EDGE_MM) {
      const d2 = ax * ax + ay * ay;
      if (d2 <= R2) this.offer(highest - this.rise(Math.sqrt(d2)), i, e, az > bz ? 0 : 1);
      return;
    }
    ux /= length;
    uy /= length;
    const v = ax * uy - ay * ux;
    const v2 = v * v;
    const w2 = R2 - v2;
    if (w2 < 0 || highest - this.rise(Math.abs(v)) <= this.bestTip) return;
    const w = Math.sqrt(w2);
    const sa = ax * ux + ay * uy;
    const lo = sa > -w ? sa : -w;
    const hi = sa + length < w ? sa + length : w;
    if (lo > hi) return;
    const m = (bz - az) / length;
    // no place between lo and hi is higher than the higher of the two, nor nearer to the axis than this
    const nearest = lo > 0 ? lo : hi < 0 ? hi : 0;
    const top = az + m * ((m > 0 ? hi : lo) - sa);
    if (top - this.rise(Math.sqrt(v2 + nearest * nearest)) <= this.bestTip) return;
    let s = this.summit(m, Math.abs(v), w);
    if (s < lo) s = lo;
    else if (s > hi) s = hi;
    const d = Math.sqrt(v2 + s * s);
    this.offer(az + m * (s - sa) - this.rise(d < this.radius ? d : this.radius), i, e, (s - sa) / length);
  }

  private offer(tip: number, i: number, e: number, along: number): void {
    if (tip <= this.bestTip) return;
    this.bestTip = tip;
    this.triangle = i;
    this.edge = e;
    this.along = along;
  }

  /** Height of the underside above its lowest disc at radius d. */
  private rise(d: number): number {
    if (d <= this.flat) return 0;
    if (this.kind === KIND_CONE) return this.slope * (d - this.flat);
    const r = this.corner;
    const e = d - this.flat;
    return e >= r ? r : r - Math.sqrt(r * r - e * e);
  }

  /** Where along an unbounded edge of slope m, v mm off the axis, the tip is highest, from the foot of the axis, mm. */
  private summit(m: number, v: number, w: number): number {
    if (m === 0) return 0;
    const up = m > 0 ? m : -m;
    let s = w;
    if (this.kind === KIND_BALL) s = (w * up) / Math.sqrt(1 + up * up);
    else if (this.kind === KIND_BULL) s = bullTouch(this.flat, this.corner, up, v);
    else if (this.kind === KIND_CONE) {
      if (up < this.slope) s = (v * up) / Math.sqrt(this.slope * this.slope - up * up);
      const onDisc = v < this.flat ? Math.sqrt(this.flat * this.flat - v * v) : 0;
      if (s < onDisc) s = onDisc;
    }
    return m > 0 ? s : -s;
  }

  private facetContact(i: number): Contact {
    const planes = this.mesh.planes;
    const nx = planes[4 * i]!;
    const ny = planes[4 * i + 1]!;
    const nz = planes[4 * i + 2]!;
    const h = Math.hypot(nx, ny);
    const flat = this.kind === KIND_CONE && h > this.slope * nz ? this.radius : this.flat;
    const out = (h > LEVEL_LEAN ? flat / h : 0) + this.corner;
    const x = this.px - out * nx;
    const y = this.py - out * ny;
    return { x, y, z: (planes[4 * i + 3]! - nx * x - ny * y) / nz, nx, ny, nz, element: 'facet', triangle: i };
  }

  private edgeContact(i: number): Contact {
    const t = this.mesh.triangles;
    const a = 9 * i + 3 * this.edge;
    const b = 9 * i + (this.edge === 2 ? 0 : 3 * this.edge + 3);
    const k = this.along;
    const x = t[a]! + k * (t[b]! - t[a]!);
    const y = t[a + 1]! + k * (t[b + 1]! - t[a + 1]!);
    const z = t[a + 2]! + k * (t[b + 2]! - t[a + 2]!);
    const dx = this.px - x;
    const dy = this.py - y;
    const d = Math.hypot(dx, dy);
    let tilt = 0;
    if (d > this.flat) {
      if (this.kind === KIND_CONE) tilt = this.slope / Math.hypot(1, this.slope);
      else tilt = this.corner > 0 ? Math.min(1, (d - this.flat) / this.corner) : 0;
    }
    const flatUnit = d > 0 ? tilt / d : 0;
    return {
      x,
      y,
      z,
      nx: dx * flatUnit,
      ny: dy * flatUnit,
      nz: Math.sqrt(Math.max(0, 1 - tilt * tilt)),
      element: 'edge',
      triangle: i,
    };
  }
}

/** Contact of a profile of several pieces: the highest of its pieces. */
export class ProfileDrop {
  private readonly pieces: CutterDrop[];

  constructor(mesh: ContactMesh, profile: readonly ProfilePiece[]) {
    this.pieces = profile.map((piece) => new CutterDrop(mesh, piece));
  }

  /** Largest tip height (mm) at which any piece touches, but at least `atLeast`. */
  at(x: number, y: number, atLeast = -Infinity): number {
    let best = atLeast;
    for (const piece of this.pieces) best = piece.at(x, y, best);
    return best;
  }
}
