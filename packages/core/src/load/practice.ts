import type { Cut } from '../tool/cuts';
import type { Grade } from '../tool/library';
import type { Material } from './material';

/** What a shop begins with where no formula tells: common practice, no source. */

/** How stiff the whole set-up is, in plain words, each with the factor on the feed: common practice, no source. */
export const STIFFNESS = [
  { words: 'heavy machine, block bolted down low', factor: 1.1 },
  { words: 'sound machine, block held over its whole length', factor: 1 },
  { words: 'ordinary vise, block stands a little high', factor: 0.9 },
  { words: 'held on little, or far from the table', factor: 0.75 },
  { words: 'light machine, or thin steel that rings', factor: 0.6 },
] as const;

/** Cutting speed of coated carbide in m/min by ISO 513 group and kind of cut: common practice, no source. */
export const SPEEDS: Record<Material['group'], Record<Cut, number>> = {
  P: { slot: 130, rough: 160, rest: 160, finish: 220, drill: 80, ream: 25, tap: 45 },
  M: { slot: 70, rough: 90, rest: 90, finish: 120, drill: 50, ream: 15, tap: 30 },
  K: { slot: 140, rough: 180, rest: 180, finish: 240, drill: 90, ream: 30, tap: 45 },
  N: { slot: 350, rough: 450, rest: 450, finish: 600, drill: 180, ream: 60, tap: 75 },
  S: { slot: 35, rough: 50, rest: 50, finish: 70, drill: 25, ream: 10, tap: 15 },
  H: { slot: 70, rough: 95, rest: 95, finish: 140, drill: 40, ream: 15, tap: 20 },
};
/** Cutting speed of other cutting materials than coated carbide, as a share of its: common practice, no source. */
export const GRADE_SPEED: Record<Grade, number> = { HC: 1, HW: 0.65, HT: 1.1, BH: 1.4, DP: 1.5, HSS: 0.22 };
/** Hardness that the table of speeds stands for, Brinell (HBW, ISO 6506): common practice, no source. */
const SPEED_HARDNESS: Record<Material['group'], number> = { P: 300, M: 250, K: 220, N: 90, S: 350, H: 510 };
/** How strongly speed gives way to hardness, and how far it may. */
const HARDNESS_EXPONENT = 0.6;
const HARDNESS_RANGE = [0.6, 1.35] as const;

/** Factor on the cutting speed for a hardness in HBW; 1 where it is not told. */
export function hardnessFactor(group: Material['group'], hardness: number | null): number {
  if (hardness === null) return 1;
  const factor = Math.pow(SPEED_HARDNESS[group] / hardness, HARDNESS_EXPONENT);
  return Math.min(HARDNESS_RANGE[1], Math.max(HARDNESS_RANGE[0], factor));
}

/** Chip thickness aimed at, as a share of DC: common practice, no source. */
export const CHIP_SHARE: Record<Cut, number> = {
  slot: 0.006,
  rough: 0.008,
  rest: 0.007,
  finish: 0.006,
  drill: 0.012,
  ream: 0.006,
  // the pitch says it
  tap: 0.01,
};
export const GROUP_CHIP: Record<Material['group'], number> = { P: 1, M: 0.8, K: 1.1, N: 1.5, S: 0.6, H: 0.6 };
/** A thinner chip may be made up by more feed up to this factor. */
export const MOST_THINNING = 2.2;
/** Shares of the cutting feed at which a cutter goes into steel on a slope, and straight down. */
export const ENTRY_SHARE = 0.4;
export const PLUNGE_SHARE = 0.25;
/** Feed on ways through air at the depth of the cut, where they are known to touch nothing, mm/min: common practice. */
export const AIR_FEED = 8000;
/** The overhang ratio up to which nothing is taken back, and by how much for each further diameter. */
const FREE_OVERHANG = 3;
const OVERHANG_LOSS = 0.1;
const LEAST_OVERHANG = 0.3;

/** Factor on the feed for a stick-out of so many diameters. */
export function overhangFactor(stickOut: number, DC: number): number {
  return Math.max(LEAST_OVERHANG, Math.min(1, 1 - OVERHANG_LOSS * (stickOut / DC - FREE_OVERHANG)));
}
