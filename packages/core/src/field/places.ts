import type { ContactMesh } from '../geometry/contactMesh';
import { crossingsAt, type Polygon } from '../geometry/polygon';
import { type BareSides, isBare } from './bareSides';
import { type FaceLimits, FaceTest } from './faceLimits';
import type { Touched } from './touched';
import { RestTest, type WantedSpec } from './wanted';

/** A facet looks up from this cosine of its slope on. */
const LOOKS_UP = -1e-9;

/** Which places of a part a finishing step is to finish. */
export interface PlacesAsk {
  readonly part: ContactMesh;
  /** Slopes that are looked at, degrees. */
  readonly slopes: readonly [number, number];
  /** Heights of the tip, mm, that touches the places which are looked at; nothing in the plan areas closed to the axis. */
  readonly lowest: number;
  readonly highest: number;
  readonly closed: readonly Polygon[];
  /** Sides of the part on which nothing is to be cut. */
  readonly bare?: BareSides;
  readonly rest?: WantedSpec['rest'] | undefined;
  readonly faces?: FaceLimits | undefined;
}

/** Slope of a place, degrees. */
export const slopeOf = ({ nz }: Touched): number => (Math.acos(Math.min(1, nz)) * 180) / Math.PI;

/** Places of a part that a step is to finish. */
export class AskedPlaces {
  private readonly spread: Spread;
  private readonly earlier: RestTest | undefined;
  private readonly faces: FaceTest | undefined;

  /** @param corner radius of the cutter's round, mm */
  constructor(
    private readonly ask: PlacesAsk,
    private readonly corner: number,
  ) {
    this.spread = new Spread(ask.part);
    this.earlier = ask.rest && new RestTest(ask.rest);
    this.faces = ask.faces && new FaceTest(ask.faces, corner);
  }

  /** Area of all that looks up, mm². */
  get area(): number {
    return this.spread.area;
  }

  /** The k-th of `count` places spread evenly over the part; undefined when the step is not to finish it. */
  at(k: number, count: number): Touched | undefined {
    const place = this.spread.at(k, count);
    return this.isAsked(place) ? place : undefined;
  }

  /** Whether the step is to finish a place of the part. */
  isAsked(place: Touched): boolean {
    const { slopes, lowest, highest, bare, closed } = this.ask;
    const tip = place.z + this.corner * (place.nz - 1);
    if (tip < lowest || tip > highest) return false;
    const slope = slopeOf(place);
    if (slope < slopes[0] || slope > slopes[1]) return false;
    if (bare && isBare(bare, place.x, place.y)) return false;
    if (closed.length > 0 && isWithin(closed, place.x, place.y)) return false;
    if (this.faces && !this.faces.at(place)) return false;
    return !this.earlier || this.earlier.at(place);
  }
}

const isWithin = (closed: readonly Polygon[], x: number, y: number): boolean =>
  crossingsAt(closed, y).filter((c) => c < x).length % 2 === 1;

/** Places spread evenly over the facets that look up, the same for the same part. */
class Spread {
  private readonly sums: Float64Array;
  private readonly facets: Uint32Array;

  constructor(private readonly part: ContactMesh) {
    const facets: number[] = [];
    const sums: number[] = [];
    let sum = 0;
    for (let i = 0; i < part.count; i++) {
      const [nx, ny, nz] = this.normal(i);
      const twice = Math.hypot(nx, ny, nz);
      if (!(twice > 0) || nz < LOOKS_UP * twice) continue;
      sum += twice / 2;
      facets.push(i);
      sums.push(sum);
    }
    this.facets = Uint32Array.from(facets);
    this.sums = Float64Array.from(sums);
  }

  get area(): number {
    return this.sums[this.sums.length - 1] ?? 0;
  }

  /** The k-th of `count` places, by an even sequence (golden ratios, Roberts 2018, from memory). */
  at(k: number, count: number): Touched {
    const { sums, facets, part } = this;
    const wanted = ((k + 0.5) / count) * sums[sums.length - 1]!;
    let [low, high] = [0, sums.length - 1];
    while (low < high) {
      const mid = (low + high) >> 1;
      if (sums[mid]! < wanted) low = mid + 1;
      else high = mid;
    }
    const i = facets[low]!;
    let u = (0.5 + k * 0.7548776662466927) % 1;
    let v = (0.5 + k * 0.5698402909980532) % 1;
    if (u + v > 1) [u, v] = [1 - u, 1 - v];
    const t = part.triangles;
    const o = 9 * i;
    const at = (axis: number): number =>
      t[o + axis]! + u * (t[o + 3 + axis]! - t[o + axis]!) + v * (t[o + 6 + axis]! - t[o + axis]!);
    const [nx, ny, nz] = this.normal(i);
    const l = Math.hypot(nx, ny, nz);
    return { x: at(0), y: at(1), z: at(2), nx: nx / l, ny: ny / l, nz: Math.max(0, nz / l) };
  }

  /** Outward, twice the facet's area long. */
  private normal(i: number): [number, number, number] {
    const t = this.part.triangles;
    const o = 9 * i;
    const [ux, uy, uz] = [t[o + 3]! - t[o]!, t[o + 4]! - t[o + 1]!, t[o + 5]! - t[o + 2]!];
    const [vx, vy, vz] = [t[o + 6]! - t[o]!, t[o + 7]! - t[o + 1]!, t[o + 8]! - t[o + 2]!];
    return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  }
}
