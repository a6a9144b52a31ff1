import type { Cancel } from '../base/cancel';
import { AskedPlaces } from '../field/places';
import { TipSurface } from '../field/tipSurface';
import { leftBy } from '../field/wanted';
import type { HeightMap } from '../steel/heightMap';
import { CutterDrop } from '../tool/drop';
import { REACHED_MM, type RidgeAsk } from './ridges';
import { BELOW_MM, SweptBalls } from './sweptBalls';

/** What a field of ridges has where it tells no height: not asked for, out of the cutter's reach, asked for and not cut. */
export const NOT_ASKED = NaN;
export const OUT_OF_REACH = -1;
export const NOT_CUT = -2;

/** Ridges over the cells of a part's map, seen from above. */
export interface RidgeFieldAsk extends Omit<RidgeAsk, 'samples'> {
  readonly map: HeightMap;
  /** Every so many cells along and across are looked at, the others have their value. */
  readonly stride: number;
  /** Height of the ridge along the part's normal, mm, or one of the marks above. */
  readonly out: Float32Array;
}

/** Measures rows `rows[0]` to `rows[1]` (exclusive) of a field. */
export function ridgeRows(ask: RidgeFieldAsk, rows: readonly [number, number], cancel?: Cancel): void {
  const { part, piece, allowance, map, stride, out } = ask;
  const places = new AskedPlaces(ask, piece.corner);
  const sweeps = new SweptBalls(ask.path, piece.corner, undefined, BELOW_MM + Math.max(0, -allowance));
  const surface = new TipSurface({ mesh: part, piece, side: 0, floor: 0 });
  const ray = new CutterDrop(part, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
  const at = (x: number, y: number): number => {
    if (ray.at(x, y) === -Infinity) return NOT_ASKED;
    const touched = ray.contact();
    if (!touched || !places.isAsked(touched)) return NOT_ASKED;
    if (leftBy(surface, piece, touched) > REACHED_MM) return OUT_OF_REACH;
    const above = sweeps.above(touched);
    // what the path's tolerance lets it go below counts as no ridge
    return above === Infinity ? NOT_CUT : Math.max(0, above - allowance);
  };
  for (let j = rows[0]; j < rows[1]; j += stride) {
    cancel?.check();
    for (let i = 0; i < map.nx; i += stride) {
      const value = at(map.x0 + (i + 0.5) * map.cell, map.y0 + (j + 0.5) * map.cell);
      for (let v = j; v < Math.min(j + stride, rows[1]); v++)
        out.fill(value, v * map.nx + i, v * map.nx + Math.min(map.nx, i + stride));
    }
  }
}
