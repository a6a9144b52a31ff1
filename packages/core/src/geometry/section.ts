import type { ContactMesh } from './contactMesh';
import type { Polygon } from './polygon';

/** Ends of cuts this close are one, mm: two triangles cut the edge that they share at one place but for rounding. */
const SAME_MM = 1e-5;

/**
 * Where a level plane cuts a closed mesh: rings with the solid on their left, so borders run counter-clockwise and openings
 * clockwise. Rings that do not close, where the mesh has gaps, are left out. The plane is to pass no vertex: choose a height a
 * little off those of faces.
 *
 * @param z height of the plane, mm
 */
export function sectionAt({ triangles, count }: ContactMesh, z: number): Polygon[] {
  const next = new Map<string, { x: number; y: number; to: string }>();
  for (let i = 0; i < count; i++) {
    const cut = cutOf(triangles, 9 * i, z);
    if (!cut) continue;
    const [ax, ay, bx, by] = cut;
    const [from, to] = [keyOf(ax, ay), keyOf(bx, by)];
    if (from !== to) next.set(from, { x: ax, y: ay, to });
  }
  const rings: Polygon[] = [];
  while (next.size > 0) {
    const [first] = next.keys();
    const ring: number[] = [];
    let key = first!;
    for (let at = next.get(key); at; at = next.get(key)) {
      ring.push(at.x, at.y);
      next.delete(key);
      key = at.to;
    }
    if (key === first && ring.length >= 6) rings.push(Float64Array.from(ring));
  }
  return rings;
}

const keyOf = (x: number, y: number): string => `${Math.round(x / SAME_MM)},${Math.round(y / SAME_MM)}`;

/** The cut of one triangle, from where the outline goes down through the plane to where it comes up again: the solid lies on its left. */
function cutOf(t: Float64Array, o: number, z: number): [number, number, number, number] | undefined {
  let down: [number, number] | undefined;
  let up: [number, number] | undefined;
  for (let c = 0; c < 3; c++) {
    const a = o + 3 * c;
    const b = o + 3 * ((c + 1) % 3);
    if (t[a + 2]! >= z && t[b + 2]! < z) down = crossing(t, a, b, z);
    else if (t[a + 2]! < z && t[b + 2]! >= z) up = crossing(t, b, a, z);
  }
  return down && up && [...down, ...up];
}

/** Where an edge from a place above a plane to one below passes it: the same to the bit from both its sides. */
function crossing(t: Float64Array, high: number, low: number, z: number): [number, number] {
  const share = (t[high + 2]! - z) / (t[high + 2]! - t[low + 2]!);
  return [t[high]! + share * (t[low]! - t[high]!), t[high + 1]! + share * (t[low + 1]! - t[high + 1]!)];
}
