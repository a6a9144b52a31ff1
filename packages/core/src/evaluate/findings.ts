import type { ContactSpeed } from '../check/contactSpeed';
import type { Gouge } from '../check/gouge';
import { lengthsOf, type MOTION_NAMES, Motion, type Motions } from '../path/toolpath';
import type { Mishap } from '../simulate/body';
import type { LeftoverFigures } from '../steel/leftover';
import type { LengthsByNeed } from '../check/reachAlong';
import type { Ridges } from '../check/ridges';
import type { Unfinished } from '../check/unfinished';
import type { LeftOut } from '../link/context';
import type { LoadFigures } from './loadFigure';

export type FindingKind = Mishap['kind'] | 'gouge';

/** Something found wrong in a step; `motion` is where it is worst. */
export interface Finding {
  kind: FindingKind;
  text: string;
  motion: number;
  /** Motions on which it was found. */
  count: number;
  amount: number;
  /** Where it is, one for each place, in the order of the motions. */
  places: readonly FindingPlace[];
}

/** Motions near to each other on which the same is wrong. */
export interface FindingPlace {
  /** The worst of them. */
  readonly motion: number;
  readonly text: string;
  readonly count: number;
}

/** What a step did, in figures. Lengths in mm, times in s. */
export interface StepFigures {
  seconds: number;
  /** Machine time; and what it would be if the feed did not follow the load, where it does. */
  time: number;
  plainTime?: number | undefined;
  lengths: Record<(typeof MOTION_NAMES)[number], number>;
  /** Length at feed without taking anything off. */
  air: number;
  retracts: number;
  /** Volume taken off, mm³. */
  removed: number;
  /** Removal rate over the step's time in {@link RATE_SPANS} equal spans, cm³/min. */
  rate: number[];
  leftover: LeftoverFigures;
  /** Where more stays than it is to leave, for steps that finish. */
  unfinished?: Unfinished | undefined;
  /** Ridges that its passes leave, measured along the part's normal; undefined for steps that do not finish with a ball. */
  ridges?: Ridges | undefined;
  /** How fast a finishing ball cuts where it touches: share of the length under a fifth of its speed at DC, and the median in percent. */
  contact?: Pick<ContactSpeed, 'slow' | 'median'> | undefined;
  /** How hard its cuts are; undefined where it takes no steel. */
  load?: LoadFigures | undefined;
  /** Lengths at feed by the stick-out that they want against the part. */
  reach: LengthsByNeed;
  /** Shortest stick-out that keeps the holder clear, mm. */
  neededStickOut: number;
  findings: Finding[];
  leftOut: readonly LeftOut[];
  /** Places where a person should look. */
  notes: readonly LeftOut[];
  /** Where it breaks the rules for hard steel: told where the job is one. */
  hardSteel: readonly LeftOut[];
}

const SENTENCES: Record<FindingKind, (amount: number) => string> = {
  gouge: (a) => `The cutter goes ${a.toFixed(3)} mm into the part`,
  rapid: (a) => `A rapid runs through ${a.toFixed(2)} mm³ of steel`,
  plunge: () => 'The cutter is driven straight down into steel',
  shank: (a) => `Neck or shank goes ${a.toFixed(2)} mm into steel above the flutes`,
  fixture: (a) => `Cutter, shank or holder comes too near a fixture: it is ${a.toFixed(2)} mm too low there`,
  holder: (a) => `The holder is ${a.toFixed(2)} mm too low: it touches steel`,
};

/** Places of one kind that are told apart; what lies beyond is told with the nearest of them. */
const MOST_PLACES = 120;

/**
 * One finding a kind, at its worst motion and with its places, from what bands and exact contact found.
 *
 * @param near what lies within this of a worse one is one place with it, mm
 */
export function findingsOf(
  path: Motions,
  near: number,
  mishaps: readonly Mishap[],
  gouges: readonly Gouge[],
): Finding[] {
  const worst = new Map<FindingKind, Map<number, number>>();
  const note = (kind: FindingKind, motion: number, amount: number): void => {
    const motions = worst.get(kind) ?? new Map<number, number>();
    worst.set(kind, motions);
    motions.set(motion, Math.max(amount, motions.get(motion) ?? -Infinity));
  };
  for (const { kind, motion, amount } of mishaps) note(kind, motion, amount);
  for (const { motion, depth } of gouges) note('gouge', motion, depth);
  return [...worst].map(([kind, motions]) => {
    const all = [...motions].map(([motion, amount]) => ({ motion, amount }));
    all.sort((a, b) => b.amount - a.amount || a.motion - b.motion);
    const { motion, amount } = all[0]!;
    const sentence = SENTENCES[kind](amount);
    return {
      kind,
      text: `${sentence}${all.length > 1 ? ` (worst of ${all.length} motions)` : ''}.`,
      motion,
      count: all.length,
      amount,
      places: placesOf(path, near, kind, all),
    };
  });
}

