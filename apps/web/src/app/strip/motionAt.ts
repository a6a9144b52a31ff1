/** First motion that ends at or after a time. */
export function motionAt(times: Float64Array, time: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (times[mid]! < time) low = mid + 1;
    else high = mid;
  }
  return low;
}
