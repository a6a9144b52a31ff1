import { cross, distance, dot, minus, type Vec3 } from './vector';

/** Distance of a place from a triangle, mm. */
export function distanceToTriangle(place: Readonly<Vec3>, corners: readonly [Vec3, Vec3, Vec3]): number {
  const [a, b, c] = corners;
  const p: Vec3 = [place[0], place[1], place[2]];
  const n = cross(minus(b, a), minus(c, a));
  const length = Math.sqrt(dot(n, n));
  const isInside = (from: Vec3, to: Vec3): boolean => dot(cross(minus(to, from), minus(p, from)), n) >= 0;
  if (length > 0 && isInside(a, b) && isInside(b, c) && isInside(c, a)) return Math.abs(dot(minus(p, a), n)) / length;
  return Math.min(distanceToSegment(p, a, b), distanceToSegment(p, b, c), distanceToSegment(p, c, a));
}

/** Distance of a place from the line between two others, mm. */
export function distanceToSegment(p: Vec3, a: Vec3, b: Vec3): number {
  const way = minus(b, a);
  const s = Math.max(0, Math.min(1, dot(minus(p, a), way) / (dot(way, way) || 1)));
  return distance(p, [a[0] + s * way[0], a[1] + s * way[1], a[2] + s * way[2]]);
}
