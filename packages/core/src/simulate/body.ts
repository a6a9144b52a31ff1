import type { Profile, RoundPiece } from '../tool/profile';

/** A cutter with what stands above it. */
export interface Body {
  piece: RoundPiece;
  shank: Profile;
  /** Holder with its lower end at 0. */
  holder: Profile;
  stickOut: number;
  fluteLength: number;
  /** Whether it cuts over its centre and may go straight down into steel. */
  centreCutting?: boolean;
}

export type MishapKind = 'rapid' | 'shank' | 'holder' | 'plunge' | 'fixture';

/** Something that must not happen, at a motion; `amount` is mm³ for rapids and plunges (of disc share), mm for contacts. */
export interface Mishap {
  kind: MishapKind;
  motion: number;
  amount: number;
}
