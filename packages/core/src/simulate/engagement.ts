import { sharedFloat32, sharedUint32 } from '../base/shared';
import type { RoundPiece } from '../tool/profile';

/** Cells along a stretch at least, so that the steel's grid hardly shows; and its share of the cutter's radius. */
const LEAST_CELLS = 4;
const OF_RADIUS = 1 / 6;
/** Strips that the cutter's width is divided into at most, one bit each, and their width in cells at least: none is met unseen. */
const MOST_STRIPS = 64;
const STRIP_CELLS = 1.25;

/** Columns lower than this are skimmed and tell no angle: a share of the radius, mm at least. */
const SKIM_SHARE = 1 / 150;
const LEAST_SKIM_MM = 5e-3;

/**
 * Over what length the load is told, mm, into how many strips the cutter's width is divided, and up to which depth it only
 * skims, mm.
 */
export function stretchOf(
  { radius }: Pick<RoundPiece, 'radius'>,
  cell: number,
): { length: number; strips: number; skim: number } {
  const strips = Math.max(1, Math.min(MOST_STRIPS, Math.floor((2 * radius) / (STRIP_CELLS * cell))));
  return {
    length: Math.max(LEAST_CELLS * cell, OF_RADIUS * radius),
    strips,
    skim: Math.max(LEAST_SKIM_MM, SKIM_SHARE * radius),
  };
}

/**
 * How much of the cutter is in steel, by short stretches of the path that meet any, in the path's order. Of a stretch: the
 * motion in which it ends and at which share of it, and its length (mm). What it takes off over its length (mm²) and the surface
 * of the cutter that does so (mm²): their ratio is the mean chip thickness as a share of the feed per tooth. Engagement angle
 * (rad) and width ae (mm) of the flank, or of the corner where the flank meets nothing; depth ap (mm), and the largest chip
 * thickness as a share of the feed per tooth.
 */
export interface Engagement {
  readonly motion: Uint32Array;
  readonly share: Float32Array;
  readonly length: Float32Array;
  readonly area: Float32Array;
  readonly surface: Float32Array;
  readonly angle: Float32Array;
  readonly width: Float32Array;
  readonly depth: Float32Array;
  readonly chip: Float32Array;
}

/** Places of the figures in a record of `kernels/load.ts`, in its words of four bytes. */
const WORDS = 16;
const [MOTION, NUMBER, SHARE, LENGTH, VOLUME, SURFACE, WIDTH, DEPTH, CHIP, RIM, FLANK_WIDTH, MET, FLANK_MET] = [
  0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 12, 14,
] as const;
/** Bytes of a record. */
export const LOAD_BYTES = 4 * WORDS;
/** Records of one motion at most. */
export const MOST_LOADS = 129;

/** What one band of rows meets: records as the kernel writes them, one after another. */
export type BandLoad = Uint32Array;

/** Gathers what the kernel writes batch after batch. */
export class LoadWriter {
  private readonly kept: Uint32Array[] = [];

  /**
   * @param records written by the last batch
   * @param from motion that the batch began with
   */
  add(records: Uint32Array, from: number): void {
    if (records.length === 0) return;
    const own = records.slice();
    for (let k = 0; k < own.length; k += WORDS) own[k + MOTION] = own[k + MOTION]! + from;
    this.kept.push(own);
  }

  finish(): BandLoad {
    const all = sharedUint32(this.kept.reduce((sum, k) => sum + k.length, 0));
    let at = 0;
    for (const own of this.kept) {
      all.set(own, at);
      at += own.length;
    }
    return all;
  }
}

