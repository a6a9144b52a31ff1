import {
  areaOf,
  nearestOn,
  offsetPolygons,
  type Polygon,
  type Region,
  regionsOf,
  simplifyRing,
  subtract,
} from '../../geometry/polygon';
import { ON_BORDER_MM } from './regions';

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
    private readonly walls?: readonly Polygon[],
  ) {}

  static outside(walls: readonly Polygon[], within: Polygon): FreeArea {
    return new FreeArea(within, outside(walls, within), walls);
  }

  /** Some of the regions alone. */
  limitedTo(regions: readonly Region[]): FreeArea {
    const isOpen = regions.some((region) => touchesBorder(region.outer, this.within));
    return new FreeArea(this.within, regions, isOpen ? this.walls : undefined);
  }

  /**
   * What lies farther than `by` mm from the walls.
   *
   * @param radius with which inward corners of the walls' lines, where a line would turn sharply, are filled, mm
   */
  smaller(by: number, radius = 0): FreeArea {
    if (this.walls) {
      const walls = moved(this.walls, by, radius);
      return new FreeArea(this.within, outside(walls, this.within), walls);
    }
    const within = (region: Region): Region[] => regionsOf(moved([region.outer, ...region.holes], -by, -radius));
    return new FreeArea(this.within, this.regions.flatMap(within).filter(isArea));
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

/** Polygons grown by `by` mm and by a radius more, which is taken back: corners get that radius. Both negative: shrunk. */
function moved(rings: readonly Polygon[], by: number, radius: number): Polygon[] {
  const first = offsetPolygons(simplified(rings), by + radius, INNER_SIMPLIFY_MM);
  return simplified(radius === 0 ? first : offsetPolygons(first, -radius, INNER_SIMPLIFY_MM));
}

function simplified(rings: readonly Polygon[]): Polygon[] {
  return rings.map((ring) => simplifyRing(ring, INNER_SIMPLIFY_MM)).filter((ring) => ring.length >= 6);
}
