import { defineTask } from '../crew/task';
import { ProfileDrop } from '../tool/drop';
import { type Profile, type RoundPiece, slimmer } from '../tool/profile';
import { OnSurface } from './onSurface';
import { AskedPlaces, type PlacesAsk } from './places';
import { TipSurface } from './tipSurface';
import type { Touched } from './touched';
import { leftBy } from './wanted';

/** A cutter that stays this far off a place touches it, mm. */
const REACHED_MM = 2e-3;
/** It is pushed away from walls so often, and clears them when it comes this near, mm. */
const MOST_PUSHES = 60;
const CLEAR_MM = 0.01;
/** Under this share of the nominal cutting speed an edge rubs rather than cuts (common practice). */
export const SLOW_SHARE = 0.2;
/** The cutter is looked at this far off upright walls, mm: rounding would have it in them. */
const OFF_MM = 1e-3;

/** A cutter, what holds it, and what of a part it is to finish. */
export interface FitAsk extends PlacesAsk {
  readonly piece: RoundPiece;
  /** Above the tip, as far as it stands out. */
  readonly shank: Profile;
  /** What holds it, from its lower end at 0. */
  readonly holder: Profile;
  readonly samples: number;
  /** Steel that stays counts from here on, mm. */
  readonly counts: number;
}

/** How a cutter fits what it is to finish, held against the part alone. */
export interface Fit {
  /** Places looked at, without the sides of openings in which nothing holds the cutter up, and those that it touches. */
  readonly places: number;
  readonly touched: number;
  /** Places in corners where more than what counts stays, and the thickest of it, mm. */
  readonly stays: number;
  readonly thickest: number;
  /** Places in openings too narrow for it. */
  readonly narrow: number;
  /** Stick-out at which the holder just clears the part, mm, at the places that it touches. */
  readonly stickOut: number;
  /** Places that it touches with its shank in the part. */
  readonly shankTouches: number;
  /** Places that it touches so near its middle that it rubs. */
  readonly slow: number;
}

/** Tries a cutter on places of a part. */
export const fitTask = defineTask('fit', (ask: FitAsk, cancel): Fit => {
  const { part, piece, samples } = ask;
  const places = new AskedPlaces(ask, piece.corner);
  const surface = new TipSurface({ mesh: part, piece, side: 0, floor: 0 });
  const room = new TipSurface({ mesh: part, piece: slimmer(piece, CLEAR_MM), side: 0, floor: 0 });
  const on = new OnSurface({ mesh: part, piece, side: 0, floor: 0 });
  const shank = new ProfileDrop(part, ask.shank);
  const holder = new ProfileDrop(part, ask.holder);
  const fit = { places: 0, stays: 0, touched: 0, thickest: 0, narrow: 0, stickOut: 0, shankTouches: 0, slow: 0 };
  for (let k = 0; k < samples; k++) {
    if ((k & 63) === 0) cancel.check();
    const place = places.at(k, samples);
    if (!place) continue;
    const level = Math.hypot(place.nx, place.ny);
    const out = level > 1e-9 ? (piece.flat + OFF_MM) / level + piece.corner : 0;
    const [x, y] = [place.x + out * place.nx, place.y + out * place.ny];
    const lowest = surface.at(x, y);
    if (lowest === -Infinity) continue;
    const tip = Math.max(lowest, place.z + piece.corner * (place.nz - 1));
    fit.places++;
    const stays = staysAt({ on, surface, room }, piece, place);
    if (stays > piece.corner) fit.narrow++;
    else if (stays > ask.counts) {
      fit.stays++;
      fit.thickest = Math.max(fit.thickest, stays);
    }
    if (stays > REACHED_MM) continue;
    fit.touched++;
    fit.stickOut = Math.max(fit.stickOut, holder.at(x, y) - tip);
    if (shank.at(x, y) > tip + REACHED_MM) fit.shankTouches++;
    if (piece.flat + piece.corner * level < SLOW_SHARE * piece.radius) fit.slow++;
  }
  return fit;
});

/** The part as a cutter sees it: pushed off it, over it, and over it a hair slimmer. */
interface Looks {
  readonly on: OnSurface;
  readonly surface: TipSurface;
  readonly room: TipSurface;
}

/** How thick steel stays over a place, mm. */
function staysAt({ on, surface, room }: Looks, piece: RoundPiece, place: Touched): number {
  const lifted = leftBy(surface, piece, place);
  // beside walls the flat of a bull-nose is in the way: it is only lifted
  if (lifted <= REACHED_MM || piece.flat > 0) return lifted;
  return staysBeside(on, room, piece, place);
}

/**
 * How thick steel stays over a place that a ball does not touch, mm, at its thinnest: the ball is pushed away from what is in its
 * way until it stands off it by its radius. Infinity where it fits nowhere near.
 */
function staysBeside(on: OnSurface, room: TipSurface, { corner }: RoundPiece, p: Touched): number {
  const off = on.put(p.x + corner * p.nx, p.y + corner * p.ny, p.z + corner * p.nz, MOST_PUSHES);
  if (off > CLEAR_MM || room.forbids(on.x, on.y, on.z - corner + CLEAR_MM)) return Infinity;
  return Math.max(0, Math.hypot(on.x - p.x, on.y - p.y, on.z - p.z) - corner);
}
