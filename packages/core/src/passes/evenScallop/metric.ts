/**
 * How many passes lie between two neighbouring places of the way of a ball's middle, when all ridges are to be of one height h.
 * With C the middles and n the normals, the ridge between two passes is h where ΔC · (ΔC - (R - h) Δn) = w0², and w0 = 2 √(2 h R -
 * h²) is the side step on a plane: there Δn is zero; on a bend the second term takes its curvature in.
 */

/** The bend counts for no less and no more than these shares of |ΔC|²: rolled over an edge, and in a valley. */
export const LEAST_SHARE = 0.02;
export const MOST_SHARE = 64;

export function passMetric(
  centres: Float64Array,
  normals: Float64Array,
  radius: number,
  scallop: number,
  sideStep: number,
): (a: number, b: number) => number {
  const weight = radius - scallop;
  return (a, b) => {
    const [p, q] = [3 * a, 3 * b];
    const [x, y, z] = [centres[q]! - centres[p]!, centres[q + 1]! - centres[p + 1]!, centres[q + 2]! - centres[p + 2]!];
    const square = x * x + y * y + z * z;
    const bend =
      x * (normals[q]! - normals[p]!) +
      y * (normals[q + 1]! - normals[p + 1]!) +
      z * (normals[q + 2]! - normals[p + 2]!);
    const own = square - weight * bend;
    return Math.sqrt(Math.min(MOST_SHARE * square, Math.max(LEAST_SHARE * square, own))) / sideStep;
  };
}
