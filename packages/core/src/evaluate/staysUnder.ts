import type { LeftOut } from '../link/context';
import type { HeightMap } from '../steel/heightMap';

/** Less than this is no steel to speak of, mm³. */
const LEAST_MM3 = 1;

/** Thicknesses above the allowance, mm: what cannot be told from none, and what stays on purpose. */
export interface StaysUnder {
  readonly allowance: number;
  readonly told: number;
  readonly threshold: number;
}

/**
 * Steel that a step leaves because it is thinner than the step's threshold: as one place, where it is thickest; undefined where
 * there is next to none.
 *
 * @param leftover steel above the part after the step, along its normal, mm
 * @param tops heights of the part on the same cells, mm
 */
export function staysUnder(
  { x0, y0, nx, cell, heights }: HeightMap,
  leftover: Float32Array,
  tops: Float32Array,
  { allowance, told, threshold }: StaysUnder,
): LeftOut | undefined {
  let volume = 0;
  let thickest = 0;
  let at = -1;
  leftover.forEach((left, o) => {
    const over = left - allowance;
    if (!(over > told && over <= threshold)) return;
    volume += Math.max(0, heights[o]! - tops[o]! - allowance) * cell * cell;
    if (over > thickest) [thickest, at] = [over, o];
  });
  if (volume < LEAST_MM3) return undefined;
  const [x, y] = [x0 + ((at % nx) + 0.5) * cell, y0 + (Math.floor(at / nx) + 0.5) * cell];
  const why = `Thinner than the threshold of ${threshold} mm: up to ${thickest.toFixed(2)} mm stay above the allowance`;
  return { why, x, y, z: heights[at]!, volume };
}
