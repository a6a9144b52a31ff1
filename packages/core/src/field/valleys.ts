import type { Cancel } from '../base/cancel';
import { ClosestPoint } from '../geometry/closest';
import { CutterDrop } from '../tool/drop';
import type { ContactNet } from './contactNet';
import { thinned, type Vec, waysThrough } from './placeWays';
import { TipSurface, type TipSurfaceSpec } from './tipSurface';

/** Normals at the ends of an edge of the net that turn by this at least, rad, can be those of two sides of a valley. */
const LEAST_TURN = (10 * Math.PI) / 180;
/** They are when the part lies so many times nearer together there than the normals alone would put it. */
const FOLD_RATIO = 4;
/** Two sides that meet under less than this are one, rad. */
const FLATTEST = (6 * Math.PI) / 180;
/** A place between two sides is found in so many looks; its sides are looked for from this share of the way to them. */
const LOOKS = 6;
const TOWARDS = 0.5;
/** It stays off both sides by this, so that upright ones are not counted as under the cutter, mm. */
const OFF_MM = 5e-4;
/** The part is looked for so far beyond what the round touches, mm. */
const BEYOND_MM = 0.02;
/** It is found where it lies off both sides as it is to, to this, mm. */
const HOLDS_MM = 1e-3;
/** The tip may lie this far below the tip surface, mm: rounding. */
const BELOW_MM = 1e-3;
/** Places nearer to one another than this share of the net's step are one. */
const SAME_SHARE = 0.6;
/** Places are neighbours up to so many steps of the net. */
const NEAR_STEPS = 2.5;

/** A place where the round touches the part on two sides. */
interface Fold {
  /** Middle of the round, mm. */
  readonly c: Vec;
  /** Unit normals of both sides. */
  readonly n: Vec;
  readonly m: Vec;
}

/** A valley: the way of the middle of the round along it, x, y, z one after another, mm. */
export interface Valley {
  readonly points: Float64Array;
  readonly isClosed: boolean;
}

/**
 * Valleys of the part for a round cutter: where it touches two sides at once. They are found on the net of its middle, whose
 * normals turn there without it moving on, and every place is then put at its distance from both sides.
 *
 * @param step of the net, mm
 * @param tolerance between places, mm
 */
export function valleysOf(
  net: ContactNet,
  spec: TipSurfaceSpec,
  step: number,
  tolerance: number,
  cancel?: Cancel,
): Valley[] {
  const finder = new FoldFinder(spec);
  const folds = foldsOf(net, finder, cancel);
  const places = thinned(folds, ({ c }) => c, SAME_SHARE * step);
  return waysThrough(
    places.map(({ c }) => c),
    NEAR_STEPS * step,
  ).flatMap((way) => {
    const chain = way.places.map((k) => places[k]!);
    return finder.filled(chain, way.isClosed, tolerance);
  });
}

class FoldFinder {
  private readonly nearest: ClosestPoint;
  private readonly surface: TipSurface;
  private readonly ray: CutterDrop;
  /** Radius of the round with its allowance, mm. */
  readonly reach: number;
  private readonly lift: number;

