import { LEVEL_TASKS, planLevels, type SteelToCut } from '../../levels/plan';
import type { RoughingValues } from '../../levels/values';
import type { StepContext, StepPlan } from '../../link/context';
import { planSteady, STEADY_TASKS } from '../../steady/plan';

/** What planning roughing in any pattern hands to the crew. */
export const ROUGHING_TASKS = [...LEVEL_TASKS, ...STEADY_TASKS] as const;

/** Levels in loops, in lines or in passes of steady load. */
export function planRoughing(
  context: StepContext,
  { pattern, ...values }: RoughingValues,
  steelToCut: () => Promise<SteelToCut>,
): Promise<StepPlan> {
  return pattern === 'steady'
    ? planSteady(context, { ...values, entry: 'helix' }, steelToCut)
    : planLevels(context, { ...values, pattern }, steelToCut);
}
