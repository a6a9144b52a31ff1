import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { EsquisseError } from '../../base/errors';
import { SAMPLING_TASKS } from '../../field/sampling';
import type { StepContext, StepPlan } from '../../link/context';
import { planAround, workspaceOf } from '../../link/workspace';
import { waterlinePattern } from '../../passes/density';
import { keepNeckClear } from '../../passes/neck';
import type { GrownPasses } from '../../passes/order';
import type { ScanRun } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';
import { waterlinesTask } from '../../passes/waterlines/curves';
import { waterlinesOver } from '../../passes/waterlines';
import { machineTask } from '../../simulate/runOver';
import { FINISHING_DEPTH } from '../../tool/usual';
import {
  ALLOWANCE,
  BOTTOM_ALLOWANCE,
  finishingExpected,
  finishingHouse,
  finishingSchema,
  MOST_STEEL,
  NOT_BELOW,
  PASSES_TELL,
  RAMP,
  REST_FIELDS,
  tipSpecOf,
  TOLERANCE,
  wantedOf,
  FROM_HEIGHT,
  refusesOthers,
  restWords,
  scallopField,
} from '../finishing';
import { defineStep } from '../kind';
import { MILLING } from '../levelRoughing/fields';

const valuesSchema = finishingSchema.extend({
  fromSlopeDeg: z.number().min(3).max(90),
  top: z.number().min(-10_000).max(10_000).nullable(),
  direction: z.enum(['climb', 'conventional', 'shortest']),
  overlap: z.number().min(0).max(50),
  rampDeg: z.number().min(1).max(60).nullable().default(null),
});
type Values = z.infer<typeof valuesSchema>;

const refuses = refusesOthers('Waterline');

const WORDS = { climb: 'climb', conventional: 'conventional', shortest: 'both ways' } as const;

export const waterline = defineStep<Values>({
  id: 'waterline',
  name: 'Waterline',
  group: 'finish',
  about: 'Follows steep walls round and round at constant height, the heights closer where the wall is gentler.',
  schema: valuesSchema,
  fields: [
    ALLOWANCE,
    BOTTOM_ALLOWANCE,
    scallopField('So heights lie s sin θ apart on a wall of slope θ.', 'Heights apart on an upright wall'),
    TOLERANCE,
    {
      key: 'fromSlopeDeg',
      label: 'Walls steeper than',
      section: 'limits',
      unit: '°',
      why: '40°: on gentler ground heights come so close that passes over the surface are shorter (common practice).',
    },
    FROM_HEIGHT,
    NOT_BELOW,
    MOST_STEEL,
    ...REST_FIELDS,
    MILLING,
    RAMP,
    { key: 'overlap', label: 'Overlap at the seam', section: 'travel', unit: 'mm' },
  ],
  tasks: [...SAMPLING_TASKS, waterlinesTask, machineTask],
  refuses,
  house: (tool) => ({
    ...finishingHouse(tool),
    fromSlopeDeg: 40,
    top: null,
    direction: 'climb',
    overlap: toThousandth(Math.max(0.5, 0.1 * tool.DC)),
    rampDeg: 25,
  }),
  sentence: (v, tool) =>
    `Follows walls steeper than {fromSlopeDeg|${v.fromSlopeDeg}°} with {assemblyId|${tool}} at constant height, leaving ` +
    `{allowance|${v.allowance} mm} and scallops of {scallop|${v.scallop} mm}, {direction|${WORDS[v.direction]}}` +
    `${restWords(v)}.`,
  ...PASSES_TELL,
  slopes: (v) => [v.fromSlopeDeg, 90],
  cut: (v, tool) => ({
    cut: 'finish',
    ae: Math.min(v.mostSteel, FINISHING_DEPTH * tool.DC),
    ap: sideStepFor(tool.RE, v.scallop),
  }),
  plan,
  expect: (context, v) =>
    finishingExpected(context, v, [
      { slopesDeg: [v.fromSlopeDeg, 90], pattern: waterlinePattern(context.tool.RE, v.scallop) },
    ]),
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { tool } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const spec = tipSpecOf(context, values);
  const workspace = await workspaceOf(context, planAround(context.part.box, spec.piece.radius + spec.side));
  const ask = { ...values, spec, wanted: wantedOf(context, values, [values.fromSlopeDeg, 90]) };
  const walls = await waterlinesOver(context, workspace, ask, (share) => context.progress(0.9 * share));
  if (walls.runs.length === 0)
    throw new EsquisseError(
      'step-impossible',
      `No wall steeper than ${values.fromSlopeDeg}° is reached: either there is none between the heights and within the limits, or too much steel stands everywhere.`,
      'fromSlopeDeg',
    );
  const grow = (all: readonly ScanRun[]): GrownPasses => walls.cut(all, workspace.begin());
  const { grown, left } = await keepNeckClear(context, walls.runs, grow);
  return grown.finish([...walls.left, ...left]);
}
