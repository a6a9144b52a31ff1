import { lengthOf, nearestOn, type Polyline, simplifyLine } from '../geometry/polygon';
import { closedUp, type Loop, type Nest } from './loop';

/** Places of a turn lie so far apart, mm. */
const STEP_MM = 0.4;
/** The last turn ends this share of the distance of two loops before the wall's loop, whose line then cleans up. */
const BEFORE_WALL = 0.05;
/** Loops that a spiral takes the place of, at least: with fewer it is none. */
const FEWEST_LOOPS = 3;

/** Where the axis may be at a height, and how far lines may be off, mm. */
export interface SpiralRoom {
  readonly isFree: (x: number, y: number) => boolean;
  readonly tolerance: number;
}

/**
 * Areas whose loops lie within one another one by one are gone over in one way: round the innermost loop, in a spiral from loop to loop
 * outward, and round along the wall. Where an area divides, its own loop stays and what lies within is looked at in the same way.
 */
export function spiralled(nest: Nest, room: SpiralRoom): Nest {
  const loops = chainOf(nest);
  const way = loops && loops.length >= FEWEST_LOOPS ? spiralOf(loops, room) : undefined;
  if (!loops || !way) return { ...nest, inner: nest.inner.map((inner) => spiralled(inner, room)) };
  const [wall, innermost] = [loops[0]!, loops.at(-1)!];
  const spiral: Loop = { points: way, closed: false };
  // what eases the wall's corners comes between: before, it would go through full steel
  return { ...nest, loops: [innermost, spiral, ...(nest.relief ?? []), wall], inner: [], relief: [], inOrder: true };
}

/** The closed loops from the wall inward, where there is one at each distance; undefined where the area divides or its loops are open. */
function chainOf(nest: Nest): Loop[] | undefined {
  const loops: Loop[] = [];
  for (let at: Nest | undefined = nest; at; at = at.inner[0]) {
    const [loop] = at.loops;
    if (at.loops.length !== 1 || !loop!.closed || at.inner.length > 1) return undefined;
    loops.push(loop!);
  }
  return loops;
}

/**
 * From the first point of the innermost of some loops round and round to the outermost: in each turn from a loop to the nearest place of
 * the one around it, by as much of the way as of the turn is done. So neighbouring turns are never farther apart than loops are.
 *
 * @param loops from the outermost inward
 */
export function spiralOf(loops: readonly Loop[], { isFree, tolerance }: SpiralRoom): Polyline | undefined {
  const out: number[] = [];
  let [x, y] = [loops.at(-1)!.points[0]!, loops.at(-1)!.points[1]!];
  for (let k = loops.length - 1; k > 0; k--) {
    const turn = fromNearest(loops[k]!.points, x, y);
    const around = loops[k - 1]!.points;
    const whole = lengthOf(turn);
    const end = k === 1 ? 1 - BEFORE_WALL : 1;
    let gone = 0;
    for (let i = 0; i + 2 < turn.length; i += 2) {
      const [ax, ay, bx, by] = [turn[i]!, turn[i + 1]!, turn[i + 2]!, turn[i + 3]!];
      const length = Math.hypot(bx - ax, by - ay);
      const steps = Math.max(1, Math.ceil(length / STEP_MM));
      for (let s = 1; s <= steps; s++) {
        const [px, py] = [ax + ((bx - ax) * s) / steps, ay + ((by - ay) * s) / steps];
        const share = (end * (gone + (length * s) / steps)) / whole;
        const near = nearestOn(around, px, py, true);
        [x, y] = [px + share * (near.x - px), py + share * (near.y - py)];
        if (!isFree(x, y)) return undefined;
        out.push(x, y);
      }
      gone += length;
    }
  }
  const [first, second] = [loops.at(-1)!.points[0]!, loops.at(-1)!.points[1]!];
  return simplifyLine(Float64Array.from([first, second, ...out]), tolerance);
}

/** A ring from its place nearest to (x, y) once round. */
function fromNearest(ring: Polyline, x: number, y: number): Polyline {
  const near = nearestOn(ring, x, y, true);
  const closed = closedUp(ring);
  const k = 2 * (near.piece + 1);
  return Float64Array.from([near.x, near.y, ...closed.subarray(k), ...closed.subarray(2, k), near.x, near.y]);
}
