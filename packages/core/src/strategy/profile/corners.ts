import type { Polygon } from '../../geometry/polygon';

/** A corner of the part is rolled round by turns of more than this, and goes sharp when all of them together are between these, rad. */
const LEAST_TURN = (0.3 * Math.PI) / 180;
const LEAST_CORNER = (15 * Math.PI) / 180;
/** Beyond this the way out to the corner and back is longer than twice the cutter's radius. */
const MOST_CORNER = (125 * Math.PI) / 180;
/** A straight may bend by this from point to point, rad: what rounding and the tolerance of lines make of it. */
const STRAIGHT_RAD = (1.5 * Math.PI) / 180;
/** Chords of a roll are longer than their turn tells by this at most: turns at the ends of a roll are halved. */
const LONGEST_CHORD = 1.5;
/** Places of the roll lie this near to a circle about the part's corner, as a share of its radius. */
const ROUND_SHARE = 0.01;

/**
 * A closed line of the axis that goes straight on past sharp corners of the part, to where its sides meet, instead of rolling round
 * them: the corner stays sharp, since the cutter leaves it on one side and comes back on the other.
 *
 * @param reach distance of the line from walls, mm: about a sharp corner it is a circle of that radius
 * @param turn 1 where the line turns left round the part, -1 right
 * @param isFree whether the axis may go straight from place to place
 */
export function sharpened(
  ring: Polygon,
  reach: number,
  turn: 1 | -1,
  isFree: (ax: number, ay: number, bx: number, by: number) => boolean,
): Polygon {
  const n = ring.length / 2;
  const at = (k: number): readonly [number, number] => [ring[2 * ((k + n) % n)]!, ring[2 * ((k + n) % n) + 1]!];
  const turns = Array.from({ length: n }, (_, k) => turn * turnBetween(at(k - 1), at(k), at(k + 1)));
  /** Whether the way from place k to the next is a chord of a roll: no longer than the turns at its ends tell. */
  const isChord = (k: number): boolean => {
    const most = Math.max(turns[(k + n) % n]!, turns[(k + 1 + n) % n]!);
    if (most < LEAST_TURN) return false;
    const [[ax, ay], [bx, by]] = [at(k), at(k + 1)];
    return Math.hypot(bx - ax, by - ay) < LONGEST_CHORD * 2 * reach * Math.sin(most / 2);
  };
  // begin where one roll, or none, ends
  const start = Array.from({ length: n }, (_, k) => k).find((k) => !isChord(k - 1));
  if (start === undefined) return ring;
  const out: number[] = [];
  for (let first = start; first < start + n;) {
    let last = first;
    while (isChord(last) && last + 1 < start + n) last++;
    const corner = cornerOf(first, last, at, turns, reach, turn);
    const isOpen = corner && isFree(...at(first), ...corner) && isFree(...corner, ...at(last));
    if (isOpen) out.push(...at(first), ...corner, ...at(last));
    else for (let k = first; k <= last; k++) out.push(...at(k));
    first = last + 1;
  }
  return Float64Array.from(out);
}

/** Where the straights before and after a roll meet; undefined where it is no roll round one sharp corner. */
function cornerOf(
  first: number,
  last: number,
  at: (k: number) => readonly [number, number],
  turns: readonly number[],
  reach: number,
  turn: 1 | -1,
): [number, number] | undefined {
  const n = turns.length;
  let whole = 0;
  for (let k = first; k <= last; k++) whole += turns[k % n]!;
  if (whole < LEAST_CORNER || whole > MOST_CORNER || last === first) return undefined;
  const from = farFrom(first, -1, at, reach, n);
  const to = farFrom(last, 1, at, reach, n);
  const [before, after] = [lineThrough(from, at(first)), lineThrough(at(last), to)];
  const out = meeting(before, after);
  // the part's corner: where the same two lines meet that lie on the walls
  const own = meeting(beside(before, turn * reach), beside(after, turn * reach));
  if (!out || !own) return undefined;
  for (let k = first; k <= last; k++) {
    const [x, y] = at(k);
    if (Math.abs(Math.hypot(x - own[0], y - own[1]) - reach) > ROUND_SHARE * reach) return undefined;
  }
  return out;
}

/**
 * A place of the straight that leads to a place of the ring, or from it: about as far away as the corner will be, or as the straight is long.
 * Between near places what lines may be off would lean too much.
 */
function farFrom(
  k: number,
  way: 1 | -1,
  at: (k: number) => readonly [number, number],
  reach: number,
  n: number,
): readonly [number, number] {
  const [x, y] = at(k);
  let far = at(k + way);
  for (let i = 2; i < n; i++) {
    const [fx, fy] = far;
    if (Math.hypot(fx - x, fy - y) >= reach) break;
    const [nx, ny] = at(k + i * way);
    const turn = turnBetween([x, y], [fx, fy], [nx, ny]);
    if (Math.abs(turn) > STRAIGHT_RAD) break;
    far = [nx, ny];
  }
  return far;
}

/** A line: a place on it, and its direction of length 1. */
interface Line {
  readonly x: number;
  readonly y: number;
  readonly ux: number;
  readonly uy: number;
}

function lineThrough([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): Line {
  const length = Math.hypot(bx - ax, by - ay) || 1;
  return { x: ax, y: ay, ux: (bx - ax) / length, uy: (by - ay) / length };
}

/** The line to the left of another, by so much. */
const beside = ({ x, y, ux, uy }: Line, by: number): Line => ({ x: x - by * uy, y: y + by * ux, ux, uy });

function meeting(a: Line, b: Line): [number, number] | undefined {
  const cross = a.ux * b.uy - a.uy * b.ux;
  if (Math.abs(cross) < 1e-9) return undefined;
  const t = ((b.x - a.x) * b.uy - (b.y - a.y) * b.ux) / cross;
  return [a.x + t * a.ux, a.y + t * a.uy];
}

function turnBetween(
  [ax, ay]: readonly [number, number],
  [bx, by]: readonly [number, number],
  [cx, cy]: readonly [number, number],
): number {
  const [ux, uy, vx, vy] = [bx - ax, by - ay, cx - bx, cy - by];
  return Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy);
}
