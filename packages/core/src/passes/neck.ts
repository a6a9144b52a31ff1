import { markKept } from '../geometry/polygon';
import type { LeftOut, StepContext } from '../link/context';
import { bodyOf, type Mishap } from '../simulate/body';
import type { Frustum } from '../tool/profile';
import { runOver } from '../simulate/runOver';
import { type CutPass, type GrownPasses, turned } from './order';
import type { ScanRun } from './scan';

/** Rounds in which climbs are cut from above; afterwards what still touches is left out, in as many rounds again. */
const MENDING_ROUNDS = 6;
/** Room kept around the neck, in cells of the steel, which tell how thick it is only so well; but no more of the relief than this. */
const ROOM_CELLS = 0.5;
const ROOM_OF_RELIEF = 0.5;
/** A pass that rises by less than this between two points does not climb, mm. */
const CLIMBS_MM = 1e-3;
/** Shorter pieces of a pass are left out, mm. */
const SHORTEST_MM = 0.3;
/** Places this near to one another are told as one, mm. */
const SAME_PLACE_MM = 12;
/** Points this near to the line between their neighbours say nothing, mm. */
const STRAIGHT_MM = 1e-6;
const WHY = 'Steel stands taller than the flutes and would touch the neck';
const WHY_HOLDER = 'Steel would touch shank or holder';

/**
 * Keeps neck and shank out of steel that stands taller than the flutes. The passes are run over the steel. Where one of them
 * climbs into a contact its climb is cut from above instead, so that the flutes take that steel on their way down; a pass whose
 * way over the surface touches is entered from above; one over which steel hangs that the flutes did not reach is left at feed;
 * and what touches all the same is left out and listed.
 *
 * @param grow cuts passes in an order of its own
 */
export async function keepNeckClear(
  context: StepContext,
  runs: readonly ScanRun[],
  grow: (runs: readonly ScanRun[]) => GrownPasses,
): Promise<{ grown: GrownPasses; left: readonly LeftOut[] }> {
  const { steel, tool, crew, room } = context;
  let grown = grow(runs);
  if (!standsAbove(context, runs)) return { grown, left: [] };
  const left: LeftOut[] = [];
  const relief = Math.max(0, (tool.DC - (tool.shank[0]?.bottomDiameter ?? tool.DC)) / 2);
  const wide = Math.min(ROOM_CELLS * steel.cell, ROOM_OF_RELIEF * relief);
  const wider = (f: Frustum): Frustum => ({
    ...f,
    bottomDiameter: f.bottomDiameter + 2 * wide,
    topDiameter: f.topDiameter + 2 * wide,
  });
  const whole = bodyOf({ ...tool, shank: tool.shank.map(wider) });
  // a holder that is too low is found by the checks, but where only what it clears is to be cut
  const body = room.safe ? whole : { ...whole, holder: [] };
  let isMended = false;
  for (let round = 1; round <= 2 * MENDING_ROUNDS; round++) {
    const { mishaps } = await runOver(steel, grown.path.build(), body, crew);
    const of = (...wanted: Mishap['kind'][]) =>
      new Set(mishaps.filter((m) => wanted.includes(m.kind)).map((m) => m.motion));
    const [touching, throughSteel] = [of('shank', 'holder'), of('rapid')];
    if (touching.size + throughSteel.size === 0) break;
    isMended = true;
    const mender = new Mender(
      touching,
      throughSteel,
      round <= MENDING_ROUNDS,
      steel.cell,
      left,
      room.safe ? WHY_HOLDER : WHY,
    );
    const mended = grown.cut.flatMap((pass) => mender.clearOf(pass));
    if (mended.length === 0) return { grown: grow(runs), left };
    grown = grow(mended);
  }
  return { grown: isMended ? grow(grown.cut.map((pass) => straightened(pass.run))) : grown, left };
}

/** Whether any steel stands taller above a pass than the flutes are long. */
function standsAbove({ steel, tool }: StepContext, runs: readonly ScanRun[]): boolean {
  let lowest = Infinity;
  for (const { points } of runs) for (let k = 2; k < points.length; k += 3) lowest = Math.min(lowest, points[k]!);
  return steel.heights.some((h) => h > lowest + tool.APMX);
}

class Mender {
  /**
   * @param touching motions on which neck or shank touch
   * @param throughSteel rapids through steel: where a pass is left upward, flutes that did not reach that steel go through it
   * @param maySwap whether climbs may be cut from above
   * @param finest longer motions that touch are divided to this length before any of them is left out, mm
   * @param left what is left out is added here, for this reason
   */
  constructor(
    private readonly touching: ReadonlySet<number>,
    private readonly throughSteel: ReadonlySet<number>,
    private readonly maySwap: boolean,
    private readonly finest: number,
    private readonly left: LeftOut[],
    private readonly why: string,
  ) {}

