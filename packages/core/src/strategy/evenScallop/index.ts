import { z } from 'zod';
import { EsquisseError } from '../../base/errors';
import type { StepContext, StepPlan } from '../../link/context';
import { planAround, workspaceOf } from '../../link/workspace';
import { EVEN_TASKS, evenScallopOver } from '../../passes/evenScallop';
import { evenPattern } from '../../passes/density';
import { keepNeckClear } from '../../passes/neck';
import type { GrownPasses } from '../../passes/order';
import type { ScanRun } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';
import { machineTask } from '../../simulate/runOver';
import type { ToolShape } from '../../tool/shape';
import {
  ALLOWANCE,
  BOTTOM_ALLOWANCE,
  finishingExpected,
  finishingHouse,
  finishingSchema,
  FROM_HEIGHT,
  MOST_STEEL,
  noPass,
  NOT_BELOW,
  PASSES_TELL,
  passesCut,
  REST_FIELDS,
  restWords,
  scallopField,
  SLOPE_FIELDS,
  slopeBand,
  slopeWords,
  tipSpecOf,
  TOLERANCE,
  wantedOf,
} from '../finishing';
import { defineStep } from '../kind';
import { MILLING } from '../levelRoughing/fields';

const ORDERS = ['inward', 'outward'] as const;
const ORDER_WORDS = { inward: 'borders first', outward: 'borders last' };

const valuesSchema = finishingSchema.extend({
  fromSlopeDeg: z.number().min(0).max(90),
  toSlopeDeg: z.number().min(0).max(90),
  top: z.number().min(-10_000).max(10_000).nullable(),
  order: z.enum(ORDERS),
  direction: z.enum(['climb', 'conventional', 'shortest']),
});
type Values = z.infer<typeof valuesSchema>;

const refuses = ({ kind }: Pick<ToolShape, 'kind'>): string | undefined =>
  kind === 'ball' ? undefined : 'Even scallop wants a ball cutter.';

export const evenScallop = defineStep<Values>({
  id: 'even-scallop',
  name: 'Even scallop',
  group: 'finish',
  about: 'Passes side by side along the surface, so that the ridges are of one height on every slope.',
  schema: valuesSchema,
  fields: [
    ALLOWANCE,
    BOTTOM_ALLOWANCE,
    scallopField('On slopes and bends they lie as much nearer or farther as that height wants.'),
    TOLERANCE,
    ...SLOPE_FIELDS,
    FROM_HEIGHT,
    NOT_BELOW,
    MOST_STEEL,
    ...REST_FIELDS,
    {
      key: 'order',
      label: 'Order',
      section: 'passes',
      choices: ORDERS.map((value) => ({ value, label: ORDER_WORDS[value] })),
    },
    MILLING,
  ],
  tasks: [...EVEN_TASKS, machineTask],
  refuses,
  house: (tool) => ({
    ...finishingHouse(tool),
    fromSlopeDeg: 0,
    toSlopeDeg: 90,
    top: null,
    order: 'inward',
    direction: 'climb',
  }),
  sentence: (v, tool) =>
    `Finishes with {assemblyId|${tool}} in passes side by side along the surface, leaving {allowance|${v.allowance} mm} and ` +
    `ridges of {scallop|${v.scallop} mm} on every slope, {order|${ORDER_WORDS[v.order]}}${slopeWords(v)}${restWords(v)}.`,
  ...PASSES_TELL,
  slopes: (v) => [v.fromSlopeDeg, v.toSlopeDeg],
  sideStep: (v, tool) => sideStepFor(tool.RE, v.scallop),
  cut: passesCut,
  plan,
  expect: (context, v) =>
    finishingExpected(context, v, [
      { slopesDeg: [v.fromSlopeDeg, v.toSlopeDeg], pattern: evenPattern(context.tool.RE, v.scallop) },
    ]),
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const refused = refuses(context.tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const wanted = wantedOf(context, values, slopeBand(values), values.top);
  const spec = tipSpecOf(context, values);
  const workspace = await workspaceOf(context, planAround(context.part.box, spec.piece.radius + spec.side));
  const ask = { ...values, spec, wanted, isInward: values.order === 'inward' };
  const even = await evenScallopOver(context, workspace, ask, (share) => context.progress(0.9 * share));
  if (even.runs.length === 0) throw noPass();
  const grow = (all: readonly ScanRun[]): GrownPasses => even.cut(all, workspace.begin());
  const { grown, left } = await keepNeckClear(context, even.runs, grow);
  return grown.finish([...even.left, ...left]);
}
