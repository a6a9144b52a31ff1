import type { Polygon, Polyline } from '../geometry/polygon';

/** A bend counts as one corner as far as it turns within this share of a side step. */
const CORNER_SHARE = 0.35;
/** Lines beside a corner begin and end so many side steps from it; shorter where that is not free, at least so many. */
const REACH = 1.1;
const SHORTEST_REACH = 0.5;
/** Corners are cut in so many steps at most. */
const MOST_STEPS = 4;
/** Bends of less than this are none that a side step could overload, and of more are taken for this: rad. */
const LEAST_TURN = Math.PI / 6;
const MOST_TURN = 0.9 * Math.PI;
/** A line is looked at this often, mm, whether the axis may run on it. */
const LOOK_MM = 0.4;

/** When corners are eased. */
export interface Easing {
  /** Distance of the lines, and radius of the cutter, mm. */
  ae: number;
  radius: number;
  /** Largest angle over which the cutter is to meet steel in a corner, rad. */
  most: number;
}

/**
 * Angle over which a cutter meets steel in a corner, rad: of what turns by τ it meets τ at once, and what stands between its
 * circle there and the one in the corner of the line before, s / cos(τ/2) away, takes asin(s / (2 R cos(τ/2))) more (geometry).
 */
export const cornerEngagement = (turn: number, s: number, radius: number): number =>
  turn + Math.asin(Math.min(1, s / (2 * radius * Math.cos(turn / 2))));

/**
 * Short lines that take the steel out of the inside corners of a line before the line itself comes, where it would meet it
 * over too large an angle: they cut the corner in equal steps.
 *
 * @param ring border of a free area: outer ones counter-clockwise, holes clockwise, so that the area lies on the left
 * @param isFree whether the axis may be there
 * @returns the lines, farthest from the corner first
 */
export function reliefLines(ring: Polygon, easing: Easing, isFree: (x: number, y: number) => boolean): Polyline[] {
  const { ae } = easing;
  const lines: Polyline[] = [];
  for (const { at, turn } of cornersOf(ring, CORNER_SHARE * ae)) {
    const steps = stepsFor(turn, easing);
    if (steps === 1) continue;
    for (let reach = REACH * ae; reach >= SHORTEST_REACH * ae; reach /= 1.5) {
      const found = linesAt(ring, at, reach, ae, steps);
      if (!found.every((line) => isFreeAlong(line, isFree))) continue;
      lines.push(...found);
      break;
    }
  }
  return lines;
}

function stepsFor(turn: number, { ae, radius, most }: Easing): number {
  let steps = 1;
  while (steps < MOST_STEPS && cornerEngagement(turn, ae / steps, radius) > most) steps++;
  return steps;
}

/** Where a closed line turns to its left: the middle point of each bend, and by how much, rad. */
function cornersOf(ring: Polygon, within: number): { at: number; turn: number }[] {
  const n = ring.length / 2;
  const turns = new Float64Array(n);
  const lengths = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const b = (k + n - 1) % n;
    const m = (k + 1) % n;
    const px = ring[2 * k]! - ring[2 * b]!;
    const py = ring[2 * k + 1]! - ring[2 * b + 1]!;
    const qx = ring[2 * m]! - ring[2 * k]!;
    const qy = ring[2 * m + 1]! - ring[2 * k + 1]!;
    turns[k] = Math.atan2(px * qy - py * qx, px * qx + py * qy);
    lengths[k] = Math.hypot(qx, qy);
  }
  const corners: { at: number; turn: number }[] = [];
  let free = 0;
  for (let k = 0; k < n; k++) {
    if (k < free || turns[k]! <= 0) continue;
    let turn = turns[k]!;
    let far = 0;
    let last = k;
    for (let m = k; m - k < n - 1; m++) {
      far += lengths[m % n]!;
      if (far > within) break;
      turn += turns[(m + 1) % n]!;
      last = m + 1;
    }
    if (turn < LEAST_TURN) continue;
    corners.push({ at: Math.round((k + last) / 2) % n, turn: Math.min(turn, MOST_TURN) });
    free = last + 1;
  }
  return corners;
}

function linesAt(ring: Polygon, corner: number, reach: number, ae: number, steps: number): Polyline[] {
  const x = ring[2 * corner]!;
  const y = ring[2 * corner + 1]!;
  const [bx, by] = pointAlong(ring, corner, -reach);
  const [cx, cy] = pointAlong(ring, corner, reach);
  const before = Math.hypot(x - bx, y - by);
  const after = Math.hypot(cx - x, cy - y);
  if (before === 0 || after === 0) return [];
  const ux = (x - bx) / before;
  const uy = (y - by) / before;
  const wx = (cx - x) / after;
  const wy = (cy - y) / after;
  // half the angle between the legs, and the direction between them into the area
  const cos = Math.max(-1, Math.min(1, ux * wx + uy * wy));
  const sinHalf = Math.sqrt((1 + cos) / 2);
  const l = Math.hypot(wx - ux, wy - uy);
  if (sinHalf < 0.1 || l === 0) return [];
  return Array.from({ length: steps - 1 }, (_, k): Polyline => {
    const t = (ae * (steps - 1 - k)) / steps;
    const q = t / sinHalf;
    return Float64Array.of(
      bx - uy * t,
      by + ux * t,
      x + ((wx - ux) / l) * q,
      y + ((wy - uy) / l) * q,
      cx - wy * t,
      cy + wx * t,
    );
  });
}

/** The point of a closed line so many mm behind its point `from`, or before it. */
function pointAlong(ring: Polygon, from: number, distance: number): [number, number] {
  const n = ring.length / 2;
  const way = distance < 0 ? n - 1 : 1;
  let left = Math.abs(distance);
  let k = from;
  for (let count = 0; count < n; count++) {
    const m = (k + way) % n;
    const dx = ring[2 * m]! - ring[2 * k]!;
    const dy = ring[2 * m + 1]! - ring[2 * k + 1]!;
    const length = Math.hypot(dx, dy);
    if (length >= left && length > 0) {
      const t = left / length;
      return [ring[2 * k]! + t * dx, ring[2 * k + 1]! + t * dy];
    }
    left -= length;
    k = m;
  }
  return [ring[2 * k]!, ring[2 * k + 1]!];
}

function isFreeAlong(line: Polyline, isFree: (x: number, y: number) => boolean): boolean {
  for (let k = 2; k < line.length; k += 2) {
    const dx = line[k]! - line[k - 2]!;
    const dy = line[k + 1]! - line[k - 1]!;
    const n = Math.max(1, Math.ceil(Math.hypot(dx, dy) / LOOK_MM));
    for (let s = 0; s <= n; s++) if (!isFree(line[k - 2]! + (dx * s) / n, line[k - 1]! + (dy * s) / n)) return false;
  }
  return true;
}
