import { areaOf, covered, offsetPolygons, type Polygon, reversed, subtract, united } from '../geometry/polygon';
import type { Cancel } from '../base/cancel';
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
}

/** A hair by which a line on a closed area's border still counts as outside it, mm. */
const ON_BORDER_MM = 0.02;
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
    const around = offsetPolygons([plan], FAR_MM);
    rings.push(...subtract(around, united(within)).flatMap((r) => [r.outer, ...r.holes]));
  }
  return united(rings);
}

const ccw = (ring: Polygon): Polygon => (areaOf(ring) > 0 ? ring : reversed(ring));

/** Answers where bounds keep the axis away. */
export class BoundsTest {
  private readonly surfaces: TipSurface[];
  private readonly curves: LevelCurves[];
  private readonly tight: readonly Polygon[];

  constructor(
    private readonly bounds: Bounds,
    cancel?: Cancel,
  ) {
    this.surfaces = bounds.obstacles.map((o) => new TipSurface(o.spec));
    this.curves = bounds.obstacles.map((o, k) => new LevelCurves(o.grid, this.surfaces[k]!, cancel));
    this.tight = offsetPolygons(bounds.closed, -ON_BORDER_MM);
  }

  get none(): boolean {
    return this.bounds.closed.length === 0 && this.surfaces.length === 0;
  }

  /** Borders of what is closed to the axis with the tip at height z: outer ones counter-clockwise. */
  closedAt(z: number): Polygon[] {
    const rings = [...this.bounds.closed];
    this.curves.forEach((curves, k) => {
      const { mesh } = this.bounds.obstacles[k]!.spec;
      if (mesh.box.maxZ + this.surfaces[k]!.lift > z) rings.push(...curves.at(z));
    });
    return rings;
  }

  forbids(x: number, y: number, z: number): boolean {
    return covered(this.tight, x, y) || this.surfaces.some((s) => s.forbids(x, y, z));
  }

  /** Whether the plan is closed there at any height. */
  closes(x: number, y: number): boolean {
    return covered(this.tight, x, y);
  }

  /** Lowest tip height that keeps clear of all obstacles there, mm; -Infinity where none is near. */
  lowest(x: number, y: number): number {
    let low = -Infinity;
    for (const surface of this.surfaces) low = Math.max(low, surface.at(x, y));
    return low;
  }
}
