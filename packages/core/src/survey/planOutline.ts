import { areaOf, type Polygon, reversed, united } from '../geometry/polygon';
import type { TriangleMesh } from '../geometry/mesh';
import { outlineArea, type Point2 } from '../geometry/outline';

/** An upright triangle is as wide as this in plan, mm, so that walls have an outline too. */
const WALL_MM = 0.02;
/** Outlines that enclose less than this are left out, mm². */
const LEAST_MM2 = 0.01;

/** Outlines in plan of what lies under triangles of a mesh, the largest first, mm; holes in them are not told. */
export function outlinesUnder(mesh: TriangleMesh, triangles: readonly number[]): Point2[][] {
  const rings = triangles.flatMap((t): Polygon[] => {
    const ring = new Float64Array(6);
    for (let c = 0; c < 3; c++) {
      const v = 3 * mesh.indices[3 * t + c]!;
      ring[2 * c] = mesh.positions[v]!;
      ring[2 * c + 1] = mesh.positions[v + 1]!;
    }
    const area = areaOf(ring);
    if (Math.abs(area) > WALL_MM * WALL_MM) return [area > 0 ? ring : reversed(ring)];
    return wall(ring);
  });
  return united(rings)
    .filter((ring) => areaOf(ring) > LEAST_MM2)
    .map((ring): Point2[] => Array.from({ length: ring.length / 2 }, (_, k) => [ring[2 * k]!, ring[2 * k + 1]!]))
    .sort((a, b) => Math.abs(outlineArea(b)) - Math.abs(outlineArea(a)));
}

/** A narrow strip over the longest side of an upright triangle. */
function wall(ring: Polygon): Polygon[] {
  let best: Polygon[] = [];
  let longest = 0;
  for (let c = 0; c < 3; c++) {
    const [ax, ay, bx, by] = [ring[2 * c]!, ring[2 * c + 1]!, ring[(2 * c + 2) % 6]!, ring[(2 * c + 3) % 6]!];
    const length = Math.hypot(bx - ax, by - ay);
    if (length <= longest) continue;
    longest = length;
    const [ux, uy] = [((bx - ax) / length) * (WALL_MM / 2), ((by - ay) / length) * (WALL_MM / 2)];
    best = [
      Float64Array.of(
        ax - ux + uy,
        ay - uy - ux,
        bx + ux + uy,
        by + uy - ux,
        bx + ux - uy,
        by + uy + ux,
        ax - ux - uy,
        ay - uy + ux,
      ),
    ];
  }
  return best;
}
