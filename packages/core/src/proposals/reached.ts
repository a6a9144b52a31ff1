import { offsetPolygons, type Polygon, type Region, regionsOf, simplifyRing, subtract } from '../geometry/polygon';

/** A cutter gets into closed areas that are so many times as wide as it is (common practice: a helix still leaves chips a way out). */
const OPENING = 1.4;
/** What is left is thicker than so much, mm, or it is none. */
const THICK_MM = 1;
/** Lines may be off by this, mm: small against that. */
const ROUGH_MM = 0.05;
/** The plan reaches so many diameters beyond the walls. */
const BEYOND = 2;

/**
 * Whether a cutter leaves much beside walls: corners, narrow places, and closed areas that it does not get into. By the opening of
 * the free area with the cutter's disc (erosion, then dilation).
 *
 * @param exact rings with the solid on their left
 */
export function leavesMuch(exact: readonly Polygon[], DC: number): boolean {
  const walls = exact.map((ring) => simplifyRing(ring, ROUGH_MM));
  const around = boxAround(walls, BEYOND * DC);
  return subtract([around], walls).some((region) => {
    const rings = ringsOf(region);
    const isOpen = reachesTo(region, around);
    const reached = regionsOf(grown(rings, -DC / 2)).filter(
      (part) => isOpen || grown(ringsOf(part), ((1 - OPENING) * DC) / 2).length > 0,
    );
    const opened = reached.flatMap((part) => grown(ringsOf(part), DC / 2));
    // in the corners of the plan itself there is nothing
    return subtract(rings, opened).some(
      (left) => !reachesTo(left, around) && grown(ringsOf(left), -THICK_MM / 2).length > 0,
    );
  });
}

const grown = (rings: readonly Polygon[], by: number): Polygon[] => offsetPolygons(rings, by, ROUGH_MM);

/** Whether a region comes to the border of the plan. */
function reachesTo({ outer }: Region, around: Polygon): boolean {
  const [x0, y0, x1, y1] = [around[0]!, around[1]!, around[2]!, around[5]!];
  for (let k = 0; k < outer.length; k += 2) {
    const [x, y] = [outer[k]!, outer[k + 1]!];
    if (Math.min(x - x0, x1 - x, y - y0, y1 - y) < ROUGH_MM) return true;
  }
  return false;
}

const ringsOf = ({ outer, holes }: Region): Polygon[] => [outer, ...holes];

function boxAround(rings: readonly Polygon[], by: number): Polygon {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings)
    for (let k = 0; k < ring.length; k += 2) {
      x0 = Math.min(x0, ring[k]!);
      x1 = Math.max(x1, ring[k]!);
      y0 = Math.min(y0, ring[k + 1]!);
      y1 = Math.max(y1, ring[k + 1]!);
    }
  return Float64Array.of(x0 - by, y0 - by, x1 + by, y0 - by, x1 + by, y1 + by, x0 - by, y1 + by);
}
