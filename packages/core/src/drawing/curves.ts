import type { Point2 } from '../geometry/outline';
import { type Affine, mapped, mappedVector } from './affine';
import { CHORD_MM, type Sheet } from './sheet';

/** Halvings of a curve at most: a part in 2^16 of it is a chord. */
const DEEPEST = 16;
/** Degree of a spline at most: higher ones than any drawing holds are damage. */
const HIGHEST_DEGREE = 16;

/** An arc of an ellipse: centre + u cos t + v sin t. A circle where u and v are square and equally long. */
export interface Arc {
  readonly centre: Point2;
  readonly u: Point2;
  readonly v: Point2;
  readonly from: number;
  readonly to: number;
}

/** Points on an arc, both ends included, the arc mapped first: an ellipse stays one. */
export function arcPoints(sheet: Sheet, map: Affine, { centre, u, v, from, to }: Arc): Point2[] {
  const c = mapped(map, centre);
  const [p, q] = [mappedVector(map, u), mappedVector(map, v)];
  // largest half axis: the larger singular value of the matrix with columns p and q
  const sum = p[0] ** 2 + p[1] ** 2 + q[0] ** 2 + q[1] ** 2;
  const area = p[0] * q[1] - p[1] * q[0];
  const radius = Math.sqrt((sum + Math.sqrt(Math.max(0, sum * sum - 4 * area * area))) / 2);
  sheet.bound([c[0] + radius, c[1] + radius]);
  // a chord over the parameter t leaves the curve by at most t² |second derivative| / 8
  const most = Math.min(Math.PI / 4, Math.sqrt((8 * CHORD_MM) / Math.max(radius, CHORD_MM)));
  const n = Math.max(2, Math.ceil(Math.abs(to - from) / most));
  sheet.take(n);
  return Array.from({ length: n + 1 }, (_, k): Point2 => {
    const t = from + ((to - from) * k) / n;
    const [cos, sin] = [Math.cos(t), Math.sin(t)];
    return [c[0] + p[0] * cos + q[0] * sin, c[1] + p[1] * cos + q[1] * sin];
  });
}

/** A circle's arc. @param from to angles, rad; counter-clockwise where `to` is larger */
export function circleArc(centre: Point2, r: number, from = 0, to = 2 * Math.PI): Arc {
  return { centre, u: [r, 0], v: [0, r], from, to };
}

/** The arc from one point to another whose bulge is the tangent of a quarter of its angle, positive to the left. */
export function bulgeArc(a: Point2, b: Point2, bulge: number): Arc {
  const angle = 4 * Math.atan(bulge);
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  // from the chord's middle to the centre, in lengths of the chord, to the left
  const h = (1 - bulge * bulge) / (4 * bulge);
  const centre: Point2 = [(a[0] + b[0]) / 2 - h * dy, (a[1] + b[1]) / 2 + h * dx];
  const from = Math.atan2(a[1] - centre[1], a[0] - centre[0]);
  return circleArc(centre, Math.hypot(a[0] - centre[0], a[1] - centre[1]), from, from + angle);
}

/** A point of a curve with its weight: x w, y w, w. */
type Weighted = readonly [number, number, number];

/**
 * Points of a Bézier curve behind its first one: halved until every corner of its control polygon lies within the chord's
 * tolerance; with positive weights the curve lies inside that polygon.
 */
function bezierPoints(sheet: Sheet, control: readonly Weighted[], out: Point2[], depth = 0): void {
  const flat = control.map(([x, y, w]): Point2 => [x / w, y / w]);
  const [first, last] = [flat[0]!, flat[flat.length - 1]!];
  if (depth >= DEEPEST || flat.every((p) => distance(p, first, last) <= CHORD_MM)) {
    sheet.take(1);
    out.push(last);
    return;
  }
  const left: Weighted[] = [];
  const right: Weighted[] = [];
  let row = [...control];
  while (row.length > 0) {
    left.push(row[0]!);
    right.unshift(row[row.length - 1]!);
    row = row
      .slice(1)
      .map((p, k): Weighted => [(p[0] + row[k]![0]) / 2, (p[1] + row[k]![1]) / 2, (p[2] + row[k]![2]) / 2]);
  }
  bezierPoints(sheet, left, out, depth + 1);
  bezierPoints(sheet, right, out, depth + 1);
}

