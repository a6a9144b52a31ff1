import { MISSED_SHARE, NOT_CUT, OUT_OF_REACH, type RidgeField, type StandOut } from '@esquisse/core';
import { histogram, type SteelDrawing } from './display';
import type { ReachView, RidgeView } from './views';

/** What the lens of needed stick-out shows. */
export function reachView(drawing: SteelDrawing, { map, field, stickOut }: StandOut, bins: number): ReachView {
  let [most, all, reached] = [0, 0, 0];
  for (const need of field) {
    if (Number.isNaN(need)) continue;
    most = Math.max(most, need);
    all++;
    if (need <= stickOut) reached++;
  }
  const high = Math.max(most, 1);
  return {
    // openings through the part show the ground
    steel: drawing.of({ ...map, heights: map.heights.map((h) => Math.max(h, map.floor)) }, field),
    stickOut,
    most,
    bins: histogram(field, 0, high, bins),
    reached: all > 0 ? reached / all : 1,
  };
}

/** What the lens of ridges shows. */
export function ridgeView(drawing: SteelDrawing, { map, field, asked }: RidgeField, bins: number): RidgeView {
  let [all, missed, outOfReach, notCut] = [0, 0, 0, 0];
  for (const height of field) {
    if (Number.isNaN(height)) continue;
    all++;
    if (height === OUT_OF_REACH) outOfReach++;
    else if (height === NOT_CUT) notCut++;
    else if (height > MISSED_SHARE * asked) missed++;
  }
  const high = 2 * asked;
  const measured = field.map((height) => (height >= 0 ? height : NaN));
  const of = (count: number): number => (all > 0 ? count / all : 0);
  return {
    steel: drawing.of({ ...map, heights: map.heights.map((h) => Math.max(h, map.floor)) }, field),
    asked,
    high,
    bins: histogram(measured, 0, high, bins),
    missed: of(missed),
    outOfReach: of(outOfReach),
    notCut: of(notCut),
  };
}
