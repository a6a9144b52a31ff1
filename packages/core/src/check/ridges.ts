import type { Cancel } from '../base/cancel';
import type { ContactMesh } from '../geometry/contactMesh';
import { crossingsAt, type Polygon } from '../geometry/polygon';
import type { Motions } from '../path/toolpath';
import { type BareSides, isBare } from '../field/bareSides';
import { leftBy, type Touched, type WantedSpec } from '../field/wanted';
import { SweptBalls } from './sweptBalls';
import { TipSurface } from '../field/tipSurface';
import type { RoundPiece } from '../tool/profile';
import { SLOPE_BANDS } from './unfinished';

/** Where a finishing step's ridges are looked at, and with which cutter. */
export interface RidgeAsk {
  readonly part: ContactMesh;
  readonly path: Motions;
  /** A ball. */
  readonly piece: RoundPiece;
  /** Places, spread evenly by area over the surface that looks up. */
  readonly samples: number;
  /** Slopes that are looked at, degrees. */
  readonly slopes: readonly [number, number];
  /** Heights of the tip, mm, that touches the places which are looked at; nothing in the plan areas closed to the axis. */
  readonly lowest: number;
  readonly highest: number;
  readonly closed: readonly Polygon[];
  /** Sides of the part on which nothing is to be cut. */
  readonly bare?: BareSides;
  readonly rest?: WantedSpec['rest'] | undefined;
  /** What the step leaves on purpose, mm. */
  readonly allowance: number;
}

/** Heights of ridges along the part's normal, mm, by the part's slope, degrees. */
export interface RidgeBand {
  readonly from: number;
  readonly to: number;
  /** Places measured. */
  readonly count: number;
  readonly p50: number;
  readonly p95: number;
  readonly p99: number;
  readonly p999: number;
  readonly highest: number;
}

export interface Ridges {
  /** The height that was asked for, mm. */
  readonly asked: number;
  readonly all: RidgeBand;
  readonly bands: readonly RidgeBand[];
  /** The highest ridge's place, mm. */
  readonly at: { readonly x: number; readonly y: number; readonly z: number };
  /** Share of the places that the cutter cannot touch for its shape, and that it did not come near. */
  readonly outOfReach: number;
  readonly notCut: number;
}

/** One place: height of the steel above the part along the normal, NaN out of reach, Infinity not cut. */
export interface RidgePlaces {
  /** Height, slope in degrees, x, y, z of each place. */
  readonly values: Float64Array;
}
const EACH = 5;

/** A place that the cutter stays farther from than this by its shape is out of its reach, mm. */
const REACHED_MM = 2e-3;
/** A facet looks up from this cosine of its slope on. */
const LOOKS_UP = -1e-9;

/** Measures places `rows[0]` to `rows[1]` (exclusive) of those that are asked for. */
export function ridgePlaces(ask: RidgeAsk, rows: readonly [number, number], cancel?: Cancel): RidgePlaces {
  const { part, piece, samples, slopes, lowest, highest, closed, rest, allowance } = ask;
  const spread = new Spread(part);
  const sweeps = new SweptBalls(ask.path, piece.corner);
  const surface = new TipSurface({ mesh: part, piece, side: 0, floor: 0 });
  const earlier = rest && new TipSurface(rest.spec);
  const out: number[] = [];
  for (let k = rows[0]; k < rows[1]; k++) {
    if ((k & 255) === 0) cancel?.check();
    const place = spread.at(k, samples);
    const tip = place.z + piece.corner * (place.nz - 1);
    if (tip < lowest || tip > highest) continue;
    const slope = (Math.acos(Math.min(1, place.nz)) * 180) / Math.PI;
    if (slope < slopes[0] || slope > slopes[1]) continue;
    if (ask.bare && isBare(ask.bare, place.x, place.y)) continue;
    if (closed.length > 0 && isWithin(closed, place.x, place.y)) continue;
    if (earlier && rest && leftBy(earlier, rest.spec.piece, place) <= rest.thicker) continue;
    const isReached = leftBy(surface, piece, place) <= REACHED_MM;
    out.push(isReached ? sweeps.above(place) - allowance : NaN, slope, place.x, place.y, place.z);
  }
  return { values: Float64Array.from(out) };
}

const isWithin = (closed: readonly Polygon[], x: number, y: number): boolean =>
  crossingsAt(closed, y).filter((c) => c < x).length % 2 === 1;

/** What places come to; undefined when none was measured. */
export function ridgesOf(places: readonly RidgePlaces[], asked: number): Ridges | undefined {
  const hit: { t: number; slope: number; x: number; y: number; z: number }[] = [];
  let [outOfReach, notCut, tried] = [0, 0, 0];
  for (const { values: v } of places)
    for (let o = 0; o < v.length; o += EACH) {
      tried++;
      const t = v[o]!;
      if (Number.isNaN(t)) outOfReach++;
      else if (t === Infinity) notCut++;
      else hit.push({ t, slope: v[o + 1]!, x: v[o + 2]!, y: v[o + 3]!, z: v[o + 4]! });
    }
  if (hit.length === 0) return undefined;
  hit.sort((a, b) => a.t - b.t);
  const figures = (from: number, to: number, own: readonly { t: number }[]): RidgeBand => {
    const at = (share: number): number => own[Math.min(own.length - 1, Math.floor(share * own.length))]!.t;
    const [p50, p95, p99, p999] = [at(0.5), at(0.95), at(0.99), at(0.999)];
    return { from, to, count: own.length, p50, p95, p99, p999, highest: own[own.length - 1]!.t };
  };
  const bands = SLOPE_BANDS.flatMap(([from, to], k) => {
    const isLast = k === SLOPE_BANDS.length - 1;
    const own = hit.filter(({ slope }) => slope >= from && (slope < to || isLast));
    return own.length > 0 ? [figures(from, to, own)] : [];
  });
  const { x, y, z } = hit[hit.length - 1]!;
  return {
    asked,
    all: figures(0, 90, hit),
    bands,
    at: { x, y, z },
    outOfReach: outOfReach / tried,
    notCut: notCut / tried,
  };
}

/** A place of the part and its unit normal. */
type Place = Touched;

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

  /** The k-th of `count` places, by an even sequence (golden ratios, Roberts 2018, from memory). */
  at(k: number, count: number): Place {
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
