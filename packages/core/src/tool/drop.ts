import { type ContactMesh, FACET } from '../geometry/contactMesh';
import { meshKernel } from '../geometry/kernel';
import type { ProfilePiece } from './profile';

/** A facet whose normal leans less than this is level: its lean is rounding and tells no direction. */
const LEVEL_LEAN = 2e-8;
/** Contact this near to the rim is on it, mm. */
const ON_RIM_MM = 1e-9;
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
  private px = 0;
  private py = 0;
  /** Triangle of the last contact there was: neighbouring queries begin with it. */
  private last = -1;
  private readonly kernel = meshKernel();
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
    const height = this.query(x, y, atLeast + this.z, 0);
    return this.triangle < 0 ? atLeast : height - this.z;
  }

  /** Whether the cutter with its tip at (x, y, tip) is inside the mesh: {@link at} is above `tip`. Stops at the first proof. */
  exceeds(x: number, y: number, tip: number): boolean {
    this.query(x, y, tip + this.z, 1);
    return this.triangle >= 0;
  }

  private query(x: number, y: number, atLeast: number, any: 0 | 1): number {
    const { kernel } = this;
    kernel.use(this.mesh);
    this.px = x;
    this.py = y;
    const { kind, flat, corner, radius, slope } = this;
    const tip = kernel.drop(kind, flat, corner, radius, slope, x, y, atLeast, this.last, any);
    this.triangle = kernel.found[0]!;
    if (this.triangle >= 0) {
      this.edge = kernel.found[1]!;
      this.along = kernel.numbers[0]!;
      this.last = this.triangle;
    }
    return tip;
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

  /**
   * How far (mm) the axis of the last query must move in direction (ux, uy), a unit vector, until the cutter is off the place
   * that it stood on; 0 when it stood on a facet or on nothing. Up to there it stands no lower than it did, if that place
   * lay under its flat.
   */
  escape(ux: number, uy: number): number {
    if (this.triangle < 0 || this.edge < 0) return 0;
    const { x, y } = this.edgeContact(this.triangle);
    const dx = this.px - x;
    const dy = this.py - y;
    const along = dx * ux + dy * uy;
    return Math.max(0, Math.sqrt(Math.max(0, along * along + this.radius ** 2 - dx * dx - dy * dy)) - along);
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
