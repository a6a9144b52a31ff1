import type { Cancel } from '../base/cancel';
import type { ContactMesh } from '../geometry/contactMesh';
import { Motion, type Motions } from '../path/toolpath';
import { ProfileDrop } from '../tool/drop';
import type { Profile } from '../tool/profile';

/** A path is looked at once in this length, mm. */
const LOOK_MM = 1;

export interface ReachAsk {
  readonly part: ContactMesh;
  readonly path: Motions;
  /** What holds the cutter, from its lower end at 0, as it is. */
  readonly holder: Profile;
  readonly span: readonly [number, number];
}

/** Length of a path at feed that wants a stick-out of up to k + 1 mm, and more than k, at place k. */
export type LengthsByNeed = readonly number[];

/** How far the cutter has to stand out of its holder along a span of motions, so that the holder clears the part. */
export function reachAlong({ part, path, holder, span }: ReachAsk, cancel?: Cancel): LengthsByNeed {
  const drop = new ProfileDrop(part, holder);
  const { x, y, z, kind } = path;
  const lengths: number[] = [];
  /** Length since the last look. */
  let open = 0;
  const look = (px: number, py: number, pz: number): void => {
    const need = drop.at(px, py) - pz;
    const bin = need > 0 ? Math.ceil(need) - 1 : 0;
    while (lengths.length <= bin) lengths.push(0);
    lengths[bin]! += open;
    open = 0;
  };
  let last = -1;
  for (let k = Math.max(1, span[0]); k < span[1]; k++) {
    if ((k & 255) === 0) cancel?.check();
    if (kind[k] === Motion.rapid) continue;
    last = k;
    const [dx, dy, dz] = [x[k]! - x[k - 1]!, y[k]! - y[k - 1]!, z[k]! - z[k - 1]!];
    const length = Math.hypot(dx, dy, dz);
    const looks = Math.max(1, Math.floor(length / LOOK_MM));
    for (let s = 1; s <= looks; s++) {
      open += length / looks;
      const back = 1 - s / looks;
      if (open >= LOOK_MM) look(x[k]! - back * dx, y[k]! - back * dy, z[k]! - back * dz);
    }
  }
  if (last >= 0 && open > 0) look(x[last]!, y[last]!, z[last]!);
  return lengths;
}

/** Several spans together. */
export function joinedLengths(spans: readonly LengthsByNeed[]): LengthsByNeed {
  const most = Math.max(0, ...spans.map((s) => s.length));
  return Array.from({ length: most }, (_, k) => spans.reduce((sum, s) => sum + (s[k] ?? 0), 0));
}

/** Share of the length that clears at a stick-out, mm. */
export function clearShare(lengths: LengthsByNeed, stickOut: number): number {
  const all = lengths.reduce((sum, l) => sum + l, 0);
  const clear = lengths.reduce((sum, l, k) => (k + 1 <= stickOut ? sum + l : sum), 0);
  return all > 0 ? clear / all : 1;
}