/** Joins what the bands of rows meet; stretches have the same numbers in all of them. */
export function joinLoads(bands: readonly BandLoad[], piece: Pick<RoundPiece, 'radius'>, cell: number): Engagement {
  const { radius } = piece;
  const stretch = stretchOf(piece, cell);
  const whole = new Uint32Array(bands.reduce((sum, band) => sum + band.length, 0));
  let end = 0;
  for (const band of bands) {
    whole.set(band, end);
    end += band.length;
  }
  const figures = new Float32Array(whole.buffer);
  const { places, starts } = byNumber(whole);
  const n = starts.length;
  const out = {
    motion: sharedUint32(n),
    share: sharedFloat32(n),
    length: sharedFloat32(n),
    area: sharedFloat32(n),
    surface: sharedFloat32(n),
    angle: sharedFloat32(n),
    width: sharedFloat32(n),
    depth: sharedFloat32(n),
    chip: sharedFloat32(n),
  };
  starts.forEach((first, k) => {
    const own = places.subarray(first, starts[k + 1] ?? places.length);
    const sum = (word: number): number => own.reduce((total, o) => total + figures[o + word]!, 0);
    const most = (word: number): number => own.reduce((high, o) => Math.max(high, figures[o + word]!), 0);
    const met = (word: number): number => own.reduce((bits, o) => (bits | whole[o + word]!) >>> 0, 0);
    const at = own[0]!;
    // what ends before its length is told over half of it at least: over less the cells would tell
    const length = Math.max(figures[at + LENGTH]!, stretch.length / 2);
    const isFlank = (met(FLANK_MET) | met(FLANK_MET + 1)) !== 0;
    const width = Math.min(2 * radius, sum(isFlank ? FLANK_WIDTH : WIDTH) / length);
    const strips = isFlank ? FLANK_MET : MET;
    out.motion[k] = whole[at + MOTION]!;
    out.share[k] = figures[at + SHARE]!;
    out.length[k] = figures[at + LENGTH]!;
    out.area[k] = sum(VOLUME) / length;
    out.surface[k] = sum(SURFACE) / length;
    out.depth[k] = most(DEPTH);
    out.chip[k] = Math.min(1, most(CHIP));
    out.width[k] = width;
    out.angle[k] = angleOf([met(strips), met(strips + 1)], stretch.strips, width, radius, isFlank ? radius : most(RIM));
  });
  return out;
}

/** Places of records in the order of their stretches' numbers, and where each stretch begins among them. */
function byNumber(records: Uint32Array): { places: Uint32Array; starts: readonly number[] } {
  let most = 0;
  for (let o = 0; o < records.length; o += WORDS) most = Math.max(most, records[o + NUMBER]! + 1);
  // how many come before each number
  const before = new Uint32Array(most + 1);
  for (let o = 0; o < records.length; o += WORDS) before[records[o + NUMBER]! + 1]!++;
  const starts: number[] = [];
  for (let number = 0; number < most; number++) {
    if (before[number + 1]! > 0) starts.push(before[number]!);
    before[number + 1]! += before[number]!;
  }
  const places = new Uint32Array(records.length / WORDS);
  for (let o = 0; o < records.length; o += WORDS) places[before[records[o + NUMBER]!]!++] = o;
  return { places, starts };
}

/**
 * Angle over which a rim meets steel, from the strips across the cutter in which it does, rad. Strips are met in whole: what they
 * cover beyond the width that is met is taken back at the ends that lie inside the rim.
 *
 * @param met a bit for each strip, the first 32 and those behind them
 */
export function angleOf(
  met: readonly [number, number],
  strips: number,
  width: number,
  radius: number,
  rim: number,
): number {
  // the very tip alone
  if (!(rim > 0)) return 0;
  const step = (2 * radius) / strips;
  const isMet = (k: number): boolean => k >= 0 && k < strips && ((met[k >> 5]! >>> (k & 31)) & 1) === 1;
  const ends: { at: number; way: 1 | -1 }[] = [];
  let covered = 0;
  for (let k = 0; k <= strips; k++) {
    const at = Math.max(-rim, Math.min(rim, k * step - radius));
    if (isMet(k) && !isMet(k - 1)) ends.push({ at, way: -1 });
    else if (!isMet(k) && isMet(k - 1)) ends.push({ at, way: 1 });
    if (isMet(k)) covered += Math.max(0, Math.min(rim, (k + 1) * step - radius) - at);
  }
  const inner = ends.filter(({ at }) => Math.abs(at) < rim * (1 - 1e-6));
  const back = inner.length > 0 ? Math.max(0, Math.min(step, (covered - width) / inner.length)) : 0;
  return ends.reduce((sum, { at, way }) => {
    const place = Math.abs(at) < rim * (1 - 1e-6) ? at - way * back : at;
    return sum + way * Math.asin(Math.max(-1, Math.min(1, place / rim)));
  }, 0);
}
