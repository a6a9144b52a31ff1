import type { Job, Step } from './job';
import { stepCutting, stepLoad } from './following';
import type { StepKind, Values } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import type { Tool } from '../tool/library';
import { shapeOf } from '../tool/shape';

/** What is to stay as it is while depth and width of a cut are weighed against each other. */
export const KEPT_LOADS = ['volume', 'power'] as const;
export type KeptLoad = (typeof KEPT_LOADS)[number];

/** Nearer to each other than this share two values are the same. */
const SAME_SHARE = 0.02;
/** Values are proposed to this, mm, and never more than what the load allows. */
const STEP_MM = 0.01;
const HALVINGS = 24;

/** A value that brings a cut to the load of another. */
export interface LoadProposal {
  readonly keeps: KeptLoad;
  /** mm. */
  readonly value: number;
  /** Chip volume in cm³/min, or power in kW. */
  readonly load: number;
}

/** Keys of a kind's depth and width, for kinds whose cuts have both. */
export function cutKeys({ fields }: Pick<StepKind, 'fields'>): { depth: string; width: string } | undefined {
  const depth = fields.find((f) => f.boundBy === 'mostAp')?.key;
  const width = fields.find((f) => f.boundBy === 'mostAe')?.key;
  return depth !== undefined && width !== undefined ? { depth, width } : undefined;
}

/**
 * Widths that go with the depth of a step, or depths that go with its width: with the chip volume, and with the power, of
 * another cut of the same cutter, or of the spindle where that has less. Feeds follow each cut, as they do in the step.
 *
 * @param key of the value that is looked for: depth or width
 * @param like values of the cut whose load is kept
 * @returns nothing where the kind has no such pair, or the value has about the load already
 */
export function sameLoad(
  job: Pick<Job, 'material' | 'setup'>,
  step: Step,
  tool: Tool,
  key: string,
  like: Values,
): LoadProposal[] {
  const kind = kindOf(step.kind);
  const keys = kind && cutKeys(kind);
  if (!keys || (key !== keys.depth && key !== keys.width)) return [];
  const shape = shapeOf(tool);
  const { DC, APMX } = shape;
  const { mostAp = APMX, mostAe = DC } = shape;
  const most = key === keys.depth ? Math.min(mostAp, APMX) : Math.min(mostAe, DC);
  const now = step.values[key];
  if (typeof now !== 'number') return [];
  const loadsOf = (values: Values): Record<KeptLoad, number> => {
    const cut = kind.bind(values).cut(shape);
    const cutting = stepCutting(job, { ...step, values }, tool);
    return {
      volume: (cut.ae * cut.ap * cutting.vf) / 1000,
      power: stepLoad(job, tool, cut, cutting).power,
    };
  };
  const wanted = loadsOf(like);
  return KEPT_LOADS.flatMap((keeps): LoadProposal[] => {
    const load = keeps === 'power' ? Math.min(wanted.power, job.setup.machine.power) : wanted.volume;
    const isWithin = (value: number): boolean => loadsOf({ ...step.values, [key]: value })[keeps] <= load * (1 + 1e-9);
    let [from, to] = [STEP_MM, most];
    if (!isWithin(from)) return [];
    if (isWithin(to)) from = to;
    else
      for (let k = 0; k < HALVINGS; k++) {
        const middle = (from + to) / 2;
        if (isWithin(middle)) from = middle;
        else to = middle;
      }
    const value = Math.floor(from / STEP_MM + 1e-3) * STEP_MM;
    const told = Math.round(value * 100) / 100;
    return Math.abs(told - now) <= SAME_SHARE * now ? [] : [{ keeps, value: told, load }];
  });
}
