import { outlineArea, type Point2 } from '../geometry/outline';
import { endsOf, type Surface } from './surface';

/** A closed row of edges with less area in plan than this encloses nothing: the border of an upright face, mm². */
const LEAST_MM2 = 1;
/** A corner whose neighbours lie this nearly in line with it is left out of an outline, mm. */
const IN_LINE_MM = 1e-6;

/** Half-edges 3 t + e on the border between faces, or of the mesh. */
export function isBorder({ twin }: Surface, faceOf: Uint32Array, h: number): boolean {
  const other = twin[h]!;
  return other < 0 || faceOf[(other / 3) | 0] !== faceOf[(h / 3) | 0];
}

/** The closed row of border edges along one face that holds border edge `h`, in their order; undefined when it does not close. */
export function borderRow(surface: Surface, faceOf: Uint32Array, h: number): number[] | undefined {
  const { twin } = surface;
  const next = (e: number): number => (e % 3 === 2 ? e - 2 : e + 1);
  const row: number[] = [];
  let at = h;
  do {
    row.push(at);
    // around the end of the edge inside the face, to the next border
    let turned = next(at);
    for (let guard = 0; !isBorder(surface, faceOf, turned); guard++) {
      if (guard > surface.count) return undefined;
      turned = next(twin[turned]!);
    }
    at = turned;
    if (row.length > 3 * surface.count) return undefined;
  } while (at !== h);
  return row;
}

/**
 * The largest outline in plan (mm) that closed rows of edges through some border edges enclose, on either face beside them;
 * undefined when they enclose nothing in plan.
 */
export function outlineThrough(surface: Surface, faceOf: Uint32Array, edges: readonly number[]): Point2[] | undefined {
  const { mesh, twin } = surface;
  const seen = new Set<number>();
  let best: { points: Point2[]; area: number } | undefined;
  for (const edge of edges)
    for (const h of [edge, twin[edge]!]) {
      if (h < 0 || seen.has(h)) continue;
      const row = borderRow(surface, faceOf, h);
      if (!row) continue;
      for (const e of row) seen.add(e);
      const points = row.map((e): Point2 => {
        const v = 3 * endsOf(mesh, e)[0];
        return [mesh.positions[v]!, mesh.positions[v + 1]!];
      });
      const area = outlineArea(points);
      if (area > (best?.area ?? LEAST_MM2)) best = { points, area };
    }
  return best && withoutInLine(best.points);
}

function withoutInLine(points: readonly Point2[]): Point2[] {
  return points.filter(([x, y], k) => {
    const [ax, ay] = points[(k + points.length - 1) % points.length]!;
    const [bx, by] = points[(k + 1) % points.length]!;
    const length = Math.hypot(bx - ax, by - ay);
    return length === 0 || Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) > IN_LINE_MM * length;
  });
}
