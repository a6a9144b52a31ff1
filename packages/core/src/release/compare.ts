import { Motion, type Toolpath } from '../path/toolpath';
import { wearSideAt } from '../path/wear';
import type { ControlRun, Modes } from '../post/recorder';
import type { PostDefinition } from '../post/definition';

/** Slack of comparisons beside the rounding of words: double precision, and single precision of feeds. */
const SLACK_MM = 1e-9;
const FEED_SLACK = 1e-6;
/** A rapid beside the steps may be lower than a step's first or last point by rounding, mm. */
const ABOVE_SLACK_MM = 1e-3;

/** A place of the program where something is wrong. */
export interface Fault {
  readonly text: string;
  readonly line: number;
  readonly stepIndex?: number;
}

/** A step's path, and the number of the cutter that runs it. */
export interface PlannedRun {
  readonly path: Toolpath;
  readonly tool: number;
  /** Of its cutter. */
  readonly radiusOffset: number;
}

/** The program's motions held against the plan's. */
export interface Comparison {
  /** Of each run, the step that motion i belongs to; -1 on the way to a step and back from it. */
  readonly stepOf: readonly Int32Array[];
  /** Largest distance between a point of the program and the planned one, mm. */
  readonly worst: number;
  /** The first motion that is not the planned one; undefined when all are. */
  readonly fault: Fault | undefined;
  /** Motions of the program that were held against planned ones. */
  readonly compared: number;
}

/**
 * Holds every motion that was read back against the planned ones, in their order: where it ends (within half a unit of the
 * last written place in each axis), whether it is a rapid, and its feed. A planned motion that is shorter than that may be
 * missing. Beside the steps' motions there may be rapids that stay at a step's first and last height or above.
 */
export function compareMotions(
  steps: readonly PlannedRun[],
  runs: readonly ControlRun[],
  post: Pick<PostDefinition, 'decimals' | 'feedDecimals'>,
): Comparison {
  const comparing = new Comparing(runs, post);
  for (const [s, planned] of steps.entries()) {
    const { tool } = planned;
    const fault = comparing.step(planned, s > 0 && steps[s - 1]!.tool !== tool, s);
    if (fault) return comparing.result({ ...fault, stepIndex: s });
  }
  return comparing.result(comparing.rest(steps.at(-1)?.path));
}

/** What is wrong with the compensation of the cutter's radius during a motion. */
function compensationFault({ wear }: Toolpath, k: number, offset: number, { radius }: Modes): string | undefined {
  const side = wearSideAt(wear, k);
  const wanted = side && `to the ${side} by D${offset}`;
  const told = radius && `to the ${radius.side} by D${radius.offset}`;
  if (wanted === told) return undefined;
  return `The cutter radius is ${told ? `compensated ${told}` : 'not compensated'}, the plan ${wanted ? `wants it ${wanted}` : 'does not want that'}.`;
}

class Comparing {
  private readonly stepOf: Int32Array[];
  private worst = 0;
  private compared = 0;
  /** The point that was come to last; before the first one, i is -1. */
  private run = 0;
  private i = -1;
  /** Half a unit of the last written place of coordinates (mm) and feeds (mm/min). */
  private readonly half: number;
  private readonly halfFeed: number;

  constructor(
    private readonly runs: readonly ControlRun[],
    { decimals, feedDecimals }: Pick<PostDefinition, 'decimals' | 'feedDecimals'>,
  ) {
    this.stepOf = runs.map((r) => new Int32Array(r.path.x.length).fill(-1));
    this.half = 0.5 * 10 ** -decimals + SLACK_MM;
    this.halfFeed = 0.5 * 10 ** -feedDecimals;
  }

  result(fault: Fault | undefined): Comparison {
    const { stepOf, worst, compared } = this;
    return { stepOf, worst, fault, compared };
  }

