import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { EsquisseError } from '../../base/errors';
import { tipRows } from '../../field/sampling';
import type { StepContext, StepPlan } from '../../link/context';
import { planAround, workspaceOf } from '../../link/workspace';
import { machineTask } from '../../simulate/runOver';
import {
  ALLOWANCE,
  BOTTOM_ALLOWANCE,
  finishingExpected,
  finishingHouse,
  finishingSchema,
  JOIN_DIAMETERS,
  MOST_STEEL,
  NEAR_STEPS,
  NOT_BELOW,
  PASSES_TELL,
  REST_FIELDS,
  tipSpecOf,
  TOLERANCE,
  wantedOf,
  FROM_HEIGHT,
  noPass,
  passesCut,
  refusesOthers,
  restWords,
  SLOPE_FIELDS,
  slopeBand,
  slopeWords,
  scallopField,
} from '../finishing';
import { defineStep } from '../kind';
import { leftBySteel, stoppedEnds } from '../../passes/leftBySteel';
import { parallelPattern } from '../../passes/density';
import { keepNeckClear } from '../../passes/neck';
import { cutRuns, type GrownPasses } from '../../passes/order';
import { oneClimb } from '../../passes/climb';
import { angleOf, EXTRA_PASSES, type ExtraPasses, MOST_HALVINGS, parallelRuns, scanTask } from '../../passes/parallel';
import { type ScanInput, type ScanRun, SurfaceFollower } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';

const WAYS = ['both', 'one', 'climb', 'up', 'down'] as const;

const valuesSchema = finishingSchema.extend({
  fromSlopeDeg: z.number().min(0).max(90).default(0),
  toSlopeDeg: z.number().min(0).max(90).default(90),
  top: z.number().min(-10_000).max(10_000).nullable().default(null),
  /** Direction to X, degrees; null: the best one. */
  angleDeg: z.number().min(-360).max(360).nullable(),
  /** `one`: all the same way, so that the steel stands on the left; `climb`: on the right. */
  ways: z.enum(WAYS),
  extra: z.enum(EXTRA_PASSES).default('none'),
  extension: z.number().min(0).max(50),
});
type Values = z.infer<typeof valuesSchema>;

const WAY_WORDS: Record<Values['ways'], string> = {
  both: 'both ways',
  climb: 'climb',
  one: 'conventional',
  up: 'upward only',
  down: 'downward only',
};
const EXTRA_WORDS: Record<ExtraPasses, string> = { none: 'none', between: 'between the passes', across: 'across them' };

const refuses = refusesOthers('Parallel passes');

export const parallelPasses = defineStep<Values>({
  id: 'parallel-passes',
  name: 'Parallel passes',
  group: 'finish',
  about: 'Follows the part along straight lines in plan, closer where it slopes across them.',
  schema: valuesSchema,
  fields: [
    ALLOWANCE,
    BOTTOM_ALLOWANCE,
    scallopField('A bull-nose leaves at most that, for its corner bends nowhere more.'),
    TOLERANCE,
    ...SLOPE_FIELDS,
    FROM_HEIGHT,
    NOT_BELOW,
    MOST_STEEL,
    ...REST_FIELDS,
    {
      key: 'angleDeg',
      label: 'Angle from X',
      section: 'passes',
      unit: '°',
      whenEmpty: 'the best',
      why: 'The best: at which the passes lie nearest to one another on the surface, for one distance in plan.',
    },
    {
      key: 'ways',
      label: 'Direction',
      section: 'passes',
      choices: WAYS.map((value) => ({ value, label: WAY_WORDS[value] })),
    },
    {
      key: 'extra',
      label: 'Extra passes on slopes',
      section: 'passes',
      choices: EXTRA_PASSES.map((value) => ({ value, label: EXTRA_WORDS[value] })),
      why: 'Where the ground slopes across the passes they lie farther apart on it. Two halvings hold the scallop up to 75°, and bends are taken in.',
    },
    { key: 'extension', label: 'Edge extension', section: 'travel', unit: 'mm' },
  ],
  tasks: [tipRows, scanTask, machineTask],
  refuses,
  house: (tool) => ({
    ...finishingHouse(tool),
    fromSlopeDeg: 0,
    toSlopeDeg: 90,
    top: null,
    angleDeg: 0,
    ways: 'both',
    extra: 'between',
    extension: toThousandth(0.2 * tool.DC),
  }),
  sentence: (v, tool) =>
    `Follows the part with {assemblyId|${tool}}, leaving {allowance|${v.allowance} mm} and scallops of ` +
    `{scallop|${v.scallop} mm}, in passes at {angleDeg|${v.angleDeg === null ? 'the best angle' : `${v.angleDeg}°`}}, ` +
    `{ways|${WAY_WORDS[v.ways]}}${slopeWords(v)}${restWords(v)}.`,
  ...PASSES_TELL,
  slopes: (v) => [v.fromSlopeDeg, v.toSlopeDeg],
  sideStep: (v, tool) => sideStepFor(tool.RE, v.scallop),
  cut: passesCut,
  plan,
  expect: (context, v) =>
    finishingExpected(context, v, [
      {
        slopesDeg: [v.fromSlopeDeg, v.toSlopeDeg],
        pattern: parallelPattern(
          context.tool.RE,
          v.scallop,
          angleOf(context.part, v.angleDeg, v.toSlopeDeg),
          v.extra === 'none' ? 0 : MOST_HALVINGS,
          { box: context.part.box, extension: v.extension },
        ),
      },
    ]),
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { part, tool } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const slopes = slopeBand(values);
  const step = sideStepFor(tool.RE, values.scallop);
  const spec = tipSpecOf(context, values);
  const { bounds, begin } = await workspaceOf(context, planAround(part.box, spec.piece.radius + spec.side));
  const scan: Omit<ScanInput, 'lines'> = {
    spec,
    bounds,
    stock: context.steel,
    mostSteel: values.mostSteel,
    lowest: values.bottom ?? -Infinity,
    tolerance: values.tolerance,
    extension: values.extension,
    wanted: wantedOf(context, values, slopes, values.top),
    join: context.room.gap ?? JOIN_DIAMETERS * tool.DC,
    sideStep: step,
  };
  const angle = angleOf(part, values.angleDeg, values.toSlopeDeg);
  const layout = { angle, step, extra: values.extra, isReversed: values.ways === 'climb' };
  const found = await parallelRuns(context, layout, scan, (share) => context.progress(0.95 * share));
  const { ways } = values;
  const runs = ways === 'up' || ways === 'down' ? oneClimb(found, ways, values.scallop) : found;
  if (runs.length === 0) throw noPass();
  const follower = new SurfaceFollower({ ...scan, lines: [] });
  const grow = (all: readonly ScanRun[]): GrownPasses =>
    cutRuns(all, ways === 'both', NEAR_STEPS * step, begin(), follower, context.room.gap);
  const { grown, left } = await keepNeckClear(context, runs, grow);
  return grown.finish([...leftBySteel(stoppedEnds(runs)), ...left]);
}
