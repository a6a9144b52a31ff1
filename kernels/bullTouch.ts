/** The touching place of a bull-nose on a line, for WebAssembly (AssemblyScript: every type is a machine type). */

/** The tangent of half the angle on a bull-nose's corner is found to this; what is read at its flat optimum is then right to its square. */
const HALF_ANGLE_STEP: f64 = 1e-8;
const MOST_STEPS: i32 = 60;

/**
 * Where a bull-nose touches a straight line of slope m > 0 that passes its axis at distance v: how far along the line from
 * the foot of the axis, mm. There the corner's slope along the line equals the line's: tan φ · q / d = m with
 * d = flat + corner sin φ and q = sqrt(d² - v²). In t = tan(φ / 2), where sine and cosine are ratios, by Newton, guarded by
 * bisection.
 */
export function bullTouch(flat: f64, corner: f64, m: f64, v: f64): f64 {
  const v2 = v * v;
  const least: f64 = v > flat ? Math.min(1, (v - flat) / corner) : 0;
  let low = least / (1 + Math.sqrt(1 - least * least));
  let high: f64 = 1;
  let t = Math.max(low, m / (1 + Math.sqrt(1 + m * m)));
  for (let k = 0; k < MOST_STEPS; k++) {
    const share = 1 / (1 + t * t);
    const sin = 2 * t * share;
    const cos = (1 - t * t) * share;
    const d = flat + corner * sin;
    const q = Math.sqrt(Math.max(0, d * d - v2));
    const f = sin * q - m * d * cos;
    if (f > 0) high = t;
    else low = t;
    const steep = cos * q + (q > 0 ? (sin * d * corner * cos) / q : 0) - m * (corner * cos * cos - d * sin);
    let next = t - f / (2 * share * steep);
    if (!(next > low && next < high)) next = 0.5 * (low + high);
    const step = Math.abs(next - t);
    t = next;
    if (step < HALF_ANGLE_STEP) break;
  }
  const d = flat + (corner * 2 * t) / (1 + t * t);
  return Math.sqrt(Math.max(0, d * d - v2));
}