/** Distance of a point from the stretch between two others. */
function distance(p: Point2, a: Point2, b: Point2): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const l2 = dx * dx + dy * dy;
  const t = l2 > 0 ? Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / l2)) : 0;
  return Math.hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy);
}

/** Points of a Bézier curve (control points mapped first), both ends included. */
export function curvePoints(sheet: Sheet, map: Affine, control: readonly Point2[]): Point2[] {
  const points = control.map((p) => mapped(map, p));
  const out = [points[0]!];
  bezierPoints(
    sheet,
    points.map(([x, y]): Weighted => [x, y, 1]),
    out,
  );
  return out;
}

/** A spline by its control points, their weights and its knots (non-uniform rational B-spline). */
export interface Spline {
  readonly degree: number;
  readonly knots: readonly number[];
  readonly control: readonly Point2[];
  /** Empty where all are 1. */
  readonly weights: readonly number[];
}

/** What keeps a spline from being one; undefined for a sound one. */
export function splineFault({ degree, knots, control, weights }: Spline): string | undefined {
  if (!Number.isInteger(degree) || degree < 1 || degree > HIGHEST_DEGREE) return `is of degree ${degree}`;
  if (control.length <= degree) return `of degree ${degree} has ${control.length} control points`;
  if (knots.length !== control.length + degree + 1)
    return `has ${knots.length} knots for ${control.length} control points of degree ${degree}`;
  if (knots.some((k, i) => i > 0 && k < knots[i - 1]!)) return 'has knots that run back';
  if (!(knots[control.length]! > knots[degree]!)) return 'is of no length';
  if (weights.length > 0 && (weights.length !== control.length || weights.some((w) => !(w > 0))))
    return 'has weights that are not positive';
  return undefined;
}

/** Points of a sound spline, both ends included: each stretch between two knots as a Bézier curve, halved until it is straight. */
export function splinePoints(sheet: Sheet, map: Affine, { degree, knots, control, weights }: Spline): Point2[] {
  const points = control.map((p, i): Weighted => {
    const w = weights[i] ?? 1;
    const [x, y] = mapped(map, p);
    return [x * w, y * w, w];
  });
  const out: Point2[] = [];
  for (let k = degree; k < points.length; k++) {
    const [a, b] = [knots[k]!, knots[k + 1]!];
    if (!(b > a)) continue;
    const piece = Array.from({ length: degree + 1 }, (_, j) =>
      blossom(degree, knots, points, k, (r) => (r < degree - j ? a : b)),
    );
    if (out.length === 0) out.push([piece[0]![0] / piece[0]![2], piece[0]![1] / piece[0]![2]]);
    bezierPoints(sheet, piece, out);
  }
  return out;
}

/**
 * The polar form of a spline's stretch k at `degree` values: with all of them at one end of the stretch or the other, the
 * control points of the stretch as a Bézier curve (Ramshaw 1989, Blossoms are polar forms).
 */
function blossom(
  degree: number,
  knots: readonly number[],
  points: readonly Weighted[],
  k: number,
  value: (r: number) => number,
): Weighted {
  const d = points.slice(k - degree, k + 1);
  for (let r = 1; r <= degree; r++)
    for (let j = degree; j >= r; j--) {
      const i = k - degree + j;
      const t = (value(r - 1) - knots[i]!) / (knots[i + degree - r + 1]! - knots[i]!);
      const [p, q] = [d[j - 1]!, d[j]!];
      d[j] = [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t, p[2] + (q[2] - p[2]) * t];
    }
  return d[degree]!;
}
