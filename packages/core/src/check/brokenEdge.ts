import { insideFacets, type ProfilePiece } from '../tool/profile';

/** Edges that a point breaks on purpose, mm. */
export interface BrokenEdges {
  /** How far the tip goes below the lower end of what it takes. */
  readonly below: number;
  /** Height of what it takes of an edge. */
  readonly depth: number;
}

/**
 * What of a point must stay out of the part while it breaks edges: all of it below and above the height of what it takes, so that
 * it takes no more of any edge.
 */
export function besideEdges(piece: ProfilePiece, { below, depth }: BrokenEdges): ProfilePiece[] {
  if (piece.kind !== 'cone') return [piece];
  const radiusAt = (height: number): number => Math.min(piece.radius, piece.flat + height / piece.slope);
  const low = { ...piece, radius: radiusAt(below) };
  const high = { ...piece, z: piece.z + below + depth, flat: radiusAt(below + depth) };
  return [low, high];
}

/** What of a step's cutter must stay out of the part: smaller by facets that it may stand in, and beside edges that it breaks. */
export function edgesOf(
  piece: ProfilePiece,
  { facetDepth = 0, broken }: { readonly facetDepth?: number; readonly broken?: BrokenEdges | undefined },
): ProfilePiece[] {
  if (broken) return besideEdges(piece, broken);
  return [facetDepth > 0 ? insideFacets(piece, facetDepth) : piece];
}
