/** Bins by which values are parted before the few that matter are put in order. */
const BINS = 4096;

/**
 * The values that stand at given shares of the way from the least to the greatest, without ordering them all: 0 the least, 0.5
 * the middle one, 1 the greatest. What is not a number does not count; 0 when nothing counts.
 *
 * @param shares 0 to 1
 */
export function ranked(values: Float32Array, shares: readonly number[]): number[] {
  let count = 0;
  let low = Infinity;
  let high = -Infinity;
  for (let k = 0; k < values.length; k++) {
    const v = values[k]!;
    if (Number.isNaN(v)) continue;
    count++;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  if (count === 0) return shares.map(() => 0);
  if (low === high) return shares.map(() => low);
  const scale = (BINS - 1) / (high - low);
  const bins = new Uint32Array(BINS);
  for (let k = 0; k < values.length; k++) {
    const v = values[k]!;
    if (!Number.isNaN(v)) bins[((v - low) * scale) | 0]!++;
  }
  const places = shares.map((share) => {
    let rank = Math.min(count - 1, Math.floor(share * count));
    let bin = 0;
    while (rank >= bins[bin]!) rank -= bins[bin++]!;
    return { rank, bin };
  });
  // bins from which a value is wanted, to be put in order
  const wanted = new Array<Float32Array | undefined>(BINS);
  for (const { bin } of places) wanted[bin] = new Float32Array(bins[bin]!);
  const filled = new Uint32Array(BINS);
  for (let k = 0; k < values.length; k++) {
    const v = values[k]!;
    if (Number.isNaN(v)) continue;
    const bin = ((v - low) * scale) | 0;
    const inBin = wanted[bin];
    if (inBin) inBin[filled[bin]!++] = v;
  }
  for (const bin of new Set(places.map((place) => place.bin))) wanted[bin]!.sort();
  return places.map(({ rank, bin }) => wanted[bin]![rank]!);
}
