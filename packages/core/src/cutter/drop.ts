import { type ContactMesh, FACET, FAN, LEAF, NODE } from '../geometry/contactMesh';
import { bullTouch } from './bullTouch';
import type { ProfilePiece } from './profile';

/** A contact point this far outside its facet (share of the facet's area) still counts: rounding of the test. */
const INSIDE = -1e-11;
/** A facet whose normal leans less than this is level: its lean is rounding and tells no direction. */
const LEVEL_LEAN = 2e-8;
/** Plan length below which an edge counts as upright, mm. */
const UPRIGHT_EDGE_MM = 1e-12;
/** Nodes that may wait; a tree of 10 levels puts no more than 80 on the stack. */
const STACK = 256;
/** Contact this near to the rim is on it, mm. */
const ON_RIM_MM = 1e-9;
/** What single precision may take from a roof's height, mm. */
const ROOF_SLACK = 5e-5;
/** The tangent to a bull-nose's tip function is taken no nearer to the rim than this share of the corner. */
const WELL_UNDER = 0.98;
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
  private lastTriangle = -1;
  private readonly stack = new Int32Array(2 * STACK);
  private readonly promise = new Float64Array(STACK);
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
    this.triangle = -1;
    this.bestTip = atLeast + this.z;
    this.descend(x, y, false);
    return this.bestTip - this.z;
  }

  /** Whether the cutter with its tip at (x, y, tip) is inside the mesh: {@link at} is above `tip`. Stops at the first proof. */
  exceeds(x: number, y: number, tip: number): boolean {
    this.triangle = -1;
    this.bestTip = tip + this.z;
    this.descend(x, y, true);
    return this.triangle >= 0;
  }

  /**
   * Walks the tree, the node that promises most first; with `any` only until something is touched. A node is passed over
   * when either its box or its roof keeps the cutter below the best contact so far. The tip over a whole plane of slope m is
   * T, touched at one place; at d from that place it is lower by at least d² / 2ρ with ρ = RE + (DC/2 - RE) / m: the ball
   * of the corner bends by 1 / RE, the rim of the flat by m / (DC/2 - RE), and the two give way one after the other, like
   * springs in a row. On the rim of a cone of slope s it is ρ = R / (m - s).
   */
  private descend(x: number, y: number, any: boolean): void {
    this.px = x;
    this.py = y;
    const { nodes, levels, count } = this.mesh;
    const { stack, promise, kind, flat, corner, radius, slope } = this;
    const R2 = radius * radius;
    const last = this.last;
    if (last >= 0) {
      this.offerCorners(this.lastTriangle);
      this.leaf(last, count);
      if (any && this.triangle >= 0) return;
    }
    stack[0] = levels[levels.length - 2]!;
    stack[1] = levels.length - 2;
    promise[0] = Infinity;
    let size = 1;
    while (size > 0) {
      size--;
      if (promise[size]! <= this.bestTip) continue;
      const node = stack[2 * size]!;
      const level = stack[2 * size + 1]!;
      if (level === 0) {
        if (node === last) continue;
        this.leaf(node, count);
        if (any && this.triangle >= 0) break;
        continue;
      }
      const best = this.bestTip;
      const base = size;
      const first = levels[level - 1]! + Math.imul(node - levels[level]!, FAN);
      const end = Math.min(levels[level]!, first + FAN);
      for (let child = first; child < end; child++) {
        const o = Math.imul(child, NODE);
        const top = nodes[o + 5]!;
        const q = top - best;
        if (!(q > 0)) continue;
        const minX = nodes[o]!;
        const minY = nodes[o + 1]!;
        const maxX = nodes[o + 2]!;
        const maxY = nodes[o + 3]!;
        // |x - min| + |x - max| is wider than the box by twice the distance from it: no branch to be guessed wrongly
        const wide = maxX - minX;
        const deep = maxY - minY;
        const dx = Math.abs(x - minX) + Math.abs(x - maxX) - wide;
        const dy = Math.abs(y - minY) + Math.abs(y - maxY) - deep;
        const d2 = 0.25 * (dx * dx + dy * dy);
        if (d2 > R2) continue;
        if (kind === KIND_BALL) {
          if (q < corner && d2 > q * (2 * corner - q)) continue;
        } else if (kind === KIND_BULL) {
          if (q < corner) {
            const reach = flat + Math.sqrt(q * (2 * corner - q));
            if (d2 > reach * reach) continue;
          }
        } else if (kind === KIND_CONE) {
          const reach = flat + q / slope;
          if (reach < radius && d2 > reach * reach) continue;
        }
        const a = nodes[o + 6]!;
        const b = nodes[o + 7]!;
        const lean = nodes[o + 10]!;
        const below = a * x + b * y + nodes[o + 8]! + ROOF_SLACK;
        // tip over the whole roof, how far from the axis it is touched over the lean, and how fast the tip falls from there
        let bound: number;
        let out: number;
        let bend: number;
        if (kind === KIND_CONE) {
          const rim = lean > slope;
          bound = below + (rim ? radius * lean - slope * (radius - flat) : flat * lean);
          out = rim ? radius / lean : 0;
          bend = rim ? radius / (lean - slope) : Infinity;
        } else {
          bound = below + corner * nodes[o + 9]! + flat * lean;
          bend = flat === 0 ? 0 : flat / lean;
          out = flat > 0 && lean > 0 ? bend + corner * nodes[o + 11]! : corner * nodes[o + 11]!;
          bend += corner;
        }
        if (bound <= best) continue;
        const tx = x + out * a;
        const ty = y + out * b;
        const ex = Math.abs(tx - minX) + Math.abs(tx - maxX) - wide;
        const ey = Math.abs(ty - minY) + Math.abs(ty - maxY) - deep;
        bound -= (ex * ex + ey * ey) / (8 * bend);
        if (bound <= best) continue;
        if (top < bound) bound = top;
        // the most promising child of the node lies on top
        let at = size++;
        for (; at > base && promise[at - 1]! > bound; at--) {
          promise[at] = promise[at - 1]!;
          stack[2 * at] = stack[2 * at - 2]!;
          stack[2 * at + 1] = level - 1;
        }
        promise[at] = bound;
        stack[2 * at] = child;
        stack[2 * at + 1] = level - 1;
      }
    }
    if (this.triangle < 0) return;
    this.lastTriangle = this.triangle;
    this.last = (this.triangle / LEAF) | 0;
  }

  /** The contact found by the last query, or undefined when there was none. */
  contact(): Contact | undefined {
    const i = this.triangle;
    if (i < 0) return undefined;
    return this.edge < 0 ? this.facetContact(i) : this.edgeContact(i);
  }

  /**
   * How fast the tip rises (mm a mm) when the axis moves from the last query's place in direction (ux, uy), a unit vector;
   * NaN where that is unknown: without a contact, or at a corner of the mesh on the cutter's rim, beyond which it jumps.
   */
  climb(ux: number, uy: number): number {
    const i = this.triangle;
    if (i < 0) return NaN;
    if (this.edge < 0) return this.mesh.facets[FACET * i]! * ux + this.mesh.facets[FACET * i + 1]! * uy;
    const t = this.mesh.triangles;
    const a = 9 * i + 3 * this.edge;
    const b = 9 * i + (this.edge === 2 ? 0 : 3 * this.edge + 3);
    const k = this.along;
    const wx = t[b]! - t[a]!;
    const wy = t[b + 1]! - t[a + 1]!;
    const dx = t[a]! + k * wx - this.px;
    const dy = t[a + 1]! + k * wy - this.py;
    const d = Math.sqrt(dx * dx + dy * dy);
    if (d <= this.flat * WELL_UNDER) return 0;
    let steep: number;
    if (d < this.radius - ON_RIM_MM) {
      if (this.kind === KIND_CONE) steep = this.slope;
      else if (this.corner === 0) steep = 0;
      else {
        const e = Math.max(0, d - this.flat);
        steep = e / Math.sqrt(this.corner * this.corner - e * e);
      }
    } else if (k > 0 && k < 1) steep = ((t[b + 2]! - t[a + 2]!) * d) / (dx * wx + dy * wy);
    else return NaN;
    return (steep * (dx * ux + dy * uy)) / d;
  }

  private leaf(node: number, count: number): void {
    const first = node * LEAF;
    const end = Math.min(count, first + LEAF);
    for (let i = first; i < end; i++) this.testTriangle(i);
  }

  private testTriangle(i: number): void {
    const facets = this.mesh.facets;
    const o = i * FACET;
    const a = facets[o]!;
    // not so for an upright facet, whose a is not a number
    if (a === a) {
      const { px, py, kind, corner, radius } = this;
      const b = facets[o + 1]!;
      const lean = facets[o + 4]!;
      const below = a * px + b * py + facets[o + 2]!;
      let flat = this.flat;
      let tip: number;
      let bend = flat === 0 ? corner : corner + flat / lean;
      if (kind === KIND_CONE) {
        if (lean > this.slope) {
          tip = below + radius * lean - this.slope * (radius - flat);
          flat = radius;
          bend = radius / (lean - this.slope);
        } else {
          tip = below + flat * lean;
          bend = Infinity;
        }
      } else tip = below + corner * facets[o + 3]! + flat * lean;
      if (tip <= this.bestTip) return;
      const out = corner / (1 + facets[o + 3]!) + (flat > 0 && lean > 0 ? flat / lean : 0);
      const outside = this.outside(i, px + out * a, py + out * b);
      if (outside < 0) {
        this.bestTip = tip;
        this.triangle = i;
        this.edge = -1;
        return;
      }
      if (outside > 2 * bend * (tip - this.bestTip)) return;
    }
    // any place of the mesh under the cutter is a beginning, even one whose edges are left out
    if (this.bestTip === -Infinity) this.offerCorners(i);
    const kept = this.mesh.edges[i]!;
    if (kept & 1) this.testEdge(i, 0);
    if (kept & 2) this.testEdge(i, 1);
    if (kept & 4) this.testEdge(i, 2);
  }

  /** -1 when (x, y) lies in triangle i in plan; else the square of its distance from an edge's line that it is behind, mm². */
  private outside(i: number, x: number, y: number): number {
    const t = this.mesh.triangles;
    const o = 9 * i;
    const ax = t[o]! - x;
    const ay = t[o + 1]! - y;
    const bx = t[o + 3]! - x;
    const by = t[o + 4]! - y;
    const cx = t[o + 6]! - x;
    const cy = t[o + 7]! - y;
    let e0 = ax * by - ay * bx;
    let e1 = bx * cy - by * cx;
    let e2 = cx * ay - cy * ax;
    let area = e0 + e1 + e2;
    if (area < 0) {
      area = -area;
      e0 = -e0;
      e1 = -e1;
      e2 = -e2;
    }
    const slack = INSIDE * area;
    if (e0 < slack) return (e0 * e0) / ((bx - ax) * (bx - ax) + (by - ay) * (by - ay));
    if (e1 < slack) return (e1 * e1) / ((cx - bx) * (cx - bx) + (cy - by) * (cy - by));
    if (e2 < slack) return (e2 * e2) / ((ax - cx) * (ax - cx) + (ay - cy) * (ay - cy));
    return -1;
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
    let s: number;
    if (this.kind === KIND_BULL) {
      s = this.bullSummit(m, v2, lo, hi, this.bestTip - az + m * sa);
      if (s !== s) return;
    } else {
      s = this.summit(m, Math.abs(v), w);
      if (s < lo) s = lo;
      else if (s > hi) s = hi;
    }
    const d = Math.sqrt(v2 + s * s);
    this.offer(az + m * (s - sa) - this.rise(d < this.radius ? d : this.radius), i, e, (s - sa) / length);
  }

  /**
   * Where between lo and hi a bull-nose's tip on an edge of slope m is highest; NaN when it is nowhere above `beat` there.
   * The tip m s - rise(s) is concave, so that its tangent anywhere bounds it: most edges are settled by the first one.
   */
  private bullSummit(m: number, v2: number, lo: number, hi: number, beat: number): number {
    const { flat, corner } = this;
    const up = m < 0 ? -m : m;
    const radial = flat + (corner * up) / Math.sqrt(1 + up * up);
    const guess = radial * radial > v2 ? Math.sqrt(radial * radial - v2) : 0;
    let s = m < 0 ? -guess : guess;
    if (s < lo) s = lo;
    else if (s > hi) s = hi;
    const d = Math.sqrt(v2 + s * s);
    let rise = 0;
    let tangent = m;
    if (d > flat) {
      const most = corner * WELL_UNDER;
      const e = d - flat < most ? d - flat : most;
      const w = Math.sqrt(corner * corner - e * e);
      if (e < most) {
        rise = corner - w;
        tangent = m - (e * s) / (w * d);
      } else return this.exactBullSummit(m, up, v2, lo, hi);
    }
    const bound = m * s - rise + tangent * ((tangent > 0 ? hi : lo) - s);
    if (bound <= beat) return NaN;
    // at an end with the summit beyond it
    if ((tangent >= 0 && s === hi) || (tangent <= 0 && s === lo)) return s;
    return this.exactBullSummit(m, up, v2, lo, hi);
  }

  private exactBullSummit(m: number, up: number, v2: number, lo: number, hi: number): number {
    if (m === 0) return lo > 0 ? lo : hi < 0 ? hi : 0;
    const s =
      m > 0
        ? bullTouch(this.flat, this.corner, up, Math.sqrt(v2))
        : -bullTouch(this.flat, this.corner, up, Math.sqrt(v2));
    return s < lo ? lo : s > hi ? hi : s;
  }

  private offerCorners(i: number): void {
    const t = this.mesh.triangles;
    for (let c = 0; c < 3; c++) {
      const p = 9 * i + 3 * c;
      const dx = t[p]! - this.px;
      const dy = t[p + 1]! - this.py;
      const d2 = dx * dx + dy * dy;
      if (d2 <= this.radius * this.radius) this.offer(t[p + 2]! - this.rise(Math.sqrt(d2)), i, c, 0);
    }
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
  /** The piece that touched last: begun with, since it will most likely touch again and settle the others. */
  private first = 0;

  constructor(mesh: ContactMesh, profile: readonly ProfilePiece[]) {
    this.pieces = profile.map((piece) => new CutterDrop(mesh, piece));
  }

  /** Largest tip height (mm) at which any piece touches, but at least `atLeast`. */
  at(x: number, y: number, atLeast = -Infinity): number {
    let best = atLeast;
    const first = this.first;
    if (this.pieces.length > 0) best = this.pieces[first]!.at(x, y, best);
    for (let k = 0; k < this.pieces.length; k++) {
      if (k === first) continue;
      const tip = this.pieces[k]!.at(x, y, best);
      if (tip > best) this.first = k;
      best = tip;
    }
    return best;
  }
}
