/** A point or direction: x, y, z. */
export type Vec3 = [number, number, number];

export const dot = (a: Readonly<Vec3>, b: Readonly<Vec3>): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

export const cross = (a: Readonly<Vec3>, b: Readonly<Vec3>): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

export const minus = (a: Readonly<Vec3>, b: Readonly<Vec3>): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];

/** a + t b. */
export const along = (a: Readonly<Vec3>, b: Readonly<Vec3>, t: number): Vec3 => [
  a[0] + t * b[0],
  a[1] + t * b[1],
  a[2] + t * b[2],
];

/** The direction of a with length 1; [0, 0, 0] for a vector without one. */
export function unit(a: Readonly<Vec3>): Vec3 {
  const l = Math.sqrt(dot(a, a));
  return l > 0 ? [a[0] / l, a[1] / l, a[2] / l] : [0, 0, 0];
}

export const distance = (a: Readonly<Vec3>, b: Readonly<Vec3>): number => Math.sqrt(dot(minus(a, b), minus(a, b)));
