import {
  areaOf,
  nearestOn,
  type Polygon,
  type Region,
  regionsOf,
  reversed,
  simplifyRing,
  subtract,
} from '../geometry/polygon';
import { offsetRings } from '../geometry/offset';
import { holds, ON_BORDER_MM } from './regions';

/** Borders are simplified by this before they are offset into inner loops, mm; small against any side step. */
export const INNER_SIMPLIFY_MM = 0.05;
/** Areas smaller than this are noise of the polygon library, mm². */
const SPECK_MM2 = 1e-4;

/**
 * Where the axis may be at a height: what of the plan lies outside the walls. An area that does not come to the border of the
 * plan stands for itself, so that walls elsewhere cost nothing; the border itself is no wall, and is never moved.
 */
export class FreeArea {
  private constructor(
    private readonly within: Polygon,
    readonly regions: readonly Region[],
    /** What is closed to the axis beside the regions that come to the border; others may be among them. */
    private readonly walls: readonly Polygon[],
  ) {}

  static outside(walls: readonly Polygon[], within: Polygon): FreeArea {
    return new FreeArea(within, outside(walls, within), walls);
  }

  /** Some of the regions alone. */
  limitedTo(regions: readonly Region[]): FreeArea {
    const open = regions.filter((region) => touchesBorder(region.outer, this.within));
    const isWhole = open.every(({ outer }) => liesOnBorder(outer, this.within));
    return new FreeArea(this.within, regions, isWhole ? open.flatMap((r) => r.holes.map(reversed)) : this.walls);
  }

  /**
   * What lies farther than `by` mm from the walls.
   *
   * @param radius with which inward corners of the walls' lines, where a line would turn sharply, are filled, mm
   */
  smaller(by: number, radius = 0): FreeArea {
    const open = this.regions.filter((region) => touchesBorder(region.outer, this.within));
    const walls = open.length > 0 ? moved(this.walls, by, radius) : [];
    const left = open.length > 0 ? outside(walls, this.within).filter((r) => open.some((o) => holds(o, r))) : [];
    const shrunk = this.regions
      .filter((region) => !open.includes(region))
      .flatMap((region) => regionsOf(moved([region.outer, ...region.holes], -by, -radius)));
    return new FreeArea(this.within, [...left, ...shrunk.filter(isArea)], walls);
  }
}

/** What of a plan lies outside closed areas. */
function outside(closed: readonly Polygon[], within: Polygon): Region[] {
  return subtract([within], closed).filter(isArea);
}

export function isArea(region: Region): boolean {
  return Math.abs(areaOf(region.outer)) > SPECK_MM2;
}

/** Whether a border of an area comes to the border of the plan: then it is come to from outside. */
export function touchesBorder(outer: Polygon, within: Polygon): boolean {
  for (let k = 0; k < outer.length; k += 2)
    if (nearestOn(within, outer[k]!, outer[k + 1]!, true).distance < ON_BORDER_MM) return true;
  return false;
}

/** Whether a border of an area is that of the plan all round. An edge may lead from side to side, so its middle counts. */
function liesOnBorder(outer: Polygon, within: Polygon): boolean {
  for (let b = outer.length - 2, k = 0; k < outer.length; b = k, k += 2)
    for (const share of [0.5, 1]) {
      const x = outer[b]! + share * (outer[k]! - outer[b]!);
      const y = outer[b + 1]! + share * (outer[k + 1]! - outer[b + 1]!);
      if (nearestOn(within, x, y, true).distance >= ON_BORDER_MM) return false;
    }
  return true;
}

/** Polygons grown by `by` mm and by a radius more, which is taken back: corners get that radius. Both negative: shrunk. */
function moved(rings: readonly Polygon[], by: number, radius: number): Polygon[] {
  const first = offsetRings(simplified(rings), by + radius, INNER_SIMPLIFY_MM);
  return simplified(radius === 0 ? first : offsetRings(first, -radius, INNER_SIMPLIFY_MM));
}

function simplified(rings: readonly Polygon[]): Polygon[] {
  return rings.map((ring) => simplifyRing(ring, INNER_SIMPLIFY_MM)).filter((ring) => ring.length >= 6);
}
