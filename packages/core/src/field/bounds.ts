import {
  areaOf,
  boundsOf,
  covered,
  offsetPolygons,
  type Polygon,
  reversed,
  subtract,
  united,
} from '../geometry/polygon';
import type { Cancel } from '../base/cancel';
import type { ContactMesh } from '../geometry/contactMesh';
import { ProfileDrop } from '../tool/drop';
import type { Profile, RoundPiece } from '../tool/profile';
import { NearestToCutter } from './nearestToCutter';
import { LevelCurves } from './levelCurves';
import { type TipGrid, TipSurface, type TipSurfaceSpec } from './tipSurface';

/** Where a limit keeps the cutter: all of it inside the outline, its axis on it at most, or just past it. */
export const LIMIT_SIDES = ['inside', 'on', 'outside'] as const;
export type LimitSide = (typeof LIMIT_SIDES)[number];

/** A limit in plan, in the frame of the work zero, mm. */
export type Limit =
  /** The cutter stays within the outline; a positive offset moves the border outward. */
  | { kind: 'within'; ring: Polygon; side: LimitSide; offset: number }
  /** All of the cutter stays this far away from what lies under the outline. */
  | { kind: 'clear'; ring: Polygon; distance: number };

/** Nothing of cutter, shank or holder may come nearer to a fixture than this, mm. */
export const FIXTURE_CLEARANCE_MM = 0.5;

/** What a piece of the tool must not touch, as a surface of heights that its tip may not go below. */
export interface Obstacle {
  grid: TipGrid;
  spec: TipSurfaceSpec;
}

/** Where the axis may go, beside what the part itself allows. Plain data on shared memory. */
export interface Bounds {
  /** Plan areas that the axis never enters: outer borders counter-clockwise, holes clockwise. */
  closed: readonly Polygon[];
  obstacles: readonly Obstacle[];
  /** What stands above the edges, with its room, and what of the part it may not come into; it is let come where it will when left out. */
  body?: { readonly mesh: ContactMesh; readonly profile: Profile } | undefined;
  /** Faces of the part that the cutter may touch, and those that it may not, where a step is held to some. */
  only?: { readonly own: ContactMesh; readonly others: ContactMesh; readonly piece: RoundPiece } | undefined;
}

/**
 * Lines are planned this far outside closed areas, and count as outside them as far as the areas' own borders: so limits are
 * held whatever a line's own tolerance, mm.
 */
const ON_BORDER_MM = 0.02;
/** What stands above the edges touches from this depth on, mm. */
const TOUCH_MM = 1e-4;
/** A face is farther away than another when it is by more than this, mm: what passes may be off their surface. */
const OFF_FACES_MM = 0.02;
/** What `closed` covers around a step that is held within outlines, beyond the plan, mm. */
const FAR_MM = 1000;

/**
 * Closed areas of limits for a cutter's axis. Several outlines to stay within are taken together: each is a place to work in.
 *
 * @param plan where the axis may go without limits
 */
export function closedAreas(limits: readonly Limit[], radius: number, plan: Polygon): Polygon[] {
  const rings: Polygon[] = [];
  for (const limit of limits)
    if (limit.kind === 'clear') rings.push(...offsetPolygons([ccw(limit.ring)], radius + limit.distance));
  const within = limits.flatMap((limit) => {
    if (limit.kind !== 'within') return [];
    const side = { inside: -radius, on: 0, outside: radius }[limit.side];
    return offsetPolygons([ccw(limit.ring)], side + limit.offset);
  });
  if (limits.some((limit) => limit.kind === 'within')) {
    const [minX, minY, maxX, maxY] = boundsOf(plan);
    const around = rectangle(minX - FAR_MM, minY - FAR_MM, maxX + FAR_MM, maxY + FAR_MM);
    rings.push(...subtract([around], united(within)).flatMap((r) => [r.outer, ...r.holes]));
  }
  return united(rings);
}

const rectangle = (x0: number, y0: number, x1: number, y1: number): Polygon =>
  Float64Array.of(x0, y0, x1, y0, x1, y1, x0, y1);

const ccw = (ring: Polygon): Polygon => (areaOf(ring) > 0 ? ring : reversed(ring));

/** Answers where bounds keep the axis away. */
export class BoundsTest {
  private readonly surfaces: TipSurface[];
  private readonly curves: LevelCurves[];
  private readonly grown: readonly Polygon[];
  private readonly body: ProfileDrop | undefined;
  private readonly only: { readonly own: NearestToCutter; readonly others: NearestToCutter } | undefined;

  constructor(
    private readonly bounds: Bounds,
    cancel?: Cancel,
  ) {
    this.surfaces = bounds.obstacles.map((o) => new TipSurface(o.spec));
    this.curves = bounds.obstacles.map((o, k) => new LevelCurves(o.grid, this.surfaces[k]!, cancel));
    this.body = bounds.body && new ProfileDrop(bounds.body.mesh, bounds.body.profile);
    const { only } = bounds;
    this.only = only && {
      own: new NearestToCutter(only.own, only.piece),
      others: new NearestToCutter(only.others, only.piece),
    };
    this.grown = offsetPolygons(bounds.closed, ON_BORDER_MM);
  }

  get none(): boolean {
    return this.bounds.closed.length === 0 && this.surfaces.length === 0 && !this.body && !this.only;
  }

  /** Borders along which the axis may run beside what is closed to it with the tip at height z: outer ones counter-clockwise. */
  closedAt(z: number): Polygon[] {
    const rings = [...this.grown];
    this.curves.forEach((curves, k) => {
      const { mesh } = this.bounds.obstacles[k]!.spec;
      if (mesh.box.maxZ + this.surfaces[k]!.lift > z) rings.push(...curves.at(z));
    });
    return rings;
  }

  forbids(x: number, y: number, z: number): boolean {
    return (
      covered(this.bounds.closed, x, y) ||
      this.surfaces.some((s) => s.forbids(x, y, z)) ||
      this.touches(x, y, z) ||
      this.isOffFaces(x, y, z)
    );
  }

  /** Whether the cutter leans on a face that it may not touch: those that it may are farther away. */
  private isOffFaces(x: number, y: number, z: number): boolean {
    if (!this.only) return false;
    const others = this.only.others.distance(x, y, z);
    return this.only.own.distance(x, y, z) > others + OFF_FACES_MM;
  }

  /** Whether what stands above the edges would come into the part. */
  touches(x: number, y: number, z: number): boolean {
    return this.body !== undefined && this.body.at(x, y, z) > z + TOUCH_MM;
  }

  /** Whether the plan is closed there at any height. */
  closes(x: number, y: number): boolean {
    return covered(this.bounds.closed, x, y);
  }

  /** Lowest tip height that keeps clear of all obstacles there, mm; -Infinity where none is near. */
  lowest(x: number, y: number): number {
    let low = -Infinity;
    for (const surface of this.surfaces) low = Math.max(low, surface.at(x, y));
    return this.body ? this.body.at(x, y, low) : low;
  }
}
