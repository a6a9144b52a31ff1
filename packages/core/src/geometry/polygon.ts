import {
  ClipType,
  ClipperOffset,
  EndType,
  FillRule,
  JoinType,
  type Path64,
  type Paths64,
  type PolyPath64,
  PolyTree64,
  booleanOpWithPolyTree,
} from 'clipper2-ts';

/** A closed polygon as x, y pairs, mm; the last point is joined to the first. */
export type Polygon = Float64Array;
/** An open line as x, y pairs, mm. */
export type Polyline = Float64Array;

/** Units of the polygon library's whole numbers in a millimetre: 0.01 µm, far below any tolerance. */
export const SCALE = 1e5;
/** Rounded joins of an offset leave the true arc by at most this, mm. */
const ARC_MM = 0.01;

/** A connected piece of the plane: its outer border counter-clockwise, its holes clockwise. */
export interface Region {
  outer: Polygon;
  holes: Polygon[];
}

function toInteger(polygon: Polygon): Path64 {
  const path: Path64 = [];
  for (let i = 0; i < polygon.length; i += 2)
    path.push({ x: Math.round(polygon[i]! * SCALE), y: Math.round(polygon[i + 1]! * SCALE) });
  return path;
}

export function fromInteger(path: Path64): Polygon {
  const polygon = new Float64Array(path.length * 2);
  path.forEach((p, i) => {
    polygon[2 * i] = p.x / SCALE;
    polygon[2 * i + 1] = p.y / SCALE;
  });
  return polygon;
}

/** Polygons (outer borders counter-clockwise, holes clockwise) grown by `by` mm with round joins; shrunk when negative. */
export function offsetPolygons(polygons: readonly Polygon[], by: number, arc = ARC_MM): Polygon[] {
  if (by === 0 || polygons.length === 0) return [...polygons];
  const offset = new ClipperOffset(2, arc * SCALE);
  offset.addPaths(polygons.map(toInteger), JoinType.Round, EndType.Polygon);
  const solution: Paths64 = [];
  offset.execute(by * SCALE, solution);
  return solution.map(fromInteger);
}

/** What of `subject` lies outside `clip`, as connected regions. */
export function subtract(subject: readonly Polygon[], clip: readonly Polygon[]): Region[] {
  const tree = new PolyTree64();
  booleanOpWithPolyTree(ClipType.Difference, subject.map(toInteger), clip.map(toInteger), tree, FillRule.NonZero);
  const regions: Region[] = [];
  collect(tree, regions);
  return regions;
}

/** One or more polygons (outer borders counter-clockwise, holes clockwise) as borders that do not overlap. */
export function united(polygons: readonly Polygon[]): Polygon[] {
  return regionsOf(polygons).flatMap((region) => [region.outer, ...region.holes]);
}

/** Polygons (outer borders counter-clockwise, holes clockwise) as connected regions. */
export function regionsOf(polygons: readonly Polygon[]): Region[] {
  const tree = new PolyTree64();
  booleanOpWithPolyTree(ClipType.Union, polygons.map(toInteger), [], tree, FillRule.Positive);
  const regions: Region[] = [];
  collect(tree, regions);
  return regions;
}

/** Whether (x, y) lies in the area that polygons (outer borders counter-clockwise, holes clockwise) cover. */
export function covered(polygons: readonly Polygon[], x: number, y: number): boolean {
  let depth = 0;
  for (const ring of polygons) if (contains(ring, x, y)) depth += areaOf(ring) > 0 ? 1 : -1;
  return depth > 0;
}

function collect(node: PolyPath64, regions: Region[]): void {
  for (let k = 0; k < node.count; k++) {
    const outer = node.child(k);
    const region: Region = { outer: oriented(fromInteger(outer.poly ?? []), true), holes: [] };
    for (let h = 0; h < outer.count; h++) {
      const hole = outer.child(h);
      region.holes.push(oriented(fromInteger(hole.poly ?? []), false));
      collect(hole, regions);
    }
    regions.push(region);
  }
}

function oriented(polygon: Polygon, counterClockwise: boolean): Polygon {
  return areaOf(polygon) > 0 === counterClockwise ? polygon : reversed(polygon);
}

