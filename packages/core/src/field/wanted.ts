import { Buried } from './buried';
import { type FaceLimits, FaceTest } from './faceLimits';
import { TipSurface, type TipSurfaceSpec } from './tipSurface';
import type { HeightMap } from '../steel/heightMap';
import { ProfileDrop } from '../tool/drop';
import type { Touched } from './touched';
import type { ClosestPoint } from '../geometry/closest';
import type { ContactMesh } from '../geometry/contactMesh';
import { refusesMilling } from '../tool/library';
import type { Profile, RoundPiece } from '../tool/profile';
import { bodyWithRoom, cutterProfile, HOUSE_BODY_ROOM, type ToolShape } from '../tool/shape';

/** A slope is told no better than this: facets and rounding, rad. */
const SLOPE_RAD = 1e-6;

/** A cutter that leans against a wall is looked at this far off it: rounding would have it on top, mm. */
const OFF_MM = 2e-4;

/** What an earlier cutter left: its tip surface, that of the part itself, and what counts, mm. */
export interface Rest {
  readonly spec: TipSurfaceSpec;
  readonly thicker: number;
  /** What stood above its edges, with its room, where it was kept off the part by that: and the cutter as it is. */
  readonly body?: { readonly profile: Profile; readonly piece: RoundPiece } | undefined;
}

/** Tells whether an earlier cutter left anything. */
export class RestTest {
  private readonly surface: TipSurface;
  private readonly body: ProfileDrop | undefined;

  constructor(private readonly rest: Rest) {
    this.surface = new TipSurface(rest.spec);
    this.body = rest.body && new ProfileDrop(rest.spec.mesh, rest.body.profile);
  }

  /** At a place of the part. */
  at(touched: Touched): boolean {
    const { spec, thicker, body } = this.rest;
    if (leftBy(this.surface, spec.piece, touched) > thicker) return true;
    if (!this.body || !body) return false;
    const [x, y, tip] = touchingTip(body.piece, touched);
    return this.body.at(x, y, tip) > tip + OFF_MM;
  }
}

/** Where the tip of a cutter stands that touches a place, a hair off upright walls. */
function touchingTip(
  { flat, corner }: RoundPiece,
  { x, y, z, nx, ny, nz }: Touched,
): [x: number, y: number, z: number] {
  const level = Math.hypot(nx, ny);
  const out = level > 1e-9 ? (flat + OFF_MM) / level + corner : 0;
  return [x + out * nx, y + out * ny, z + corner * (nz - 1)];
}

/** What of the ground that it may go over a finishing step cuts. */
export interface WantedSpec {
  /** Least and greatest slope, rad. */
  readonly slopes: readonly [number, number];
  /** Nothing above this height of the tip, mm. */
  readonly top?: number;
  /** Only where an earlier cutter left more than `thicker` on the part, mm: its tip surface, that of the part itself. */
  readonly rest?: Rest;
  /** Only where the steel reaches deeper than this into the cutter, mm. */
  readonly thicker?: number;
  /** Only by these faces of the part, for a cutter whose corner touches them with this radius, mm. */
  readonly faces?: { readonly limits: FaceLimits; readonly round: number };
}

/** An earlier cutter whose rest is finished. Lengths in mm. */
export interface RestOf {
  readonly assemblyId: string;
  /** The cutter is taken to be larger by this all round, so that what it did not reach is a little more. */
  readonly overlap: number;
  /** What it left counts from here on. */
  readonly thicker: number;
  /** Also where its shank or holder would have touched, with the room that is usual. */
  readonly withBody?: boolean;
}

/** How the rest of an earlier cutter is found on a part; or why it cannot be. */
export function restSpec(
  mesh: ContactMesh,
  tool: ToolShape | undefined,
  { overlap, thicker, withBody }: RestOf,
): Rest | { readonly problem: string } {
  if (!tool) return { problem: 'The earlier cutter is not in the crib any more.' };
  const refused = refusesMilling(tool);
  if (refused) return { problem: `The earlier cutter cannot be one that finished: ${refused}` };
  const piece = cutterProfile(tool);
  const larger = { ...piece, corner: piece.corner + overlap, radius: piece.radius + overlap };
  const { shank, holder } = HOUSE_BODY_ROOM;
  return {
    spec: { mesh, piece: larger, side: 0, floor: 0 },
    thicker,
    ...(withBody && {
      body: { profile: bodyWithRoom(tool, { shank: shank + overlap, holder: holder + overlap }), piece },
    }),
  };
}

/** The place of the part that is nearest to (x, y, z), and the unit normal from it to there. */
export function touchedFrom(nearest: ClosestPoint, x: number, y: number, z: number): Touched & { distance: number } {
  const distance = nearest.distance(x, y, z);
  const d = Math.max(distance, 1e-12);
  const { x: px, y: py, z: pz } = nearest;
  return { distance, x: px, y: py, z: pz, nx: (x - px) / d, ny: (y - py) / d, nz: (z - pz) / d };
}

/** Tells which contacts of a cutter are wanted. */
export class Wanted {
  readonly everywhere: boolean;
  private readonly rest: RestTest | undefined;
  private readonly steel: Buried | undefined;
  private readonly faces: FaceTest | undefined;

  /** @param piece the cutter that is led */
  constructor(
    private readonly spec: WantedSpec,
    piece: RoundPiece,
    steel: HeightMap,
  ) {
    const { rest, thicker, slopes, faces } = spec;
    this.rest = rest && new RestTest(rest);
    this.steel = thicker === undefined ? undefined : new Buried(steel, piece, thicker);
    this.faces = faces && new FaceTest(faces.limits, faces.round);
    this.everywhere =
      this.isAll && slopes[0] <= 0 && slopes[1] >= Math.PI / 2 && (spec.top === undefined || spec.top === Infinity);
  }

  /** With the tip at (x, y, z), touching the part there. */
  at(touched: Touched, x: number, y: number, z: number): boolean {
    if (this.everywhere) return true;
    const slope = Math.acos(Math.min(1, Math.max(0, touched.nz)));
    const { slopes, top } = this.spec;
    const [from, to] = slopes;
    if (top !== undefined && z > top) return false;
    return slope >= from - SLOPE_RAD && slope <= to + SLOPE_RAD && this.isLeft(touched, x, y, z);
  }

  /** Whether enough is left there on the faces that are wanted, on any slope. */
  isLeft(touched: Touched, x: number, y: number, z: number): boolean {
    if (this.steel && !this.steel.at(x, y, z)) return false;
    if (this.faces && !this.faces.at(touched)) return false;
    return this.rest === undefined || this.rest.at(touched);
  }

  /** Whether all of a slope is wanted, whatever is left on it. */
  get isAll(): boolean {
    return this.steel === undefined && this.rest === undefined && this.faces === undefined;
  }
}

/**
 * How far a cutter stays away from a place of the part along its normal, mm: it is set to touch there, and lifted until it
 * clears the part. Its corner's centre then stands `lift` above the place from which it would touch, so the distance is
 * √(r² + 2 r lift nz + lift²) - r by the law of cosines, with r the radius of its corner.
 */
export function leftBy(surface: TipSurface, piece: RoundPiece, { x, y, z, nx, ny, nz }: Touched): number {
  const level = Math.hypot(nx, ny);
  const out = level > 1e-9 ? (piece.flat + OFF_MM) / level + piece.corner : 0;
  const lift = surface.at(x + out * nx, y + out * ny) - (z + piece.corner * nz - piece.corner);
  if (lift <= 0) return 0;
  return Math.sqrt(piece.corner ** 2 + 2 * piece.corner * lift * nz + lift ** 2) - piece.corner;
}
