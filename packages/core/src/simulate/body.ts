import type { Profile, ProfilePiece } from '../tool/profile';
import { cuttingPiece, holderProfile, shankProfile, type ToolShape } from '../tool/shape';

/** A cutter with what stands above it. */
export interface Body {
  /** Underside of its edges. */
  piece: ProfilePiece;
  shank: Profile;
  /** Holder with its lower end at 0. */
  holder: Profile;
  stickOut: number;
  fluteLength: number;
  /** Whether it cuts over its centre and may go straight down into steel. */
  centreCutting?: boolean;
}

export type MishapKind = 'rapid' | 'shank' | 'holder' | 'plunge' | 'fixture';

/**
 * Something that must not happen, at a motion. Its amount: steel taken by a rapid, mm³; steel under a cutter that goes straight
 * down, as a share of its disc; depth of a contact, mm.
 */
export interface Mishap {
  kind: MishapKind;
  motion: number;
  amount: number;
}

/** A tool as the watch over the steel wants it. */
export function bodyOf(shape: ToolShape): Body {
  return {
    piece: cuttingPiece(shape),
    shank: shankProfile(shape),
    holder: holderProfile(shape, 0),
    stickOut: shape.stickOut,
    fluteLength: shape.APMX,
    centreCutting: shape.centreCutting || shape.kind === 'drill' || shape.kind === 'spot',
  };
}

/** The body with nothing above the cutter, for runs of which only the steel is asked. */
export const unwatched = (body: Body): Body => ({ ...body, shank: [], holder: [] });
