import { nearestOn, type Polyline } from '../../geometry/polygon';
import { closedUp } from '../../levels/loop';

/** Bridges that stay along a line: their middles in plan, how wide and up to which height they stay, and how steeply it goes over them. */
export interface Bridges {
  readonly places: readonly (readonly [number, number])[];
  /** Half of the way of the axis over one, mm: half its width and the cutter's radius. */
  readonly half: number;
  readonly top: number;
  /** Rise per mm. */
  readonly slope: number;
}

/** Bridges farther than this from a line are those of another, in units of their `half`. */
const NEAR_HALVES = 2;

/** Where bridges stay round a closed line: evenly, each in the middle of the longest straight of its share. */
export function bridgePlaces(ring: Polyline, count: number): [number, number][] {
  const line = closedUp(ring);
  const at = lengthsAlong(line);
  const whole = at.at(-1)!;
  return Array.from({ length: count }, (_, i) => {
    // the middle half of its share, so that two never come close
    const [from, to] = [((i + 0.25) / count) * whole, ((i + 0.75) / count) * whole];
    let best = { length: 0, middle: (from + to) / 2 };
    for (let k = 1; k < at.length; k++) {
      const [a, b] = [Math.max(from, at[k - 1]!), Math.min(to, at[k]!)];
      if (b - a > 1.001 * best.length) best = { length: b - a, middle: (a + b) / 2 };
    }
    return placeAt(line, at, best.middle);
  });
}

/**
 * A line at a height, raised over bridges: x, y, z one after another.
 *
 * @param heightAt height of the tip so far along the line, mm; straight between the line's points
 */
export function overBridges(
  line: Polyline,
  bridges: Bridges | undefined,
  heightAt: (along: number, whole: number) => number,
): number[] {
  const at = lengthsAlong(line);
  const whole = at.at(-1) ?? 0;
  const middles = bridges ? middlesAlong(line, at, bridges) : [];
  const lifted = (s: number): number => {
    const own = heightAt(s, whole);
    if (!bridges) return own;
    const over = middles.map((m) => bridges.top - Math.max(0, Math.abs(s - m) - bridges.half) * bridges.slope);
    return Math.max(own, ...over);
  };
  const breaks = new Set<number>();
  for (const m of middles) {
    const { half, top, slope } = bridges!;
    const run = Math.max(0, top - Math.min(heightAt(0, whole), heightAt(whole, whole))) / slope;
    for (const by of [half, half + run]) for (const s of [m - by, m + by]) if (s > 0 && s < whole) breaks.add(s);
  }
  const stops = [...breaks].sort((a, b) => a - b);
  const out: number[] = [];
  let next = 0;
  for (let k = 0; k < at.length; k++) {
    for (; next < stops.length && stops[next]! < at[k]! - 1e-6; next++) {
      const s = stops[next]!;
      out.push(...placeAt(line, at, s), lifted(s));
    }
    if (Math.abs((stops[next] ?? Infinity) - at[k]!) <= 1e-6) next++;
    out.push(line[2 * k]!, line[2 * k + 1]!, lifted(at[k]!));
  }
  return out;
}

/** Middles of the bridges that lie beside a line, as lengths along it; one near its seam comes at both its ends. */
function middlesAlong(line: Polyline, at: readonly number[], { places, half }: Bridges): number[] {
  return places.flatMap(([x, y]) => {
    const out: number[] = [];
    const { distance } = nearestOn(line, x, y, false);
    if (distance > NEAR_HALVES * half) return out;
    // a line that goes on past its beginning, or round and round, comes by more than once
    for (let k = 1; k < at.length; k++) {
      const [ax, ay] = [line[2 * k - 2]!, line[2 * k - 1]!];
      const [dx, dy] = [line[2 * k]! - ax, line[2 * k + 1]! - ay];
      const square = dx * dx + dy * dy;
      if (square === 0) continue;
      const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / square));
      if (Math.hypot(ax + t * dx - x, ay + t * dy - y) > distance + 1e-3) continue;
      const s = at[k - 1]! + t * Math.sqrt(square);
      if (!out.some((m) => Math.abs(m - s) < half)) out.push(s);
    }
    return out;
  });
}

function lengthsAlong(line: Polyline): number[] {
  const at = [0];
  for (let k = 2; k < line.length; k += 2)
    at.push(at.at(-1)! + Math.hypot(line[k]! - line[k - 2]!, line[k + 1]! - line[k - 1]!));
  return at;
}

function placeAt(line: Polyline, at: readonly number[], s: number): [number, number] {
  let k = 1;
  while (k < at.length - 1 && at[k]! < s) k++;
  const [a, b] = [at[k - 1]!, at[k]!];
  const t = b > a ? (s - a) / (b - a) : 0;
  const [x, y] = [line[2 * k - 2]!, line[2 * k - 1]!];
  return [x + t * (line[2 * k]! - x), y + t * (line[2 * k + 1]! - y)];
}
