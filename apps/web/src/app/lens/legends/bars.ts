import type { Bar } from '../../shared/histogram';

/**
 * Bars of equal bins from the highest value at the top to the lowest; counts on a root scale so that rare values stay visible. The
 * ends and the middle are labelled.
 */
export function barsOf(
  bins: readonly number[],
  [low, high]: readonly [low: number, high: number],
  colourAt: (value: number) => string,
  labelAt: (value: number) => string,
): Bar[] {
  const n = bins.length;
  const most = Math.max(1e-9, ...bins);
  const labelled = [0, Math.floor(n / 2), n - 1];
  return bins
    .map((count, k) => {
      const value = low + ((k + 0.5) / n) * (high - low);
      return {
        colour: colourAt(value),
        length: count === 0 ? 0 : Math.max(0.01, Math.sqrt(count / most)),
        label: labelled.includes(k) ? labelAt(k === 0 ? low : k === n - 1 ? high : value) : '',
      };
    })
    .reverse();
}
