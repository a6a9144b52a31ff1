import { sharedFloat32 } from '../base/shared';
import { Motion, motionLength, type Toolpath } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { LoadAlong, type LoadConditions, loadLimits } from './loadAlong';
import type { EvenFeed } from './stepCutting';

/** But on the way from one to another, feeds are whole multiples of such a share of the step's own: the text has few F words. */
const STEP = 0.02;
/** Quantities that the feed changes and that may have limits. */
const FED = ['chip', 'power', 'torque', 'bending'] as const;

/**
 * Feeds that follow the load: in steel as fast as a quantity of it and all limits of machine and assembly allow, in air as fast as
 * they may, and never changing faster along the way than is said. A motion has one feed, that of its hardest place. Ways in are slowed down only; links, ways out and
 * rapids stay as they are.
 *
 * @param path with the feeds of the step, mm/min
 * @param most what the quantity is not to exceed, unless the least feed does
 * @param maxFeed of the machine, mm/min
 */
export function evenFeed(
  path: Toolpath,
  engagement: Engagement,
  conditions: LoadConditions,
  { by, least, fastest, perMm }: EvenFeed,
  most: number,
  maxFeed: number,
): Float32Array {
  const { kind, feed: own } = path;
  const along = new LoadAlong(engagement, conditions);
  const { mc } = conditions.material;
  const limits = { ...loadLimits(conditions), [by]: most };
  // chips grow in proportion to the feed, power and forces as its 1 - mc (Kienzle 1952)
  const bounds = FED.flatMap((id) => {
    const limit = limits[id];
    return limit === undefined ? [] : [{ id, limit, exponent: id === 'chip' ? 1 : 1 / (1 - mc) }];
  });
  const share = new Float32Array(own.length);
  for (let i = 1; i < share.length; i++) share[i] = kind[i] === Motion.cut ? fastest : 1;
  const { motion, length } = engagement;
  for (let k = 0; k < motion.length; k++) {
    const i = motion[k]!;
    if (!follows(kind[i]!)) continue;
    const now = along.at(k, own[i]!);
    const free = bounds.map(({ id, limit, exponent }) => (now[id] > 0 ? Math.pow(limit / now[id], exponent) : fastest));
    const held = Math.max(least, Math.min(fastest, ...free));
    let left = length[k]! - engagement.share[k]! * motionLength(path, i);
    share[i] = Math.min(share[i]!, held);
    for (let m = i - 1; left > 0 && kind[m] === kind[i]; m--) {
      share[m] = Math.min(share[m]!, held);
      left -= motionLength(path, m);
    }
  }
  for (let i = 1; i < share.length; i++) share[i] = Math.max(least, STEP * Math.floor(share[i]! / STEP + 1e-6));
  // it slows down before it has to, and speeds up no sooner than it may
  const next = (from: number, to: number): void => {
    if (!follows(kind[from]!) || kind[to] !== kind[from]) return;
    share[to] = Math.min(share[to]!, share[from]! + perMm * motionLength(path, to));
  };
  for (let i = share.length - 1; i > 1; i--) next(i, i - 1);
  for (let i = 1; i < share.length - 1; i++) next(i, i + 1);
  const feed = sharedFloat32(own.length);
  for (let i = 1; i < feed.length; i++)
    feed[i] = follows(kind[i]!) ? Math.min(Math.max(own[i]!, maxFeed), share[i]! * own[i]!) : own[i]!;
  return feed;
}

const follows = (kind: number): boolean => kind === Motion.cut || kind === Motion.entry;
