import type { BoundsTest } from '../../field/bounds';
import { OnSurface } from '../../field/onSurface';
import { TipSurface, type TipSurfaceSpec } from '../../field/tipSurface';
import { markKept } from '../../geometry/polygon';

/** Shares of the tolerance for the chords and for leaving out points. */
const CHORD_SHARE = 0.6;
const SIMPLIFY_SHARE = 0.35;
/** A chord is halved so often at most. */
const MOST_HALVINGS = 7;
/** Beside a valley two sides push a place to and fro, and it is looked at so often. */
const LOOKS = 12;
/** Between two places the surface lies aside by no more than this share of their distance. */
const MOST_ASIDE = 0.6;
/** How far aside, and into how many ways, it is looked for ground that is not closed, mm. */
const ASIDE_MM = [0.005, 0.01, 0.02, 0.04, 0.08];
const ASIDE_WAYS = 8;
/** How far off the part it is looked at, mm. */
const OFF_MM = 1e-3;
/** The surface is looked at this often along a way, mm. */
const LOOK_MM = 1;
/** Where beside the middle a chord is looked at too, as a share of it, and from which cosine of a turn of the normal on. */
const EARLY = 0.23;
const EVEN_TURN = Math.cos((4 * Math.PI) / 180);
/** Points nearer to one another than this share of the tolerance are one. */
const SAME_SHARE = 0.5;
/** A place holds that came this near to its distance, mm. */
const HOLDS_MM = 1e-3;
/** Shorter pieces of a broken way are left out, mm. */
const SHORTEST_MM = 0.3;

/** Middle of a round cutter, mm. */
export type Place = readonly [x: number, y: number, z: number];
/** One that lies on the surface, with the part's normal. */
type OnPlace = readonly [x: number, y: number, z: number, nx: number, ny: number, nz: number];

/** Leads the middle of a cutter's round over the part so that it touches, within a tolerance between its places too. */
export class Rolling {
  private readonly on: OnSurface;
  private readonly surface: TipSurface;
  private readonly rise: number;
  private readonly chord: number;

  constructor(
    spec: TipSurfaceSpec,
    private readonly tolerance: number,
    private readonly bounds?: BoundsTest,
  ) {
    this.on = new OnSurface(spec);
    this.surface = new TipSurface(spec);
    this.rise = spec.piece.corner;
    this.chord = CHORD_SHARE * tolerance;
  }

  /** A way put on to the surface, as ways of the tip: the pieces of it that hold. It may be moved aside by so many mm. */
  pieces(raw: Float64Array, aside = 0): Float64Array[] {
    const way = spaced(raw, aside);
    const out: OnPlace[][] = [[]];
    let before: OnPlace | undefined;
    const last = way.length - 3;
    for (let o = 0; o <= last; o += 3) {
      const at = this.put(way[o]!, way[o + 1]!, way[o + 2]!);
      if (at && before && apart(at, before) < SAME_SHARE * this.tolerance && o < last) continue;
      const piece = out[out.length - 1]!;
      const between: OnPlace[] = [];
      if (at && before && this.fill(before, at, 0, between)) piece.push(...between, at);
      else {
        if (piece.length > 0) out.push([]);
        if (at) out[out.length - 1]!.push(at);
      }
      before = at;
    }
    const isWhole = out.length === 1 && out[0]!.length > 1;
    const [first, end] = [out[0]!, out[out.length - 1]!];
    if (raw.length > 6 && [0, 1, 2].every((axis) => raw[axis] === raw[raw.length - 3 + axis]) && first[0] && before) {
      // the last place is the first again, but for rounding; of a broken ring the pieces at both ends are one
      end[end.length - 1] = first[0];
      if (!isWhole) {
        end.push(...first.slice(1));
        out.shift();
      }
    }
    return out.filter((piece) => isWhole || lengthOf(piece) > SHORTEST_MM).map((piece) => this.thinned(piece));
  }

  /** Places from one near the surface to another, without the first; undefined where the cutter cannot go so. */
  over(a: Place, b: Place): Place[] | undefined {
    const [from, to] = [this.put(...a), this.put(...b)];
    const out: OnPlace[] = [];
    if (!from || !to || !this.fill(from, to, 0, out)) return undefined;
    return [...out.map(([x, y, z]): Place => [x, y, z]), b];
  }

