import {
  advisedStickOut,
  clearShare,
  HOUSE_BODY_ROOM,
  type HouseValues,
  type Job,
  kindOf,
  longestStickOut,
  type Step,
  stepCutting,
  type StepFigures,
  type Tool,
  toolOf,
  toolsOf,
} from '@esquisse/core';
import { freeId, withAssemblyChange, withNewStep, withStep, withValue } from './edit';
import { withTravel } from './stepEdit';

/** What a longer cutter would have to be: one of the crib, or the same one standing out farther. */
export interface Longer {
  /** The assembly that is long enough; undefined for the step's own, or one made like it, standing out so far. */
  readonly assemblyId?: string;
  readonly stickOut: number;
  /** Time of the whole step with it, s. */
  readonly time: number;
}

/** Ways out where the holder is too low, with what each takes; from a path that was planned whole. */
export interface ReachWays {
  /** Undefined where the holder is not what touches, or the cutter is too short: it can stand out so far at most. */
  readonly longer: Longer | undefined;
  /** Whether the holder is too low: a shank or neck that touches is not helped by standing out farther. */
  readonly isHolder: boolean;
  readonly longest: number;
  /** Share of the length that the assembly clears as it is, and the time of that, s. */
  readonly share: number;
  readonly safeTime: number;
}

export function reachWays(job: Job, step: Step, figures: StepFigures): ReachWays | undefined {
  const tool = toolOf(job.crib, step.assemblyId);
  if (!tool) return undefined;
  const { stickOut } = tool.assembly;
  const vf = stepCutting(job, step, tool).vf;
  const timeWith = (other: Tool): number => {
    const cutting = stepCutting(job, { ...step, assemblyId: other.assembly.id }, other);
    return (figures.time * vf) / cutting.vf;
  };
  const needed = Math.max(figures.neededStickOut, figures.reach.length);
  const wanted = advisedStickOut(needed);
  const like = toolsOf(job.crib)
    .filter(({ cutter: c, assembly: a }) => {
      const isSame = c.kind === tool.cutter.kind && c.DC === tool.cutter.DC && c.RE === tool.cutter.RE;
      return isSame && !a.retired && a.id !== step.assemblyId && a.stickOut >= needed + 1;
    })
    .sort((a, b) => a.assembly.stickOut - b.assembly.stickOut)[0];
  const longest = longestStickOut(tool.cutter);
  const own = { ...tool, assembly: { ...tool.assembly, stickOut: wanted } };
  const isHolder = needed > stickOut;
  const longer: Longer | undefined = !isHolder
    ? undefined
    : like
      ? { assemblyId: like.assembly.id, stickOut: like.assembly.stickOut, time: timeWith(like) }
      : wanted <= longest
        ? { stickOut: wanted, time: timeWith(own) }
        : undefined;
  // the room that the holder keeps then is missing from what clears
  const share = clearShare(figures.reach, stickOut - (step.travel.holderClearance ?? HOUSE_BODY_ROOM.holder));
  return { longer, isHolder, longest, share, safeTime: share * figures.time };
}

/** The step with a longer cutter: another assembly, or its own standing out farther. */
export function withLonger(job: Job, step: Step, { assemblyId, stickOut }: Longer): Job {
  return assemblyId === undefined
    ? withAssemblyChange(job, step.assemblyId, { stickOut })
    : withStep(job, step.id, { assemblyId });
}

/** The step cut only as far as its assembly clears, or all of it again. */
export const withSafe = (job: Job, stepId: string, isSafe: boolean): Job =>
  withTravel(job, stepId, { reach: isSafe ? 'safe' : 'whole' });

/** How far the second of two steps reaches into what the first did, mm. */
const OVERLAP_MM = 0.5;

/**
 * The step divided: it does what its assembly clears, and a step behind it does the rest with a longer cutter; one like it is made
 * when the crib has none.
 */
export function withDivided(
  job: Job,
  step: Step,
  { assemblyId, stickOut }: Longer,
  shop: HouseValues,
): { job: Job; stepId: string } | undefined {
  const made = assemblyId === undefined ? withAssemblyLike(job, step.assemblyId, stickOut) : { job, id: assemblyId };
  const kind = kindOf(step.kind);
  if (!kind) return undefined;
  const isFinishing = 'restBy' in step.values || kind.fields.some((f) => f.key === 'restBy');
  const kept = withSafe(made.job, step.id, true);
  const added = withNewStep(kept, isFinishing ? step.kind : 'rest-roughing', step.id, shop, made.id);
  if (!added) return undefined;
  let next = withStep(added.job, added.stepId, {
    name: `${step.name}, longer`,
    limits: step.limits,
    cutting: step.cutting,
    travel: { ...step.travel, reach: 'whole' },
  });
  if (isFinishing) {
    next = withStep(next, added.stepId, { values: step.values, relations: step.relations });
    for (const [key, value] of Object.entries({
      restOf: step.assemblyId,
      restBy: 'assembly',
      restOverlap: OVERLAP_MM,
    }))
      next = withValue(next, added.stepId, key, value);
  } else {
    for (const key of ['sideAllowance', 'floorAllowance', 'tolerance', 'top', 'bottom'])
      if (key in step.values) next = withValue(next, added.stepId, key, step.values[key]!);
  }
  return { job: next, stepId: added.stepId };
}

/** An assembly of the same cutter that stands out farther, under the next free number. */
function withAssemblyLike(job: Job, id: string, stickOut: number): { job: Job; id: string } {
  const { assemblies } = job.crib;
  const like = assemblies.find((a) => a.id === id)!;
  const made = {
    ...like,
    id: freeId(
      't',
      assemblies.map((a) => a.id),
    ),
    number: Math.max(...assemblies.map((a) => a.number)) + 1,
    stickOut,
    lengthOffset: null,
    radiusOffset: null,
    measuredLength: null,
    measuredDiameter: null,
    measuredRadius: null,
    asMeasured: false,
    relations: undefined,
  };
  return { job: { ...job, crib: { ...job.crib, assemblies: [...assemblies, made] } }, id: made.id };
}