  constructor(private readonly spec: TipSurfaceSpec) {
    this.nearest = new ClosestPoint(spec.mesh);
    this.surface = new TipSurface(spec);
    this.ray = new CutterDrop(spec.mesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    this.reach = spec.piece.corner + spec.side;
    this.lift = spec.floor - spec.side;
  }

  /** The place at its distance from both sides that are seen from near it along two normals. */
  between(c: Vec, n: Vec, m: Vec): Fold | undefined {
    let [at, n1, m1] = [c, n, m];
    for (let k = 0; k < LOOKS; k++) {
      const a = this.side(at, n1);
      const b = this.side(at, m1);
      if (!a || !b) return undefined;
      [n1, m1] = [a.n, b.n];
      const cos = dot(n1, m1);
      if (cos > Math.cos(FLATTEST)) return undefined;
      const want = this.reach + OFF_MM;
      // c + p n + q m at the wanted distance from both planes
      const [da, db] = [want - a.distance, want - b.distance];
      const det = 1 - cos * cos;
      if (det < 1e-9) return undefined;
      const p = (da - cos * db) / det;
      const q = (db - cos * da) / det;
      if (Math.hypot(p, q) > this.reach) return undefined;
      at = [at[0] + p * n1[0] + q * m1[0], at[1] + p * n1[1] + q * m1[1], at[2] + p * n1[2] + q * m1[2]];
    }
    const ends = [this.side(at, n1), this.side(at, m1)];
    const holds = ends.every(
      (side) => side && Math.abs(side.distance - this.reach - OFF_MM) < HOLDS_MM && !this.isRolling(at, side.n),
    );
    return holds && this.isOpen(at) ? { c: at, n: n1, m: m1 } : undefined;
  }

  /** Whether the round rolls over the part's border there: beyond what it touches there is nothing. */
  private isRolling(c: Vec, n: Vec): boolean {
    const level = Math.hypot(n[0], n[1]);
    if (level < 1e-6) return false;
    const beyond = BEYOND_MM / level;
    return this.ray.at(c[0] - (this.reach - beyond) * n[0], c[1] - (this.reach - beyond) * n[1]) === -Infinity;
  }

  /** Whether the cutter may stand there. */
  private isOpen(c: Vec): boolean {
    return !this.surface.forbids(c[0], c[1], c[2] - this.spec.piece.corner + BELOW_MM);
  }

  /** The side of the part towards which a normal points from it: how far it is, and its normal. */
  private side(c: Vec, n: Vec): { n: Vec; distance: number } | undefined {
    const toward = TOWARDS * this.reach;
    const from: Vec = [c[0] - toward * n[0], c[1] - toward * n[1], c[2] - this.lift - toward * n[2]];
    const d = this.nearest.distance(...from);
    if (d < 1e-6) return undefined;
    const own: Vec = [(from[0] - this.nearest.x) / d, (from[1] - this.nearest.y) / d, (from[2] - this.nearest.z) / d];
    const distance =
      (c[0] - this.nearest.x) * own[0] +
      (c[1] - this.nearest.y) * own[1] +
      (c[2] - this.lift - this.nearest.z) * own[2];
    return { n: own, distance };
  }

  /** A chain of places with others between them until it bends by no more than the tolerance; divided where none is found. */
  filled(chain: readonly Fold[], isClosed: boolean, tolerance: number): Valley[] {
    const out: Valley[] = [];
    let points: number[] = [...chain[0]!.c];
    let isWhole = true;
    const end = (): void => {
      if (points.length >= 6) out.push({ points: Float64Array.from(points), isClosed: false });
    };
    for (let k = 1; k < chain.length + (isClosed ? 1 : 0); k++) {
      const [a, b] = [chain[k - 1]!, chain[k % chain.length]!];
      if (this.fill(a, b, tolerance, points, 0)) points.push(...b.c);
      else {
        isWhole = false;
        end();
        points = [...b.c];
      }
    }
    end();
    return isWhole && isClosed && out.length === 1 ? [{ points: out[0]!.points, isClosed: true }] : out;
  }

  private fill(a: Fold, b: Fold, tolerance: number, out: number[], depth: number): boolean {
    const mid: Vec = [(a.c[0] + b.c[0]) / 2, (a.c[1] + b.c[1]) / 2, (a.c[2] + b.c[2]) / 2];
    const length = Math.hypot(b.c[0] - a.c[0], b.c[1] - a.c[1], b.c[2] - a.c[2]);
    // the sides keep their order along a chain as they are seen from its ends
    const isSame = dot(a.n, b.n) + dot(a.m, b.m) >= dot(a.n, b.m) + dot(a.m, b.n);
    const found = this.between(mid, unit(a.n, isSame ? b.n : b.m), unit(a.m, isSame ? b.m : b.n));
    if (!found) return false;
    const off = Math.hypot(found.c[0] - mid[0], found.c[1] - mid[1], found.c[2] - mid[2]);
    if (off > length / 2) return false;
    if (off <= tolerance / 2 || depth > 6) return true;
    if (!this.fill(a, found, tolerance, out, depth + 1)) return false;
    out.push(...found.c);
    return this.fill(found, b, tolerance, out, depth + 1);
  }
}

const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (a: Vec, b: Vec): Vec => {
  const s: Vec = [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
  const l = Math.max(Math.hypot(...s), 1e-12);
  return [s[0] / l, s[1] / l, s[2] / l];
};

/** The places of valleys that edges of the net cross. */
function foldsOf(
  { count, centres, normals, holds, triangles }: ContactNet,
  finder: FoldFinder,
  cancel?: Cancel,
): Fold[] {
  const folds: Fold[] = [];
  const seen = new Set<number>();
  const vec = (of: Float64Array, v: number): Vec => [of[3 * v]!, of[3 * v + 1]!, of[3 * v + 2]!];
  const cosLeast = Math.cos(LEAST_TURN);
  for (let t = 0; t < triangles.length; t += 3) {
    if (t % 3000 === 0) cancel?.check();
    for (let e = 0; e < 3; e++) {
      const [a, b] = [triangles[t + e]!, triangles[t + ((e + 1) % 3)]!];
      if (a > b || !holds[a] || !holds[b]) continue;
      const [n, m] = [vec(normals, a), vec(normals, b)];
      if (dot(n, m) > cosLeast) continue;
      const [ca, cb] = [vec(centres, a), vec(centres, b)];
      const apart = Math.hypot(cb[0] - ca[0], cb[1] - ca[1], cb[2] - ca[2]);
      if (finder.reach * Math.hypot(m[0] - n[0], m[1] - n[1], m[2] - n[2]) < FOLD_RATIO * apart) continue;
      const key = a * count + b;
      if (seen.has(key)) continue;
      seen.add(key);
      const fold = finder.between([(ca[0] + cb[0]) / 2, (ca[1] + cb[1]) / 2, (ca[2] + cb[2]) / 2], n, m);
      if (fold) folds.push(fold);
    }
  }
  return folds;
}
