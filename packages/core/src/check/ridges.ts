import type { Cancel } from '../base/cancel';
import { AskedPlaces, type PlacesAsk, slopeOf } from '../field/places';
import { leftBy } from '../field/wanted';
import type { Motions } from '../path/toolpath';
import { BELOW_MM, SweptBalls } from './sweptBalls';
import { TipSurface } from '../field/tipSurface';
import type { RoundPiece } from '../tool/profile';
import { SLOPE_BANDS } from './unfinished';

/** Where a finishing step's ridges are looked at, and with which cutter. */
export interface RidgeAsk extends PlacesAsk {
  readonly path: Motions;
  /** A ball. */
  readonly piece: RoundPiece;
  /** Places, spread evenly by area over the surface that looks up. */
  readonly samples: number;
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

/** A ridge higher than this share of what was asked for is missed. */
export const MISSED_SHARE = 1.05;

/** A place that the cutter stays farther from than this by its shape is out of its reach, mm. */
export const REACHED_MM = 2e-3;

/** Measures places `rows[0]` to `rows[1]` (exclusive) of those that are asked for. */
export function ridgePlaces(ask: RidgeAsk, rows: readonly [number, number], cancel?: Cancel): RidgePlaces {
  const { part, piece, samples, allowance } = ask;
  const places = new AskedPlaces(ask, piece.corner);
  const sweeps = new SweptBalls(ask.path, piece.corner, undefined, BELOW_MM + Math.max(0, -allowance));
  const surface = new TipSurface({ mesh: part, piece, side: 0, floor: 0 });
  const out: number[] = [];
  for (let k = rows[0]; k < rows[1]; k++) {
    if ((k & 255) === 0) cancel?.check();
    const place = places.at(k, samples);
    if (!place) continue;
    const isReached = leftBy(surface, piece, place) <= REACHED_MM;
    out.push(isReached ? sweeps.above(place) - allowance : NaN, slopeOf(place), place.x, place.y, place.z);
  }
  return { values: Float64Array.from(out) };
}

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
