/** The angle on the corner is found to this, rad; what is read at its flat optimum is then right to its square. */
const ANGLE_STEP = 1e-8;
const MOST_STEPS = 60;

/**
 * Where a bull-nose cutter touches a straight line of slope m > 0 that passes its axis at distance v: how far along the
 * line from the foot of the axis, mm. There the corner's slope along the line equals the line's:
 * tan φ · q / d = m with d = flat + corner sin φ and q = sqrt(d² - v²); φ by Newton, guarded by bisection.
 *
 * @param flat radius of the cutter's flat, and `corner` its corner radius, mm
 */
export function bullTouch(flat: number, corner: number, m: number, v: number): number {
  let low = v > flat ? Math.asin(Math.min(1, (v - flat) / corner)) : 0;
  let high = Math.PI / 2;
  let phi = Math.max(low, Math.atan(m));
  for (let k = 0; k < MOST_STEPS; k++) {
    const sin = Math.sin(phi);
    const cos = Math.cos(phi);
    const d = flat + corner * sin;
    const q = Math.sqrt(Math.max(0, d * d - v * v));
    const f = sin * q - m * d * cos;
    if (f > 0) high = phi;
    else low = phi;
    const slope = cos * q + (q > 0 ? (sin * d * corner * cos) / q : 0) - m * (corner * cos * cos - d * sin);
    let next = phi - f / slope;
    if (!(next > low && next < high)) next = 0.5 * (low + high);
    const step = Math.abs(next - phi);
    phi = next;
    if (step < ANGLE_STEP) break;
  }
  const d = flat + corner * Math.sin(phi);
  return Math.sqrt(Math.max(0, d * d - v * v));
}
