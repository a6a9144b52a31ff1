import type { Crew } from '../crew/crew';
import { bareSides } from '../field/bareSides';
import { closedAreas } from '../field/bounds';
import { type Fit, type FitAsk, fitTask } from '../field/fit';
import { restSpec } from '../field/wanted';
import { stepCutting } from '../job/following';
import type { Step } from '../job/job';
import { ringOf } from '../link/workspace';
import type { Values } from '../strategy/kind';
import { kindOf, STEP_KINDS } from '../strategy/registry';
import { type Tool, toolsOf } from '../tool/library';
import { cutterProfile, holderProfile, shankProfile, shapeOf } from '../tool/shape';
import type { Expectations, ExpectedStep } from './expected';
import type { Snapshot, SnapshotStep } from './snapshot';

/** Places of the part that each cutter is tried on. */
const PLACES = 3000;
/** What stays counts from here on, in heights of the scallop. */
const COUNTS = 2;

/** What a cutter of the crib would do in a finishing step, held against the part alone. */
export interface FinisherRow {
  readonly assemblyId: string;
  /** Undefined where nothing is to be finished. */
  readonly expected: ExpectedStep | undefined;
  /** Share of the area, in corners, where more stays than twice the scallop, and how thick it is, mm. */
  readonly stays: number;
  readonly thickest: number;
  /** Share of the area in openings that are too narrow for it. */
  readonly narrow: number;
  /** Stick-out at which the holder just clears the part, mm, and that of the assembly. */
  readonly neededStickOut: number;
  readonly stickOut: number;
  /** Share of the area that is touched with neck or shank in the part, and where the cutter's middle rubs. */
  readonly shankTouches: number;
  readonly slow: number;
}

/** What another pattern would come to, with the step's own cutter. */
export interface PatternRow {
  readonly kind: string;
  readonly name: string;
  readonly expected: ExpectedStep | undefined;
}

/** Compares cutters of the crib for a finishing step with its values, and patterns with its cutter. */
export interface Finishers {
  readonly cutters: readonly FinisherRow[];
  readonly patterns: readonly PatternRow[];
}

/** @param onDone share of the work that is done */
export async function compareFinishers(
  { job, piece }: Snapshot,
  at: SnapshotStep,
  expectations: Expectations,
  crew: Crew,
  onDone: (share: number) => void,
): Promise<Finishers> {
  const { kind, step } = at;
  const tools = toolsOf(job.crib).filter((t) => !t.assembly.retired && kind.refuses(shapeOf(t)) === undefined);
  const as = (tool: Tool, kindId: string, values: Values): SnapshotStep => {
    const other: Step = { ...step, kind: kindId, assemblyId: tool.assembly.id, values };
    const bound = kindOf(kindId)!.bind(values);
    return { ...at, step: other, bound, tool, shape: shapeOf(tool), cutting: stepCutting(job, other, tool) };
  };
  const candidates = tools.map((tool) => as(tool, step.kind, step.values));
  const fits = await crew.all(
    fitTask,
    candidates.map((candidate) => fitAsk(piece, candidate)),
    (done) => onDone((0.5 * done) / candidates.length),
  );
  const cutters: FinisherRow[] = [];
  for (const [k, candidate] of candidates.entries()) {
    cutters.push(rowOf(candidate, fits[k]!, await expectations.of(piece, candidate, undefined, crew)));
    onDone(0.5 + (0.4 * (k + 1)) / candidates.length);
  }
  const patterns: PatternRow[] = [];
  for (const { id, name, group, refuses, house, check } of STEP_KINDS) {
    if (group !== 'finish' || refuses(at.shape) !== undefined) continue;
    const begun: Values = house(at.shape);
    const values = id === step.kind ? step.values : { ...begun, ...shared(step.values, begun) };
    const checked = check(values);
    if ('problems' in checked) continue;
    const other = as(at.tool, id, checked.values);
    // those that leave some of it to others are not compared
    const [from, to] = other.bound.slopes;
    if (from > at.bound.slopes[0] || to < at.bound.slopes[1]) continue;
    const expected = await expectations.of(piece, other, undefined, crew);
    if (expected?.apart) patterns.push({ kind: id, name, expected });
  }
  return { cutters, patterns };
}

/** What two kinds' values have in common of aim and limits: their pattern stays their own. */
function shared(values: Values, others: Values): Values {
  const keys = ['allowance', 'bottomAllowance', 'scallop', 'tolerance', 'top', 'bottom'];
  const rest = ['restOf', 'restOverlap', 'restThicker', 'restBy', 'leastSteel'];
  return Object.fromEntries([...keys, ...rest].filter((k) => k in values && k in others).map((k) => [k, values[k]!]));
}

function fitAsk({ box }: Snapshot['piece'], { part, bound, shape, named, limits, faces }: SnapshotStep): FitAsk {
  const rest = bound.rest && restSpec(part, named.get(bound.rest.assemblyId), bound.rest);
  return {
    part,
    slopes: bound.slopes,
    lowest: bound.lowest,
    highest: bound.highest,
    closed: closedAreas(limits, shape.DC / 2, ringOf(box)),
    bare: bareSides(part.box, box),
    rest: rest && 'spec' in rest ? rest : undefined,
    faces,
    piece: cutterProfile(shape),
    shank: shankProfile(shape),
    holder: holderProfile(shape, 0),
    samples: PLACES,
    counts: COUNTS * (bound.ridges ?? 0),
  };
}

function rowOf({ tool, shape }: SnapshotStep, fit: Fit, expected: ExpectedStep | undefined): FinisherRow {
  const of = (count: number, all: number): number => (all > 0 ? count / all : 0);
  return {
    assemblyId: tool.assembly.id,
    expected: fit.touched > 0 ? expected : undefined,
    stays: of(fit.stays, fit.places),
    thickest: fit.thickest,
    narrow: of(fit.narrow, fit.places),
    neededStickOut: fit.stickOut,
    stickOut: shape.stickOut,
    shankTouches: of(fit.shankTouches, fit.touched),
    slow: of(fit.slow, fit.touched),
  };
}