  /** What is cut in place of a pass: itself when nothing touches on it or on the way to it. */
  clearOf(pass: CutPass): ScanRun[] {
    const { run, points, way, from } = pass;
    const n = points.length / 3;
    const touches = (k: number): boolean => this.touching.has(from + k - 1);
    let first = 1;
    while (first < n && !touches(first)) first++;
    if (first < n) return this.without(pass, first, touches);
    for (let motion = way; motion < from; motion++)
      if (this.touching.has(motion)) return run.fromAbove ? this.begunLater(pass) : [{ ...run, fromAbove: true }];
    return [this.throughSteel.has(from + n - 1) ? { ...run, leavesAtFeed: true } : run];
  }

  /** A pass of which motions touch, the first of them at `first`: climbs are cut from above, else what touches is left out. */
  private without({ run, points }: CutPass, first: number, touches: (k: number) => boolean): ScanRun[] {
    const n = points.length / 3;
    const z = (k: number): number => points[3 * k + 2]!;
    const climbs = (k: number): boolean => z(k) > z(k - 1) + CLIMBS_MM;
    if (!run.oneWay && this.maySwap && climbs(first)) {
      let [low, high] = [first - 1, first];
      while (low > 0 && climbs(low)) low--;
      while (high + 1 < n && (climbs(high + 1) || touches(high + 1))) high++;
      const climb = turned(points.subarray(3 * low, 3 * high + 3));
      return [
        ...part(run, points.subarray(0, 3 * low + 3)),
        ...part({ ...run, oneWay: true, fromAbove: true }, climb),
        ...part(run, points.subarray(3 * high)),
      ];
    }
    const finer = divided(points, touches, this.finest);
    if (finer) return [{ ...run, points: finer }];
    let last = first;
    while (last + 1 < n && touches(last + 1)) last++;
    this.note(points, first);
    return [...part(run, points.subarray(0, 3 * first)), ...part(run, points.subarray(3 * last))];
  }

  /** A pass that touches where it is entered from above begins a little later. */
  private begunLater({ run, points }: CutPass): ScanRun[] {
    this.note(points, 0);
    const finer = divided(points, (k) => k === 1, this.finest) ?? points;
    return part(run, finer.subarray(3));
  }

  private note(points: Float64Array, k: number): void {
    const [x, y, z] = [points[3 * k]!, points[3 * k + 1]!, points[3 * k + 2]!];
    if (this.left.some((p) => Math.hypot(p.x - x, p.y - y) < SAME_PLACE_MM)) return;
    this.left.push({ why: this.why, x, y, z });
  }
}

/** Points with those motions that touch divided to pieces of at most `finest` mm; undefined when all are that short. */
function divided(points: Float64Array, touches: (k: number) => boolean, finest: number): Float64Array | undefined {
  const out: number[] = [points[0]!, points[1]!, points[2]!];
  for (let k = 1; k < points.length / 3; k++) {
    const o = 3 * k;
    const [ax, ay, az] = [points[o - 3]!, points[o - 2]!, points[o - 1]!];
    const [dx, dy, dz] = [points[o]! - ax, points[o + 1]! - ay, points[o + 2]! - az];
    const pieces = touches(k) ? Math.ceil(Math.hypot(dx, dy, dz) / finest - 1e-9) : 1;
    for (let i = 1; i < pieces; i++) out.push(ax + (dx * i) / pieces, ay + (dy * i) / pieces, az + (dz * i) / pieces);
    out.push(points[o]!, points[o + 1]!, points[o + 2]!);
  }
  return out.length > points.length ? Float64Array.from(out) : undefined;
}

/** A pass without the points that its lines do not need. */
function straightened(run: ScanRun): ScanRun {
  const n = run.points.length / 3;
  const keep = new Uint8Array(n);
  keep[0] = keep[n - 1] = 1;
  markKept(run.points, 3, 0, n - 1, STRAIGHT_MM, keep);
  return { ...run, points: run.points.filter((_, o) => keep[Math.floor(o / 3)]) };
}

/** A piece of a pass, when it is long enough to be one. */
function part(run: ScanRun, points: Float64Array): ScanRun[] {
  const end = points.length - 3;
  const length = Math.hypot(points[end]! - points[0]!, points[end + 1]! - points[1]!, points[end + 2]! - points[2]!);
  if (points.length < 6 || length < SHORTEST_MM) return [];
  return [{ ...run, points: points.slice(), stoppedBySteel: [false, false] }];
}
