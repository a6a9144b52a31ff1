import { EsquisseError } from '../base/errors';

/** Planes of arcs: XY, ZX, YZ. */
export type ArcPlane = 17 | 18 | 19;

/** Chords of an arc leave it by at most this, mm. */
const CHORD_MM = 0.001;
/** Radii at start and end may differ by this from rounding, mm (NISTIR 6556 gives 0.002 mm, from memory, for 0.001 words). */
export const RADIUS_SLACK_MM = 0.005;

type Point = readonly [number, number, number];

/**
 * Points of an arc or helix behind its start, the end included, as chords within {@link CHORD_MM}.
 *
 * @param centre words I, J, K (from the start) or R; R below 0 means the longer arc
 * @throws EsquisseError `program-invalid` for a missing centre, or radii that do not agree
 */
export function arcPoints(
  from: Point,
  to: Point,
  clockwise: boolean,
  plane: ArcPlane,
  centre: Partial<Record<string, number>>,
): Point[] {
  // a: first axis of the plane, b: second, c: along the normal (G18 is ZX)
  const [a, b, c] = plane === 17 ? ([0, 1, 2] as const) : plane === 18 ? ([2, 0, 1] as const) : ([1, 2, 0] as const);
  const letters = ['I', 'J', 'K'] as const;
  const [ca, cb] =
    centre['R'] === undefined
      ? centreFromOffsets(from, a, b, centre[letters[a]], centre[letters[b]])
      : centreFromRadius(from, to, a, b, centre['R'], clockwise);
  const radius = Math.hypot(from[a] - ca, from[b] - cb);
  const radiusEnd = Math.hypot(to[a] - ca, to[b] - cb);
  if (!(radius > 0)) throw bad('An arc of radius 0.');
  if (Math.abs(radius - radiusEnd) > RADIUS_SLACK_MM)
    throw bad(`The arc's radius is ${radius.toFixed(4)} mm at its start and ${radiusEnd.toFixed(4)} mm at its end.`);
  const start = Math.atan2(from[b] - cb, from[a] - ca);
  let sweep = Math.atan2(to[b] - cb, to[a] - ca) - start;
  const same = Math.hypot(to[a] - from[a], to[b] - from[b]) < 1e-9;
  if (same) sweep = clockwise ? -2 * Math.PI : 2 * Math.PI;
  else if (clockwise && sweep > 0) sweep -= 2 * Math.PI;
  else if (!clockwise && sweep < 0) sweep += 2 * Math.PI;
  const step = 2 * Math.acos(Math.max(0, 1 - CHORD_MM / radius));
  const n = Math.max(1, Math.ceil(Math.abs(sweep) / step));
  const points: Point[] = [];
  for (let k = 1; k < n; k++) {
    const t = k / n;
    const angle = start + sweep * t;
    const r = radius + (radiusEnd - radius) * t;
    const p: [number, number, number] = [0, 0, 0];
    p[a] = ca + r * Math.cos(angle);
    p[b] = cb + r * Math.sin(angle);
    p[c] = from[c] + (to[c] - from[c]) * t;
    points.push(p);
  }
  points.push(to);
  return points;
}

function centreFromOffsets(
  from: Point,
  a: number,
  b: number,
  da: number | undefined,
  db: number | undefined,
): [number, number] {
  if (da === undefined && db === undefined) throw bad('An arc needs a centre (I, J, K) or a radius (R).');
  return [from[a]! + (da ?? 0), from[b]! + (db ?? 0)];
}

function centreFromRadius(
  from: Point,
  to: Point,
  a: number,
  b: number,
  r: number,
  clockwise: boolean,
): [number, number] {
  const da = to[a]! - from[a]!;
  const db = to[b]! - from[b]!;
  const chord = Math.hypot(da, db);
  if (chord < 1e-9) throw bad('A full circle cannot be given by its radius.');
  if (chord / 2 > Math.abs(r) + RADIUS_SLACK_MM)
    throw bad(`The arc's ends are ${chord.toFixed(4)} mm apart, more than twice its radius of ${Math.abs(r)} mm.`);
  const h = Math.sqrt(Math.max(0, r * r - (chord / 2) ** 2));
  // the centre lies left of the chord for a short counter-clockwise arc
  const side = (clockwise ? -1 : 1) * (r > 0 ? 1 : -1);
  return [from[a]! + da / 2 - (side * h * db) / chord, from[b]! + db / 2 + (side * h * da) / chord];
}

function bad(text: string): EsquisseError {
  return new EsquisseError('program-invalid', text);
}
