import { z } from 'zod';
import { EsquisseError } from '../../errors';
import { restRegion } from '../../stock/restRegion';
import type { Field, StepContext, StepKind, StepPlan } from '../kind';
import { levelRoughing } from '../levelRoughing';
import { planLevels } from '../levelRoughing/plan';
import { LEVEL_FIELDS, levelHouse, levelSchema, linesSentence } from '../levelRoughing/values';

const valuesSchema = levelSchema.extend({
  threshold: z.number().min(0.005).max(50),
  grow: z.number().min(0).max(50),
  smallestArea: z.number().min(0).max(10_000),
});
type Values = z.infer<typeof valuesSchema>;

const round = (value: number): number => Math.round(value * 1000) / 1000;

const OWN_FIELDS: Field[] = [
  {
    key: 'threshold',
    label: 'Only where more is left, above the allowance',
    section: 'limits',
    unit: 'mm',
    why: 'The allowance is taken off first. 0.1 mm: tolerances of two roughing steps and a share of the stock cell (common practice).',
  },
  { key: 'grow', label: 'Region wider by', section: 'limits', unit: 'mm' },
  { key: 'smallestArea', label: 'Pieces left out below, mm²', section: 'limits' },
];

export const restRoughing: StepKind<Values> = {
  id: 'rest-roughing',
  name: 'Rest roughing',
  group: 'clean up',
  about: 'Level by level, only where earlier steps left more steel than a threshold above the allowance.',
  schema: valuesSchema,
  fields: [...LEVEL_FIELDS, ...OWN_FIELDS],
  refuses: levelRoughing.refuses,
  house: (tool) => ({
    ...levelHouse(tool),
    threshold: 0.1,
    grow: round(0.1 * tool.cutter.DC),
    smallestArea: 1,
  }),
  sentence: (v, tool) =>
    `Clears with {assemblyId|${tool}} only what stands more than {threshold|${v.threshold} mm} above the allowance of ` +
    `{sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm}, in {ap|${v.ap} mm} levels, ` +
    `${linesSentence(v)}.`,
  leaves: levelRoughing.leaves,
  plan,
};

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const region = restRegion(
    context.stock,
    await context.leftover(),
    Math.max(values.sideAllowance, values.floorAllowance),
    values.threshold,
    values.grow,
    values.smallestArea,
  );
  if (region.area === 0)
    throw new EsquisseError(
      'step-impossible',
      `Nowhere does more than ${values.threshold} mm stand above the allowance: there is nothing left for this step. Lower the threshold or remove the step.`,
      'threshold',
    );
  return planLevels(context, values, region.map);
}