export function reversed(line: Polyline): Polyline {
  const out = new Float64Array(line.length);
  for (let i = 0; i < line.length; i += 2) {
    out[i] = line[line.length - 2 - i]!;
    out[i + 1] = line[line.length - 1 - i]!;
  }
  return out;
}

/** Signed area, mm²: positive when counter-clockwise. */
export function areaOf(polygon: Polygon): number {
  let twice = 0;
  for (let i = 0, j = polygon.length - 2; i < polygon.length; j = i, i += 2)
    twice += polygon[j]! * polygon[i + 1]! - polygon[i]! * polygon[j + 1]!;
  return twice / 2;
}

/** Box around a line: least x, least y, largest x, largest y, mm. */
export function boundsOf(line: Polyline): [number, number, number, number] {
  let minX = Infinity;
  let minY = Infinity;
  let maxX = -Infinity;
  let maxY = -Infinity;
  for (let k = 0; k < line.length; k += 2) {
    if (line[k]! < minX) minX = line[k]!;
    if (line[k]! > maxX) maxX = line[k]!;
    if (line[k + 1]! < minY) minY = line[k + 1]!;
    if (line[k + 1]! > maxY) maxY = line[k + 1]!;
  }
  return [minX, minY, maxX, maxY];
}

/** Whether (x, y) lies inside a polygon (crossing count). */
export function contains(polygon: Polygon, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = polygon.length - 2; i < polygon.length; j = i, i += 2) {
    const yi = polygon[i + 1]!;
    const yj = polygon[j + 1]!;
    if (yi > y !== yj > y && x < ((polygon[j]! - polygon[i]!) * (y - yi)) / (yj - yi) + polygon[i]!) inside = !inside;
  }
  return inside;
}

/** Where rings cross the line of constant y: x in ascending order, mm. */
export function crossingsAt(rings: readonly Polyline[], y: number): number[] {
  const xs: number[] = [];
  for (const ring of rings) crossRing(ring, y, xs);
  return xs.sort((a, b) => a - b);
}

function crossRing(ring: Polyline, y: number, xs: number[]): void {
  for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
    const yi = ring[i + 1]!;
    const yj = ring[j + 1]!;
    if (yi > y !== yj > y) xs.push(ring[i]! + ((ring[j]! - ring[i]!) * (y - yi)) / (yj - yi));
  }
}

export function regionContains(region: Region, x: number, y: number): boolean {
  return contains(region.outer, x, y) && !region.holes.some((hole) => contains(hole, x, y));
}

/** Length of an open line in plan, mm. */
export function lengthOf(line: ArrayLike<number>): number {
  let sum = 0;
  for (let k = 2; k < line.length; k += 2) sum += Math.hypot(line[k]! - line[k - 2]!, line[k + 1]! - line[k - 1]!);
  return sum;
}

/** Nearest point of a line or ring to (x, y): its distance, the piece it lies on and the point. */
export function nearestOn(
  line: Polyline,
  x: number,
  y: number,
  closed: boolean,
): { distance: number; piece: number; x: number; y: number } {
  let least2 = Infinity;
  let piece = 0;
  let atX = 0;
  let atY = 0;
  const n = line.length / 2;
  for (let k = 0; k < (closed ? n : n - 1); k++) {
    const m = k + 1 < n ? k + 1 : 0;
    const ax = line[2 * k]!;
    const ay = line[2 * k + 1]!;
    const dx = line[2 * m]! - ax;
    const dy = line[2 * m + 1]! - ay;
    const length2 = dx * dx + dy * dy;
    const t = length2 > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / length2)) : 0;
    const px = ax + t * dx;
    const py = ay + t * dy;
    const d2 = (px - x) * (px - x) + (py - y) * (py - y);
    if (d2 >= least2) continue;
    least2 = d2;
    piece = k;
    atX = px;
    atY = py;
  }
  return { distance: Math.sqrt(least2), piece, x: atX, y: atY };
}