  /**
   * The place on the surface; undefined where there is none, or the cutter may not stand there. Beside what is closed to the axis
   * it is a little aside: over bent ground a line along a border runs off it.
   */
  private put(x: number, y: number, z: number): OnPlace | undefined {
    const { bounds, rise } = this;
    const at = this.touching(x, y, z);
    if (!at || !bounds || bounds.none || !bounds.forbids(at[0], at[1], at[2] - rise)) return at;
    for (const by of ASIDE_MM)
      for (let k = 0; k < ASIDE_WAYS; k++) {
        const way = (2 * Math.PI * k) / ASIDE_WAYS;
        const aside = this.touching(at[0] + by * Math.cos(way), at[1] + by * Math.sin(way), at[2]);
        if (aside && !bounds.forbids(aside[0], aside[1], aside[2] - rise)) return aside;
      }
    return undefined;
  }

  private touching(x: number, y: number, z: number): OnPlace | undefined {
    const { on } = this;
    if (on.put(x, y, z, LOOKS) > HOLDS_MM) return undefined;
    // a hair off an upright wall, which else may be counted as under the cutter
    const [ox, oy] = [on.x + OFF_MM * on.nx, on.y + OFF_MM * on.ny];
    if (this.surface.forbids(ox, oy, on.z - this.rise + this.tolerance)) return undefined;
    return [on.x, on.y, on.z, on.nx, on.ny, on.nz];
  }

  /** Adds places between two until their chords are near enough to the surface; false where that cannot be. */
  private fill(a: OnPlace, b: OnPlace, depth: number, out: OnPlace[]): boolean {
    const at = this.between(a, b, 0.5);
    if (!at) return false;
    const isBent = turn(a, b) < EVEN_TURN || turn(a, at) < EVEN_TURN;
    // a kink beside the middle shows at least half of itself there; two that lie opposite show themselves beside it
    if (
      this.isNear(a, b, 0.5, at) &&
      (!isBent || [EARLY, 1 - EARLY].every((t) => this.isNear(a, b, t, this.between(a, b, t))))
    )
      return true;
    if (depth >= MOST_HALVINGS) return false;
    const mid: Place = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
    if (apart(at, mid) > MOST_ASIDE * apart(a, b)) return false;
    if (!this.fill(a, at, depth + 1, out)) return false;
    out.push(at);
    return this.fill(at, b, depth + 1, out);
  }

  /** The place on the surface beside one between two others. */
  private between(a: Place | OnPlace, b: Place | OnPlace, t: number): OnPlace | undefined {
    return this.put(a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2]));
  }

  private isNear(a: OnPlace, b: OnPlace, t: number, at: OnPlace | undefined): boolean {
    if (!at) return false;
    const off = Math.hypot(
      a[0] + t * (b[0] - a[0]) - at[0],
      a[1] + t * (b[1] - a[1]) - at[1],
      a[2] + t * (b[2] - a[2]) - at[2],
    );
    return off <= this.chord / 2;
  }

  /** Without the points that are not needed, as x, y, z of the tip. */
  private thinned(places: readonly OnPlace[]): Float64Array {
    const n = places.length;
    const flat = places.flatMap(([x, y, z]) => [x, y, z]);
    const keep = new Uint8Array(n);
    // of a closed one a chord from its beginning to itself says nothing
    const middle = n >> 1;
    keep[0] = keep[middle] = keep[n - 1] = 1;
    markKept(flat, 3, 0, middle, SIMPLIFY_SHARE * this.tolerance, keep);
    markKept(flat, 3, middle, n - 1, SIMPLIFY_SHARE * this.tolerance, keep);
    return Float64Array.from(places.filter((_, k) => keep[k]).flatMap(([x, y, z]) => [x, y, z - this.rise]));
  }
}

const turn = (a: OnPlace, b: OnPlace): number => a[3] * b[3] + a[4] * b[4] + a[5] * b[5];
const apart = (a: Place | OnPlace, b: Place | OnPlace): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

function lengthOf(places: readonly OnPlace[]): number {
  let length = 0;
  for (let k = 1; k < places.length; k++) length += apart(places[k - 1]!, places[k]!);
  return length;
}

/** Of a way near the surface those points that tell how it runs, none farther apart than is looked. */
function spaced(way: Float64Array, aside: number): number[] {
  const n = way.length / 3;
  const keep = new Uint8Array(n);
  const middle = n >> 1;
  keep[0] = keep[middle] = keep[n - 1] = 1;
  markKept(way, 3, 0, middle, aside, keep);
  markKept(way, 3, middle, n - 1, aside, keep);
  const out: number[] = [];
  let since = 0;
  for (let k = 0; k < n; k++) {
    const o = 3 * k;
    const on = k + 1 < n ? Math.hypot(way[o + 3]! - way[o]!, way[o + 4]! - way[o + 1]!, way[o + 5]! - way[o + 2]!) : 0;
    if (keep[k] || since + on > LOOK_MM) {
      out.push(way[o]!, way[o + 1]!, way[o + 2]!);
      since = 0;
    }
    since += on;
  }
  return out;
}
