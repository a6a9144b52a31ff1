import type { ContactMesh } from '../geometry/contactMesh';
import type { Polygon } from '../geometry/polygon';
import { sectionAt } from '../geometry/section';
import type { Vec3 } from '../geometry/vector';
import type { Flat, Hole } from './features';

/** Inside corners of upright walls, as they are seen from above. */
export interface PlanCorners {
  /** Where walls over floors are cut, for each height of a floor: with the solid on their left. */
  readonly sections: readonly (readonly Polygon[])[];
  /** The tightest round one, mm. */
  readonly round?: { readonly radius: number; readonly at: Vec3 };
  /** How many turn at once: no cutter gets into them wholly. */
  readonly sharp: number;
  readonly sharpAt?: Vec3;
}

/** Walls are cut this far over the floor at their foot, mm. */
const OVER_MM = 0.05;
/** Floors smaller than this are passed over, and of more than so many the largest are looked at. */
const SMALLEST_MM2 = 1;
const MOST_FLOORS = 30;
/** A corner that turns by more at one place is sharp, by less than the second it is none, rad. */
const SHARP_RAD = (25 * Math.PI) / 180;
const NONE_RAD = (0.2 * Math.PI) / 180;
/** A wall that bends by less altogether has no corner there: hardly anything stays in it. */
const LEAST_CORNER_RAD = (30 * Math.PI) / 180;
/** A sharp corner between shorter sides is a fault of the mesh, and a round one that is smaller is sharp, mm. */
const SHORT_MM = 0.05;

/** Looks at the walls over all floors; those of holes are left out. */
export function planCornersOf(contact: ContactMesh, flats: readonly Flat[], holes: readonly Hole[]): PlanCorners {
  const floors = flats
    .filter((flat) => flat.area >= SMALLEST_MM2 && flat.depth > OVER_MM)
    .sort((a, b) => b.area - a.area)
    .slice(0, MOST_FLOORS);
  const heights = [...new Set(floors.map(({ z }) => Math.round(z * 1000) / 1000))];
  let round: { radius: number; at: Vec3 } | undefined;
  let sharp = 0;
  let sharpAt: Vec3 | undefined;
  const sections: Polygon[][] = [];
  for (const height of heights) {
    const z = height + OVER_MM;
    const rings = sectionAt(contact, z);
    sections.push(rings);
    for (const ring of rings) {
      if (holes.some((hole) => isWallOf(hole, ring))) continue;
      const found = insideCorners(ring);
      for (const { radius, x, y } of found.round)
        if (!round || radius < round.radius) round = { radius, at: [x, y, z] };
      sharp += found.sharp.length;
      const [first] = found.sharp;
      if (first && !sharpAt) sharpAt = [first[0], first[1], z];
    }
  }
  return { sections, ...(round && { round }), sharp, ...(sharpAt && { sharpAt }) };
}

/** Whether a ring runs along the wall of a hole or of the bore over it. */
function isWallOf({ x, y, diameter, counterbore }: Hole, ring: Polygon): boolean {
  const widest = Math.max(diameter, counterbore?.diameter ?? 0) / 2;
  for (let k = 0; k < ring.length; k += 2) if (Math.hypot(ring[k]! - x, ring[k + 1]! - y) > widest * 1.01) return false;
  return true;
}

/**
 * Inside corners of a ring with the solid on its left: where it turns to the right. A round one is a row of turns, and its radius
 * that of the circle through their corners: chord / (2 sin(turn / 2)).
 */
export function insideCorners(ring: Polygon): {
  round: { radius: number; x: number; y: number }[];
  sharp: [number, number][];
} {
  const points = withoutDoubles(ring);
  const n = points.length / 2;
  const at = (k: number): [number, number] => [points[2 * (k % n)]!, points[2 * (k % n) + 1]!];
  const length = (k: number): number => {
    const [[ax, ay], [bx, by]] = [at(k), at(k + 1)];
    return Math.hypot(bx - ax, by - ay);
  };
  /** Turn to the right at each point. */
  const turns = Array.from({ length: n }, (_, k) => {
    const [[ax, ay], [bx, by], [cx, cy]] = [at(k + n - 1), at(k), at(k + 1)];
    return -Math.atan2((bx - ax) * (cy - by) - (by - ay) * (cx - bx), (bx - ax) * (cx - bx) + (by - ay) * (cy - by));
  });
  const round: { radius: number; x: number; y: number }[] = [];
  const sharp: [number, number][] = [];
  const isRound = (k: number): boolean => turns[k % n]! > NONE_RAD && turns[k % n]! <= SHARP_RAD;
  const start = turns.findIndex((_, k) => !isRound(k));
  for (let s = 0; s < n; s++) {
    const k = (start + s + n) % n;
    if (turns[k]! > SHARP_RAD && length(k) > SHORT_MM && length(k + n - 1) > SHORT_MM) sharp.push(at(k));
    if (!isRound(k) || (start >= 0 && isRound(k + n - 1))) continue;
    const radii: number[] = [];
    let whole = turns[k]!;
    let last = k;
    for (; isRound(last + 1) && last + 1 - k < n; last++) {
      // where a side goes over into it the ring turns by half of a chord's turn
      const turn = Math.max(turns[last % n]!, turns[(last + 1) % n]!);
      radii.push(length(last) / (2 * Math.sin(turn / 2)));
      whole += turns[(last + 1) % n]!;
    }
    const radius = radii.sort((a, b) => a - b)[radii.length >> 1];
    if (radius === undefined || whole < LEAST_CORNER_RAD) continue;
    const [x, y] = at(Math.floor((k + last) / 2));
    if (radius < SHORT_MM) sharp.push([x, y]);
    else round.push({ radius, x, y });
    if (start < 0) break;
  }
  return { round, sharp };
}

/** Sections pass from triangle to triangle: points on straight sides between them are left out. */
function withoutDoubles(ring: Polygon): number[] {
  const out: number[] = [];
  const n = ring.length / 2;
  for (let k = 0; k < n; k++) {
    const a = out.length > 0 ? out.length - 2 : -1;
    const [px, py] = a >= 0 ? [out[a]!, out[a + 1]!] : [ring[ring.length - 2]!, ring[ring.length - 1]!];
    const [x, y] = [ring[2 * k]!, ring[2 * k + 1]!];
    const m = 2 * ((k + 1) % n);
    const [nx, ny] = [ring[m]!, ring[m + 1]!];
    const [ux, uy, vx, vy] = [x - px, y - py, nx - x, ny - y];
    if (Math.hypot(ux, uy) < 1e-4) continue;
    const turn = Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy);
    if (Math.abs(turn) > NONE_RAD) out.push(x, y);
  }
  return out;
}