/** @param worstFirst motions and what is wrong on them */
function placesOf(
  { x, y, z }: Motions,
  near: number,
  kind: FindingKind,
  worstFirst: readonly { motion: number; amount: number }[],
): FindingPlace[] {
  const places: { motion: number; amount: number; count: number }[] = [];
  for (const { motion, amount } of worstFirst) {
    const away = ({ motion: k }: { motion: number }): number =>
      Math.hypot(x[k]! - x[motion]!, y[k]! - y[motion]!, z[k]! - z[motion]!);
    let own: (typeof places)[number] | undefined;
    for (const place of places) if (!own || away(place) < away(own)) own = place;
    if (own && (away(own) <= near || places.length >= MOST_PLACES)) own.count++;
    else places.push({ motion, amount, count: 1 });
  }
  places.sort((a, b) => a.motion - b.motion);
  return places.map(({ motion, amount, count }) => ({
    motion,
    text: `${SENTENCES[kind](amount)}${count > 1 ? ` (worst of ${count} motions here)` : ''}.`,
    count,
  }));
}

/** A place that was left out, over several levels. */
export interface LeftOutPlace extends LeftOut {
  /** How many entries of the step it stands for. */
  count: number;
  /** Lowest height of them, mm. */
  lowest: number;
}

/**
 * Left-out places that stand above one another, for the same reason and within `near` mm in plan, as one each, with the sum
 * of what is known of their volumes; the largest first.
 */
export function placesLeftOut(leftOut: readonly LeftOut[], near: number): LeftOutPlace[] {
  const places: LeftOutPlace[] = [];
  for (const l of leftOut) {
    const same = places.find((p) => p.why === l.why && Math.hypot(p.x - l.x, p.y - l.y) <= near);
    if (!same) {
      places.push({ ...l, count: 1, lowest: l.z });
      continue;
    }
    same.count++;
    same.z = Math.max(same.z, l.z);
    same.lowest = Math.min(same.lowest, l.z);
    if (l.volume !== undefined) same.volume = (same.volume ?? 0) + l.volume;
  }
  return places.sort((a, b) => (b.volume ?? 0) - (a.volume ?? 0) || b.count - a.count);
}

/** Spans of a step's time for which its removal rate is told. */
export const RATE_SPANS = 80;

/**
 * Removal rate in equal spans of a step's time, cm³/min; a motion's volume is shared evenly over its own time.
 *
 * @param times at the end of each motion, s
 * @param removed by each motion, mm³
 */
export function removalRates(times: Float64Array, removed: Float32Array, spans = RATE_SPANS): number[] {
  const whole = times[times.length - 1] ?? 0;
  const volume = new Array<number>(spans).fill(0);
  if (!(whole > 0)) return volume;
  const span = whole / spans;
  for (let i = 1; i < times.length; i++) {
    if (!removed[i]) continue;
    const [from, to] = [times[i - 1]!, times[i]!];
    const last = Math.min(spans - 1, Math.floor(to / span));
    for (let k = Math.min(last, Math.floor(from / span)); k <= last; k++) {
      const inside = Math.min(to, (k + 1) * span) - Math.max(from, k * span);
      volume[k]! += to > from ? (removed[i]! * Math.max(0, inside)) / (to - from) : removed[i]!;
    }
  }
  return volume.map((v) => (v / 1000 / span) * 60);
}

/** Volume below which a motion counts as one through air, mm³. */
const AIR_MM3 = 1e-6;

/** Lengths, air and retracts of a path. */
export function travelFigures(
  path: Motions,
  removed: Float32Array,
): Pick<StepFigures, 'lengths' | 'air' | 'retracts' | 'removed'> {
  let air = 0;
  let retracts = 0;
  let volume = 0;
  for (let i = 1; i < path.x.length; i++) {
    volume += removed[i]!;
    const rapid = path.kind[i] === Motion.rapid;
    if (rapid && path.kind[i - 1] !== Motion.rapid) retracts++;
    if (!rapid && removed[i]! < AIR_MM3)
      air += Math.hypot(path.x[i]! - path.x[i - 1]!, path.y[i]! - path.y[i - 1]!, path.z[i]! - path.z[i - 1]!);
  }
  return { lengths: lengthsOf(path), air, retracts, removed: volume };
}
