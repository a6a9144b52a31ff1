import { EsquisseError } from '../base/errors';

/**
 * One convex piece of the underside of a revolved body, with z measured from the tip:
 * - `round`: a disc of radius `flat` at height `z`, then a quarter arc of radius `corner`; covers flat end (corner 0),
 *   ball nose (flat 0) and bull-nose cutters.
 * - `cone`: a disc of radius `flat` at height `z`, then a cone rising by `slope` per mm of radius out to `radius`.
 */
export type ProfilePiece =
  | { kind: 'round'; z: number; flat: number; corner: number; radius: number }
  | { kind: 'cone'; z: number; flat: number; radius: number; slope: number };

/** An end mill's underside. */
export type RoundPiece = ProfilePiece & { kind: 'round' };

/** The underside of a body as the lower envelope of convex pieces, lowest first; lengths in mm. */
export type Profile = readonly ProfilePiece[];

/** Underside of an end mill: cutting diameter DC and corner radius RE (ISO 13399), mm. */
export function roundProfile(diameter: number, cornerRadius: number): RoundPiece {
  if (!(diameter > 0) || !(cornerRadius >= 0) || cornerRadius > diameter / 2 + 1e-9)
    throw new EsquisseError(
      'cutter-invalid',
      `A cutter of DC ${diameter} mm cannot have a corner radius of ${cornerRadius} mm.`,
      'RE',
    );
  const corner = Math.min(cornerRadius, diameter / 2);
  return { kind: 'round', z: 0, flat: diameter / 2 - corner, corner, radius: diameter / 2 };
}

/** Height of the piece's underside at radius d (mm), Infinity outside it. */
export function heightAt(piece: ProfilePiece, d: number): number {
  if (d > piece.radius) return Infinity;
  if (d <= piece.flat) return piece.z;
  if (piece.kind === 'cone') return piece.z + piece.slope * (d - piece.flat);
  const e = d - piece.flat;
  return piece.z + piece.corner - Math.sqrt(Math.max(0, piece.corner * piece.corner - e * e));
}

/** How far the piece's underside rises from its disc to its rim, mm. */
export const riseOf = (piece: ProfilePiece): number =>
  piece.kind === 'cone' ? piece.slope * (piece.radius - piece.flat) : piece.corner;

/**
 * The piece grown on all sides by an allowance (mm), its corner centre staying where it is: tip lower by `by`. A point leaves no
 * allowance.
 */
export function grown(piece: RoundPiece, by: number): RoundPiece;
export function grown(piece: ProfilePiece, by: number): ProfilePiece;
export function grown(piece: ProfilePiece, by: number): ProfilePiece {
  if (piece.kind === 'cone') {
    if (by === 0) return piece;
    throw new EsquisseError('value-invalid', 'A cutter with a point leaves no allowance.', 'allowance');
  }
  const corner = piece.corner + by;
  if (corner < 0)
    throw new EsquisseError(
      'value-invalid',
      `An allowance of ${by} mm takes more than the corner radius.`,
      'allowance',
    );
  return { ...piece, corner, radius: piece.flat + corner };
}

/** A frustum of a holder stack: diameters at its lower and upper end, and its length, mm. */
export interface Frustum {
  bottomDiameter: number;
  topDiameter: number;
  length: number;
}

/**
 * Underside of a stack of frusta whose lower end is `bottom` mm above the tip. Parts hidden above a wider one below are
 * left out, so the pieces' radii increase upward.
 */
export function stackProfile(stack: readonly Frustum[], bottom: number): Profile {
  const pieces: ProfilePiece[] = [];
  let widest = 0;
  let z = bottom;
  for (const frustum of stack) {
    const low = frustum.bottomDiameter / 2;
    const high = frustum.topDiameter / 2;
    // a cone brings its own disc
    if (high > widest && frustum.length > 0 && high > low)
      pieces.push({ kind: 'cone', z, flat: low, radius: high, slope: frustum.length / (high - low) });
    else if (low > widest) pieces.push({ kind: 'round', z, flat: low, corner: 0, radius: low });
    widest = Math.max(widest, low);
    widest = Math.max(widest, high);
    z += frustum.length;
  }
  return pieces;
}

