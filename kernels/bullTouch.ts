/** The touching place of a bull-nose on a line, for WebAssembly (AssemblyScript: every type is a machine type). */

/** The tangent of half the angle on a bull-nose's corner is found to this; what is read at its flat optimum is then right to its square. */
const HALF_ANGLE_STEP: f64 = 1e-8;
const MOST_STEPS: i32 = 60;

/**
 * Where a bull-nose touches a straight line of slope m > 0 that passes its axis at distance v: how far along the line from
 * the foot of the axis, mm.
 */
export function bullTouch(flat: f64, corner: f64, m: f64, v: f64): f64 {
  return alongLine(flat, corner, v, bullTouchFrom(flat, corner, m, v, m / (1 + Math.sqrt(1 + m * m))));
}

/** How far along the line a touching place lies, mm, from the tangent of half its angle on the corner. */
export function alongLine(flat: f64, corner: f64, v: f64, t: f64): f64 {
  const d = flat + (corner * 2 * t) / (1 + t * t);
  return Math.sqrt(Math.max(0, d * d - v * v));
}

/**
 * The touching place as the tangent t of half its angle φ on the corner. There the corner's slope along the line equals the
 * line's: tan φ · q / d = m with d = flat + corner sin φ and q = sqrt(d² - v²); sine and cosine are ratios in t. By Newton
 * from `guess`, guarded by bisection.
 */
export function bullTouchFrom(flat: f64, corner: f64, m: f64, v: f64, guess: f64): f64 {
  const v2 = v * v;
  const least: f64 = v > flat ? Math.min(1, (v - flat) / corner) : 0;
  let low = least / (1 + Math.sqrt(1 - least * least));
  let high: f64 = 1;
  let t = Math.max(low, guess);
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
  return t;
}
