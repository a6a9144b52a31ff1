import type { Point2 } from '../geometry/outline';

/** A map of the plane: x' = a x + c y + e, y' = b x + d y + f. */
export type Affine = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

export const IDENTITY: Affine = [1, 0, 0, 1, 0, 0];

/** The map that does `inner` first and `outer` then. */
export function after(outer: Affine, inner: Affine): Affine {
  const [a, b, c, d] = outer;
  const [p, q, r, s, t, u] = inner;
  const [e, f] = mapped(outer, [t, u]);
  return [a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, e, f];
}

export function mapped([a, b, c, d, e, f]: Affine, [x, y]: Point2): Point2 {
  return [a * x + c * y + e, b * x + d * y + f];
}

/** A direction with its length, without the shift. */
export function mappedVector([a, b, c, d]: Affine, [x, y]: Point2): Point2 {
  return [a * x + c * y, b * x + d * y];
}

export function shift(x: number, y: number): Affine {
  return [1, 0, 0, 1, x, y];
}

export function stretch(x: number, y: number): Affine {
  return [x, 0, 0, y, 0, 0];
}

/** @param angle counter-clockwise where Y points up, rad */
export function turn(angle: number): Affine {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [c, s, -s, c, 0, 0];
}