/** The same profile wider by `side` mm and lower by `below` mm: a body with clearance around it. */
export function withClearance(profile: Profile, side: number, below: number): Profile {
  return profile.map((p) => ({ ...p, z: p.z - below, flat: p.flat + side, radius: p.radius + side }));
}

/** A cutter smaller all round by `by` mm, or by its corner and a quarter of its radius at most; a point by its radius alone. */
export function slimmer(piece: RoundPiece, by: number): RoundPiece;
export function slimmer(piece: ProfilePiece, by: number): ProfilePiece;
export function slimmer(piece: ProfilePiece, by: number): ProfilePiece {
  const less = Math.min(by, piece.radius / 4);
  if (piece.kind === 'cone') {
    const flat = Math.max(0, piece.flat - less);
    return { ...piece, flat, radius: piece.radius - less };
  }
  const corner = Math.max(0, piece.corner - less);
  return { ...piece, corner, flat: piece.radius - less - corner, radius: piece.radius - less };
}

/**
 * The piece as far inside itself, sideways, as facets of a round wall may stand inside their circle: over each place as high as it is
 * `by` mm farther out. A level end stays where it is.
 */
export function insideFacets(piece: RoundPiece, by: number): RoundPiece;
export function insideFacets(piece: ProfilePiece, by: number): ProfilePiece;
export function insideFacets(piece: ProfilePiece, by: number): ProfilePiece {
  const radius = piece.radius - by;
  const flat = Math.max(0, piece.flat - by);
  if (piece.kind === 'cone') return { ...piece, z: piece.z + piece.slope * Math.max(0, by - piece.flat), flat, radius };
  return { ...piece, flat, radius, corner: radius - flat };
}

/**
 * Underside of a tapered ball cutter: a ball, and a cone that touches it and widens by `taperDeg` a side up to `widest`
 * (radii in mm). The two together are the body, so the higher contact of the two is the cutter's.
 */
export function taperedBallProfile(ballRadius: number, taperDeg: number, widest: number): Profile {
  const taper = (taperDeg * Math.PI) / 180;
  const touch = ballRadius * Math.cos(taper);
  if (!(taperDeg > 0 && taperDeg < 89) || !(widest > touch))
    throw new EsquisseError(
      'cutter-invalid',
      `A ball of R ${ballRadius} mm cannot widen to R ${widest} mm at ${taperDeg}° a side.`,
      'taper',
    );
  return [
    { kind: 'round', z: 0, flat: 0, corner: ballRadius, radius: ballRadius },
    {
      kind: 'cone',
      z: ballRadius * (1 - Math.sin(taper)),
      flat: touch,
      radius: widest,
      slope: 1 / Math.tan(taper),
    },
  ];
}

/** Underside of a chamfer cutter or drill: a flat of `tip` mm radius, then a point of `angleDeg` out to `radius` mm. */
export function pointedProfile(tip: number, radius: number, angleDeg: number): Profile {
  if (!(angleDeg > 0 && angleDeg < 180) || !(tip >= 0 && tip < radius))
    throw new EsquisseError(
      'cutter-invalid',
      `A point of ${angleDeg}° from R ${tip} to R ${radius} mm is no cutter.`,
      'pointAngle',
    );
  return [{ kind: 'cone', z: 0, flat: tip, radius, slope: 1 / Math.tan((angleDeg * Math.PI) / 360) }];
}

/** Radius of a round cutter at a height above its tip, mm: that of its flank above the corner. */
export function radiusAt({ flat, corner, radius }: RoundPiece, height: number): number {
  return height < corner ? flat + Math.sqrt(Math.max(0, height) * (2 * corner - height)) : radius;
}
