import type { Polyline } from '../../geometry/polygon';

/** How a line is met or left, mm. */
export interface LeadValues {
  readonly radius: number;
  /** Length of the straight beside the arc. */
  readonly straight: number;
  /** Largest distance of a chord from its arc. */
  readonly tolerance: number;
  /** Whether the free side is on the left of the line. */
  readonly isFreeLeft: boolean;
}

/** An arc has so many chords at least. */
const FEWEST_CHORDS = 6;

/** The way to the beginning of a line: straight towards it, then a quarter circle that ends along it. Without its last point. */
export function leadIn(line: Polyline, values: LeadValues): [number, number][] {
  const [x, y] = [line[0]!, line[1]!];
  const [ux, uy] = unit(line[2]! - x, line[3]! - y);
  return lead(x, y, -ux, -uy, values.isFreeLeft ? [-uy, ux] : [uy, -ux], values).reverse();
}

/** The way from the end of a line, without its first point. */
export function leadOut(line: Polyline, values: LeadValues): [number, number][] {
  const n = line.length;
  const [x, y] = [line[n - 2]!, line[n - 1]!];
  const [ux, uy] = unit(x - line[n - 4]!, y - line[n - 3]!);
  return lead(x, y, ux, uy, values.isFreeLeft ? [-uy, ux] : [uy, -ux], values);
}

/** From (x, y) along (ux, uy) by a quarter circle towards the free side, then straight on. */
function lead(
  x: number,
  y: number,
  ux: number,
  uy: number,
  [nx, ny]: readonly [number, number],
  { radius: r, straight, tolerance }: LeadValues,
): [number, number][] {
  const out: [number, number][] = [];
  if (r > 0) {
    const chord = 2 * Math.acos(Math.max(0, 1 - tolerance / r));
    const n = Math.max(FEWEST_CHORDS, Math.ceil(Math.PI / 2 / chord));
    for (let k = 1; k <= n; k++) {
      const a = ((Math.PI / 2) * k) / n;
      const [along, aside] = [r * Math.sin(a), r * (1 - Math.cos(a))];
      out.push([x + along * ux + aside * nx, y + along * uy + aside * ny]);
    }
  }
  const [ex, ey] = out.at(-1) ?? [x, y];
  if (straight > 0) out.push([ex + straight * nx, ey + straight * ny]);
  return out;
}

function unit(dx: number, dy: number): [number, number] {
  const length = Math.hypot(dx, dy) || 1;
  return [dx / length, dy / length];
}
