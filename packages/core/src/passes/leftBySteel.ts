import type { LeftOut } from '../link/context';
import type { ScanRun } from './scan';

/** Places this near to one another are told as one, mm. */
const SAME_PLACE_MM = 12;

/** One entry for each group of neighbouring places at which passes were cut short by steel: x, y, z, mm. */
export function leftBySteel(ends: Iterable<readonly [number, number, number]>): LeftOut[] {
  const places: LeftOut[] = [];
  for (const [x, y, z] of ends)
    if (!places.some((p) => Math.hypot(p.x - x, p.y - y) < SAME_PLACE_MM))
      places.push({ why: 'More steel than this cutter may take', x, y, z });
  return places;
}

/** Ends of passes that were cut short by steel. */
export function* stoppedEnds(runs: readonly ScanRun[]): Generator<[number, number, number]> {
  for (const { points, stoppedBySteel } of runs)
    for (const [end, stopped] of stoppedBySteel.entries()) {
      const o = end === 0 ? 0 : points.length - 3;
      if (stopped) yield [points[o]!, points[o + 1]!, points[o + 2]!];
    }
}
