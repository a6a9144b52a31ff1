import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { defineTask } from '../../crew/task';
import { lowerToReach } from '../../field/reach';
import type { TipSurfaceSpec } from '../../field/tipSurface';
import type { StepContext, StepPlan } from '../../link/context';
import { refusesMilling } from '../../tool/library';
import { cutterProfile } from '../../tool/shape';
import { EsquisseError } from '../../base/errors';
import { spansOf } from '../../crew/crew';
import { copyMap, type HeightMap } from '../../steel/heightMap';
import { leastThreshold, type RestRegion, restRegion } from '../../steel/restRegion';
import { roughingSchema } from '../../levels/values';
import { defineStep, type Field } from '../kind';
import {
  levelLeaves,
  levelStairs,
  linesSentence,
  ROUGHING_FIELDS,
  roughingCut,
  roughingHouse,
} from '../levelRoughing/fields';
import { planRoughing, ROUGHING_TASKS } from '../levelRoughing/planRoughing';

const REACH_SPANS = 24;
/** Offered thresholds are rounded up to this, mm. */
const STAIR_ROUND_MM = 0.01;

const valuesSchema = roughingSchema.extend({
  /** Steel more than this above the allowance is cut, mm; null: {@link leastThreshold}. */
  threshold: z.number().min(0.005).max(50).nullable(),
  grow: z.number().min(0).max(50),
  smallestArea: z.number().min(0).max(10_000),
  /** Assembly after which the steel is taken to be; null: the steel as it is. */
  after: z.string().max(60).nullable().default(null),
  /** What that one left on walls and floors, mm. */
  afterSide: z.number().min(0).max(20).default(0.4),
  afterFloor: z.number().min(0).max(20).default(0.3),
});
type Values = z.infer<typeof valuesSchema>;

const isAfter = (values: Readonly<Record<string, unknown>>): boolean => values['after'] !== null;

const OWN_FIELDS: Field[] = [
  { key: 'after', label: 'Rest from', section: 'limits', assembly: true, whenEmpty: 'the steel as it is' },
  { key: 'afterSide', label: 'Its side allowance', section: 'limits', unit: 'mm', onlyWhen: isAfter },
  { key: 'afterFloor', label: 'Its bottom allowance', section: 'limits', unit: 'mm', onlyWhen: isAfter },
  {
    key: 'threshold',
    label: 'Rest thickness above the allowance',
    section: 'limits',
    unit: 'mm',
    whenEmpty: 'what is surely left',
    why: 'Above the allowance, which is taken off first. Empty: the tolerances of both steps’ paths and 0.35 of a cell of the stock.',
  },
  { key: 'grow', label: 'Region extension', section: 'limits', unit: 'mm' },
  { key: 'smallestArea', label: 'Ignore areas below', section: 'limits', unit: 'mm²' },
];

/** Lowers rows of steel to what a cutter could have left there. */
const lowerRows = defineTask(
  'lowerToReach',
  ({ map, spec, rows }: { map: HeightMap; spec: TipSurfaceSpec; rows: [number, number] }, cancel): void =>
    lowerToReach(map, spec, rows, cancel),
);

export const restRoughing = defineStep<Values>({
  id: 'rest-roughing',
  name: 'Rest roughing',
  group: 'clean up',
  about: 'Level by level, only where earlier steps left more steel than a threshold above the allowance.',
  schema: valuesSchema,
  fields: [...ROUGHING_FIELDS, ...OWN_FIELDS],
  tasks: [...ROUGHING_TASKS, lowerRows],
  refuses: refusesMilling,
  house: (tool) => ({
    ...roughingHouse(tool),
    threshold: null,
    grow: toThousandth(0.1 * tool.DC),
    smallestArea: 1,
    after: null,
    afterSide: 0.4,
    afterFloor: 0.3,
  }),
  sentence: (v, tool) =>
    `Clears with {assemblyId|${tool}} only what stands more than ` +
    `${v.threshold === null ? '{threshold|can be told}' : `{threshold|${v.threshold} mm}`} above the allowance of ` +
    `{sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm}` +
    `${v.after === null ? '' : ', {after|as after an earlier cutter}'}, in {ap|${v.ap} mm} levels, ${linesSentence(v)}.`,
  leaves: levelLeaves,
  staysUnder: ({ threshold, sideAllowance, floorAllowance }) =>
    threshold === null ? undefined : { allowance: Math.max(sideAllowance, floorAllowance), threshold },
  stairs: levelStairs,
  cut: (v) => roughingCut('rest', v),
  tolerance: (v) => v.tolerance,
  plan,
  region,
});

function plan(context: StepContext, values: Values): Promise<StepPlan> {
  return planRoughing(context, values, async () => {
    const { area, threshold, stock, map } = await region(context, values);
    if (area === 0)
      throw new EsquisseError(
        'step-impossible',
        `Nowhere does more than ${threshold.toFixed(3)} mm stand above the allowance: there is nothing left for this step. Lower the threshold or remove the step.`,
        'threshold',
      );
    return { stock, toCut: map };
  });
}

/** Where too much is left, in the steel as it is or as an earlier cutter would have left it. */
async function region(context: StepContext, values: Values): Promise<RestRegion> {
  const threshold = values.threshold ?? leastThreshold(context.steel.cell, values.tolerance + context.toleranceBefore);
  const stock = values.after === null ? context.steel : await steelAfter(context, values, values.after);
  const leftover = values.after === null ? await context.leftover() : await context.leftoverOf(stock);
  const allowance = Math.max(values.sideAllowance, values.floorAllowance);
  const found = restRegion(stock, leftover, allowance, threshold, values.grow, values.smallestArea);
  // as after a named cutter there are no stairs in the steel
  const stairs = values.after === null ? context.promisedBefore - allowance : 0;
  return stairs > threshold ? { ...found, stairs: stairsIn(found, leftover, allowance, stairs) } : found;
}

/** How much of a region is stairs that the steps before left on purpose, and the threshold that leaves them. */
function stairsIn(
  { area, threshold, stock: { cell } }: RestRegion,
  leftover: Float32Array,
  allowance: number,
  most: number,
) {
  const above = Math.ceil((most + threshold) / STAIR_ROUND_MM) / Math.round(1 / STAIR_ROUND_MM);
  let thicker = 0;
  for (const left of leftover) if (left - allowance > above) thicker++;
  return { most, area: Math.max(0, area - thicker * cell * cell), threshold: above };
}

/** The steel before the step, lowered to what a named cutter could have left. */
async function steelAfter(context: StepContext, values: Values, assemblyId: string): Promise<HeightMap> {
  const tool = context.shapeNamed(assemblyId);
  const refused = tool ? refusesMilling(tool) : 'It is not in the crib any more.';
  if (!tool || refused)
    throw new EsquisseError('step-impossible', `The earlier cutter cannot be one that roughed: ${refused}`, 'after');
  const map = copyMap(context.steel);
  const spec = {
    mesh: context.part,
    piece: cutterProfile(tool),
    side: values.afterSide,
    floor: values.afterFloor,
  };
  await context.crew.all(
    lowerRows,
    spansOf(map.ny, REACH_SPANS).map((rows) => ({ map, spec, rows })),
  );
  return map;
}
