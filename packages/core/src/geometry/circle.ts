/** The circle with the least sum of squares of x² + y² + a x + b y + c (Kåsa 1976, from memory); undefined for a line. */
export function circleThrough(
  points: readonly (readonly [number, number])[],
): { x: number; y: number; r: number } | undefined {
  const k = points.length;
  const mx = points.reduce((s, p) => s + p[0], 0) / k;
  const my = points.reduce((s, p) => s + p[1], 0) / k;
  let [xx, xy, yy, xr, yr, rr] = [0, 0, 0, 0, 0, 0];
  for (const [px, py] of points) {
    const x = px - mx;
    const y = py - my;
    const r = x * x + y * y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
    xr += x * r;
    yr += y * r;
    rr += r / k;
  }
  const det = xx * yy - xy * xy;
  if (!(det > 1e-9 * xx * yy)) return undefined;
  const x = (xr * yy - yr * xy) / det / 2;
  const y = (yr * xx - xr * xy) / det / 2;
  return { x: mx + x, y: my + y, r: Math.sqrt(x * x + y * y + rr) };
}