/** A ring with fewer points, none of the left-out ones farther than `tolerance` mm from it (Ramer, Douglas, Peucker). */
export function simplifyRing(ring: Polygon, tolerance: number): Polygon {
  const n = ring.length / 2;
  if (n < 4) return ring;
  let far = 0;
  let best = -1;
  for (let k = 1; k < n; k++) {
    const d2 = (ring[2 * k]! - ring[0]!) ** 2 + (ring[2 * k + 1]! - ring[1]!) ** 2;
    if (d2 > best) {
      best = d2;
      far = k;
    }
  }
  const keep = new Uint8Array(n + 1);
  keep[0] = keep[far] = keep[n] = 1;
  const open = new Float64Array(ring.length + 2);
  open.set(ring);
  open[2 * n] = ring[0]!;
  open[2 * n + 1] = ring[1]!;
  markKept(open, 2, 0, far, tolerance, keep);
  markKept(open, 2, far, n, tolerance, keep);
  const out: number[] = [];
  for (let k = 0; k < n; k++) if (keep[k]) out.push(ring[2 * k]!, ring[2 * k + 1]!);
  return Float64Array.from(out);
}

/** The same for an open line: its ends stay. */
export function simplifyLine(line: Polyline, tolerance: number): Polyline {
  const n = line.length / 2;
  if (n < 3) return line;
  const keep = new Uint8Array(n);
  keep[0] = keep[n - 1] = 1;
  markKept(line, 2, 0, n - 1, tolerance, keep);
  const out: number[] = [];
  for (let k = 0; k < n; k++) if (keep[k]) out.push(line[2 * k]!, line[2 * k + 1]!);
  return Float64Array.from(out);
}

/** A ring with fewer points where they need not be kept: there none of those left out is farther than `tolerance` mm from it. */
export function thinnedRing(ring: Polygon, tolerance: number, isKept: (x: number, y: number) => boolean): Polygon {
  const n = ring.length / 2;
  const keep = new Uint8Array(n);
  let first = -1;
  for (let k = 0; k < n; k++) {
    if (!isKept(ring[2 * k]!, ring[2 * k + 1]!)) continue;
    keep[k] = 1;
    if (first < 0) first = k;
  }
  if (first < 0) return simplifyRing(ring, tolerance);
  // once round from a point that is kept, each stretch between two of them by itself
  const open = new Float64Array(ring.length + 2);
  open.set(ring.subarray(2 * first));
  open.set(ring.subarray(0, 2 * first + 2), ring.length - 2 * first);
  const kept = new Uint8Array(n + 1);
  for (let k = 0; k <= n; k++) kept[k] = keep[(first + k) % n]!;
  for (let k = 0, last = 0; k <= n; k++) {
    if (!kept[k]) continue;
    if (k > last + 1) markKept(open, 2, last, k, tolerance, kept);
    last = k;
  }
  const out: number[] = [];
  for (let k = 0; k < n; k++) if (kept[k]) out.push(open[2 * k]!, open[2 * k + 1]!);
  return Float64Array.from(out);
}

/**
 * Marks in `keep` the points between `first` and `last` that are needed to stay within `tolerance` mm of the line;
 * `points` holds `dimensions` coordinates a point.
 */
export function markKept(
  points: ArrayLike<number>,
  dimensions: 2 | 3,
  first: number,
  last: number,
  tolerance: number,
  keep: Uint8Array,
): void {
  const stack = [first, last];
  while (stack.length > 0) {
    const b = stack.pop()!;
    const a = stack.pop()!;
    let worst2 = tolerance * tolerance;
    let at = -1;
    const oa = dimensions * a;
    const ob = dimensions * b;
    const ax = points[oa]!;
    const ay = points[oa + 1]!;
    const az = dimensions === 3 ? points[oa + 2]! : 0;
    const dx = points[ob]! - ax;
    const dy = points[ob + 1]! - ay;
    const dz = dimensions === 3 ? points[ob + 2]! - az : 0;
    const length2 = dx * dx + dy * dy + dz * dz;
    const share = length2 > 0 ? 1 / length2 : 0;
    for (let k = a + 1, o = oa + dimensions; k < b; k++, o += dimensions) {
      const ex = points[o]! - ax;
      const ey = points[o + 1]! - ay;
      const ez = dimensions === 3 ? points[o + 2]! - az : 0;
      const t = Math.max(0, Math.min(1, (ex * dx + ey * dy + ez * dz) * share));
      const rx = ex - t * dx;
      const ry = ey - t * dy;
      const rz = ez - t * dz;
      const d2 = rx * rx + ry * ry + rz * rz;
      if (d2 > worst2) {
        worst2 = d2;
        at = k;
      }
    }
    if (at < 0) continue;
    keep[at] = 1;
    stack.push(a, at, at, b);
  }
}