  /** Goes on through one step, with another cutter than the one before or the same; gives the first motion that is not the planned one. */
  step({ path, radiusOffset }: PlannedRun, isChanged: boolean, number: number): Fault | undefined {
    const onTheWay = this.approach(path, isChanged);
    if (onTheWay) return onTheWay;
    for (let k = 1; k < path.x.length; k++) {
      // a motion below the last written place has no block, unless the next one is within reach of it as well
      if (this.isNear(path, k, this.run, this.i) && !this.isNextNear(path, k)) continue;
      if (!this.advance()) return { text: `The program ends before motion ${k} of the step.`, line: this.lastLine };
      const { path: read, lines } = this.runs[this.run]!;
      const { i } = this;
      const line = lines[i]!;
      if (!this.isNear(path, k, this.run, i))
        return { text: `It goes to ${placeOf(read, i)}, the plan to ${placeOf(path, k)}.`, line };
      this.note(path, k);
      const isRapid = read.kind[i] === Motion.rapid;
      if (isRapid !== (path.kind[k] === Motion.rapid))
        return {
          text: isRapid ? 'It goes at rapid rate where the plan feeds.' : 'It feeds where the plan goes at rapid rate.',
          line,
        };
      const [feed, planned] = [read.feed[i]!, path.feed[k]!];
      if (!isRapid && Math.abs(feed - planned) > this.halfFeed + FEED_SLACK * planned)
        return { text: `It feeds ${feed} mm/min, the plan ${planned.toFixed(1)} mm/min.`, line };
      const compensated = compensationFault(path, k, radiusOffset, this.runs[this.run]!.modes[i]!);
      if (compensated) return { text: compensated, line };
      this.stepOf[this.run]![i] = number;
      this.compared++;
    }
    return undefined;
  }

  /** What comes after the last step. */
  rest(last: Toolpath | undefined): Fault | undefined {
    const low = last?.z.at(-1) ?? Infinity;
    while (this.advance()) {
      const fault = this.besidePlan(low);
      if (fault) return fault;
    }
    return undefined;
  }

  /** Goes on to the first point of a step, which follows on a change of the cutter or not. */
  private approach(path: Toolpath, isChanged: boolean): Fault | undefined {
    const before = isChanged ? this.run : -1;
    const isThere = (): boolean => this.run > before && this.isNear(path, 0, this.run, this.i);
    // a step may begin where the one before with the same cutter ended
    if (this.i >= 0 && isThere()) return undefined;
    while (this.advance()) {
      const fault = this.besidePlan(path.z[0]!);
      if (fault) return fault;
      if (!isThere()) continue;
      this.note(path, 0);
      return undefined;
    }
    return { text: `It never comes to ${placeOf(path, 0)}, where the step begins.`, line: this.lastLine };
  }

  /** What is wrong with a motion that no step has: it may only be a rapid at a height or above. */
  private besidePlan(low: number): Fault | undefined {
    const { path, lines } = this.runs[this.run]!;
    const { i } = this;
    if (path.kind[i] === Motion.rapid && path.z[i]! >= low - ABOVE_SLACK_MM) return undefined;
    return { text: `It goes to ${placeOf(path, i)}, which is no motion of the plan.`, line: lines[i]! };
  }

  private advance(): boolean {
    const { path } = this.runs[this.run] ?? {};
    if (!path) return false;
    if (this.i + 1 < path.x.length) this.i++;
    else if (this.runs[this.run + 1]) {
      this.run++;
      this.i = 0;
    } else return false;
    return true;
  }

  private isNextNear(path: Toolpath, k: number): boolean {
    return this.i + 1 < this.runs[this.run]!.path.x.length && this.isNear(path, k, this.run, this.i + 1);
  }

  private isNear(path: Toolpath, k: number, run: number, i: number): boolean {
    const q = this.runs[run]!.path;
    const { half } = this;
    return (
      Math.abs(q.x[i]! - path.x[k]!) <= half &&
      Math.abs(q.y[i]! - path.y[k]!) <= half &&
      Math.abs(q.z[i]! - path.z[k]!) <= half
    );
  }

  private note(path: Toolpath, k: number): void {
    const q = this.runs[this.run]!.path;
    const { i } = this;
    const off = Math.hypot(q.x[i]! - path.x[k]!, q.y[i]! - path.y[k]!, q.z[i]! - path.z[k]!);
    if (off > this.worst) this.worst = off;
  }

  private get lastLine(): number {
    return this.runs.at(-1)?.lines.at(-1) ?? 0;
  }
}

function placeOf(path: Pick<Toolpath, 'x' | 'y' | 'z'>, i: number): string {
  return `X${path.x[i]!.toFixed(3)} Y${path.y[i]!.toFixed(3)} Z${path.z[i]!.toFixed(3)}`;
}
