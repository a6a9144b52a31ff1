import type { ScanRun } from './scan';
import { turned } from './order';

/**
 * Passes cut upward only or downward only: each is divided where it changes between climbing and falling by more than `least`
 * mm, and the pieces that lead the wrong way are turned round.
 */
export function oneClimb(runs: readonly ScanRun[], way: 'up' | 'down', least: number): ScanRun[] {
  return runs.flatMap((run) =>
    monotonePieces(run.points, least).map(([from, to], k, all): ScanRun => {
      const points = run.points.slice(3 * from, 3 * to + 3);
      const rises = points[points.length - 1]! >= points[2]!;
      const isTurned = rises !== (way === 'up');
      const stopped: [boolean, boolean] = [
        k === 0 && run.stoppedBySteel[0],
        k === all.length - 1 && run.stoppedBySteel[1],
      ];
      return {
        ...run,
        points: isTurned ? turned(points) : points,
        stoppedBySteel: isTurned ? [stopped[1], stopped[0]] : stopped,
        oneWay: true,
      };
    }),
  );
}

/** First and last point of the pieces that only climb or only fall, but for changes of less than `least`. */
function monotonePieces(points: Float64Array, least: number): [number, number][] {
  const n = points.length / 3;
  const z = (k: number): number => points[3 * k + 2]!;
  const pieces: [number, number][] = [];
  let from = 0;
  /** 1: climbing, -1: falling, 0: not known yet. */
  let sense = 0;
  let [high, low] = [0, 0];
  for (let k = 1; k < n; k++) {
    if (z(k) > z(high)) high = k;
    if (z(k) < z(low)) low = k;
    if (sense >= 0 && z(high) - z(k) > least) {
      if (sense > 0) {
        pieces.push([from, high]);
        from = high;
      }
      sense = -1;
      low = k;
    } else if (sense <= 0 && z(k) - z(low) > least) {
      if (sense < 0) {
        pieces.push([from, low]);
        from = low;
      }
      sense = 1;
      high = k;
    }
  }
  pieces.push([from, n - 1]);
  return pieces.filter(([a, b]) => b > a);
}
