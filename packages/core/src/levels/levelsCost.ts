import { type Crew, spansOf } from '../crew/crew';
import { lengthOf } from '../geometry/polygon';
import { closedUp, type Loop, type Nest } from './loop';
import { levelLoopsTask, type LevelLoopsInput } from './loops';

/** Levels that are worked out, spread over all of them: each stands for its neighbours. */
const SAMPLED = 6;
const PIECES = 2;
/** Ways from line to line are so many times the least on the mean, on the parts of the benches. */
const WAY_SHARE = 3;

/** What cutting levels comes to, told from some of them. Lengths in mm. */
export interface LevelsCost {
  readonly length: number;
  /** Of the ways down into closed steel. */
  readonly entry: number;
  /** Of the ways from line to line at the level. */
  readonly link: number;
  /** How often it is lifted and comes down elsewhere. */
  readonly lifts: number;
  /** Short lines that ease corners: each is come to from beside. */
  readonly eases: number;
  /** The lines of those that were worked out: ends of straight pieces, six numbers each, and of how many levels one is shown. */
  readonly drawn: { readonly lines: Float32Array; readonly every: number };
}

/** How it is gone from line to line. */
export interface LevelWays {
  readonly ae: number;
  readonly leadRadius: number;
  readonly rampAngleDeg: number;
}

/**
 * What levels come to, by working out the lines of some of them on a rough grid, each with the stairs above it.
 *
 * @param input all that the lines depend on, but the levels
 */
export async function levelsCost(
  input: Omit<LevelLoopsInput, 'levels'>,
  levels: LevelLoopsInput['levels'],
  ways: LevelWays,
  crew: Crew,
): Promise<LevelsCost> {
  const count = Math.min(SAMPLED, levels.length);
  const picked = Array.from({ length: count }, (_, k) => levels[Math.floor(((k + 0.5) * levels.length) / count)]!);
  const pieces = spansOf(count, PIECES);
  const found = (
    await crew.all(
      levelLoopsTask,
      pieces.map(([from, to]) => ({ ...input, levels: picked.slice(from, to) })),
    )
  ).flat();
  const cost = { length: 0, entry: 0, link: 0, lifts: 0, eases: 0 };
  const lines: number[] = [];
  for (const { z, above, nests, between } of found) {
    for (const nest of nests) {
      addNest(nest, above - z, true, ways, cost);
      drawNest(nest, z, lines);
    }
    for (const { nests: stairs } of between) for (const nest of stairs) addNest(nest, 0, true, ways, cost);
  }
  const by = count > 0 ? levels.length / count : 0;
  return {
    length: cost.length * by,
    entry: cost.entry * by,
    link: cost.link * by,
    lifts: cost.lifts * by,
    eases: cost.eases * by,
    drawn: { lines: Float32Array.from(lines), every: Math.max(1, Math.round(by)) },
  };
}

/** Adds what the lines of an area come to, with those inside it. */
function addNest(
  { loops, relief = [], inner }: Nest,
  depth: number,
  isRoot: boolean,
  ways: LevelWays,
  cost: { -readonly [K in keyof Omit<LevelsCost, 'drawn'>]: number },
): void {
  const { ae, leadRadius, rampAngleDeg } = ways;
  const lead = Math.PI * leadRadius;
  for (const loop of [...relief, ...loops]) {
    cost.length += lengthAlong(loop);
    if (loop.closed) cost.link += WAY_SHARE * (ae + lead);
    else if (loop.easing) cost.eases++;
    else cost.lifts++;
  }
  if (isRoot && depth > 0 && loops.some((loop) => loop.closed)) {
    cost.entry += depth / Math.tan((rampAngleDeg * Math.PI) / 180);
    cost.lifts++;
  }
  for (const nest of inner) addNest(nest, depth, false, ways, cost);
}

function drawNest({ loops, relief = [], inner }: Nest, z: number, lines: number[]): void {
  for (const loop of [...relief, ...loops]) {
    const points = loop.closed ? closedUp(loop.points) : loop.points;
    for (let k = 2; k < points.length; k += 2)
      lines.push(points[k - 2]!, points[k - 1]!, z, points[k]!, points[k + 1]!, z);
  }
  for (const nest of inner) drawNest(nest, z, lines);
}

const lengthAlong = ({ points, closed }: Loop): number => lengthOf(closed ? closedUp(points) : points);
