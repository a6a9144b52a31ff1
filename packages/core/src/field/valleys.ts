import type { Cancel } from '../base/cancel';
import { ClosestPoint } from '../geometry/closest';
import { CutterDrop } from '../tool/drop';
import type { ContactNet } from './contactNet';
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
/** A valley that comes back to its beginning has more places than this. */
const LEAST_RING = 8;
/** Side branches of fewer places are noise of the net. */
const LEAST_BRANCH = 3;
/** Where valleys meet one goes on as the other when they turn by less than this, rad. */
const GOES_ON = (50 * Math.PI) / 180;

/** A place where the round touches the part on two sides. */
interface Fold {
  /** Middle of the round, mm. */
  readonly c: Vec;
  /** Unit normals of both sides. */
  readonly n: Vec;
  readonly m: Vec;
}
type Vec = [number, number, number];

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
  const places = thinned(folds, SAME_SHARE * step);
  return ways(places, step).flatMap((way) => {
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

/** Of places nearer than `same` only the first. */
function thinned(folds: readonly Fold[], same: number): Fold[] {
  const cells = new Map<string, Fold[]>();
  return folds.filter((fold) => {
    const [i, j, k] = fold.c.map((v) => Math.floor(v / same)) as Vec;
    for (let di = -1; di <= 1; di++)
      for (let dj = -1; dj <= 1; dj++)
        for (let dk = -1; dk <= 1; dk++)
          for (const other of cells.get(`${i + di},${j + dj},${k + dk}`) ?? [])
            if (Math.hypot(other.c[0] - fold.c[0], other.c[1] - fold.c[1], other.c[2] - fold.c[2]) < same) return false;
    const key = `${i},${j},${k}`;
    cells.set(key, [...(cells.get(key) ?? []), fold]);
    return true;
  });
}

/** Places one after another along valleys: the shortest links that join near ones without rings, and rings that are long. */
function ways(places: readonly Fold[], step: number): { places: number[]; isClosed: boolean }[] {
  const near = NEAR_STEPS * step;
  const links = linksBetween(places, near);
  const root = places.map((_, k) => k);
  const find = (k: number): number => {
    let r = k;
    while (root[r] !== r) r = root[r] = root[root[r]!]!;
    return r;
  };
  const beside: Set<number>[] = places.map(() => new Set());
  const spare: [number, number][] = [];
  for (const [a, b] of links) {
    const [ra, rb] = [find(a), find(b)];
    if (ra === rb) {
      spare.push([a, b]);
      continue;
    }
    root[ra] = rb;
    beside[a]!.add(b);
    beside[b]!.add(a);
  }
  prune(beside);
  for (const [a, b] of spare)
    if (beside[a]!.size === 1 && beside[b]!.size === 1 && stepsBetween(beside, a, b) >= LEAST_RING) {
      beside[a]!.add(b);
      beside[b]!.add(a);
    }
  return walked(places, beside);
}

/** Pairs of places that are near and whose valleys run along their link, the shortest first. */
function linksBetween(places: readonly Fold[], near: number): [number, number][] {
  const cells = new Map<string, number[]>();
  const key = (c: readonly number[], d: readonly number[]): string =>
    c.map((v, axis) => Math.floor(v / near) + d[axis]!).join();
  const links: { a: number; b: number; length: number }[] = [];
  places.forEach((place, b) => {
    for (let di = -1; di <= 1; di++)
      for (let dj = -1; dj <= 1; dj++)
        for (let dk = -1; dk <= 1; dk++)
          for (const a of cells.get(key(place.c, [di, dj, dk])) ?? []) {
            const other = places[a]!;
            const length = Math.hypot(...place.c.map((v, axis) => v - other.c[axis]!));
            if (length < near) links.push({ a, b, length });
          }
    const own = key(place.c, [0, 0, 0]);
    cells.set(own, [...(cells.get(own) ?? []), b]);
  });
  return links.sort((p, q) => p.length - q.length || p.a - q.a || p.b - q.b).map(({ a, b }) => [a, b]);
}

/** Takes away short branches. */
function prune(beside: Set<number>[]): void {
  const ends = [...beside.keys()].filter((k) => beside[k]!.size === 1);
  for (const end of ends) {
    const branch = [end];
    let at = [...beside[end]!][0]!;
    while (beside[at]!.size === 2 && branch.length <= LEAST_BRANCH) {
      branch.push(at);
      at = [...beside[at]!].find((k) => k !== branch[branch.length - 2])!;
      if (at === undefined) break;
    }
    if (at === undefined || beside[at]!.size < 3 || branch.length > LEAST_BRANCH) continue;
    beside[at]!.delete(branch[branch.length - 1]!);
    for (const k of branch) beside[k]!.clear();
  }
}

function stepsBetween(beside: readonly ReadonlySet<number>[], a: number, b: number): number {
  let [before, at, n] = [-1, a, 0];
  while (at !== b) {
    const next = [...beside[at]!].find((k) => k !== before);
    if (next === undefined || beside[at]!.size > 2) return 0;
    [before, at] = [at, next];
    n++;
  }
  return n;
}

/** Ways through linked places; where several meet the straightest two go on as one. */
function walked(places: readonly Fold[], beside: readonly Set<number>[]): { places: number[]; isClosed: boolean }[] {
  const open = beside.map((set) => new Set(set));
  const take = (a: number, b: number): void => {
    open[a]!.delete(b);
    open[b]!.delete(a);
  };
  const turn = (a: number, b: number, c: number): number => {
    const u = places[b]!.c.map((v, k) => v - places[a]!.c[k]!) as Vec;
    const w = places[c]!.c.map((v, k) => v - places[b]!.c[k]!) as Vec;
    return Math.acos(Math.max(-1, Math.min(1, dot(u, w) / Math.max(1e-12, Math.hypot(...u) * Math.hypot(...w)))));
  };
  const follow = (from: number): number[] => {
    const way = [from];
    for (;;) {
      const at = way[way.length - 1]!;
      let best = -1;
      let least = Infinity;
      for (const k of open[at]!) {
        const angle = way.length > 1 ? turn(way[way.length - 2]!, at, k) : 0;
        if (angle < least) [best, least] = [k, angle];
      }
      if (best < 0 || (beside[at]!.size > 2 && way.length > 1 && least > GOES_ON)) return way;
      take(at, best);
      way.push(best);
      if (best === from) return way;
    }
  };
  const out: { places: number[]; isClosed: boolean }[] = [];
  const put = (way: number[]): void => {
    const isClosed = way.length > 2 && way[0] === way[way.length - 1];
    if (way.length > 1) out.push({ places: isClosed ? way.slice(0, -1) : way, isClosed });
  };
  for (const k of beside.keys()) while (beside[k]!.size === 1 && open[k]!.size > 0) put(follow(k));
  for (const k of beside.keys()) while (beside[k]!.size !== 2 && open[k]!.size > 0) put(follow(k));
  for (const k of beside.keys()) while (open[k]!.size > 0) put(follow(k));
  return out;
}
