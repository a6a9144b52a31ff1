import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { EsquisseError } from '../../base/errors';
import { SAMPLING_TASKS } from '../../field/sampling';
import type { StepContext, StepPlan } from '../../link/context';
import { planAround, type Workspace, workspaceOf } from '../../link/workspace';
import { EVEN_TASKS, type EvenPasses, evenScallopOver } from '../../passes/evenScallop';
import { leftBySteel, stoppedEnds } from '../../passes/leftBySteel';
import { evenPattern, parallelPattern, waterlinePattern } from '../../passes/density';
import { keepNeckClear } from '../../passes/neck';
import { type CutPass, cutRuns, type GrownPasses } from '../../passes/order';
import { angleOf, MOST_HALVINGS, parallelRuns, scanTask } from '../../passes/parallel';
import { type ScanInput, type ScanRun, SurfaceFollower } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';
import { waterlinesTask } from '../../passes/waterlines/curves';
import { waterlinesOver } from '../../passes/waterlines';
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
  RAMP,
  REST_FIELDS,
  tipSpecOf,
  TOLERANCE,
  wantedOf,
  FROM_HEIGHT,
  noPass,
  passesCut,
  refusesOthers,
  restWords,
  scallopField,
} from '../finishing';
import { defineStep } from '../kind';
import { MILLING } from '../levelRoughing/fields';

const ORDERS = ['steep', 'gentle'] as const;
const PATTERNS = ['parallel', 'even'] as const;
const PATTERN_WORDS = { parallel: 'in parallel passes', even: 'side by side along the surface' };

const valuesSchema = finishingSchema.extend({
  /** Steeper ground gets waterlines, gentler ground other passes; degrees. */
  splitDeg: z.number().min(5).max(85),
  /** Slopes this wide about the border get both, degrees. */
  overlapDeg: z.number().min(0).max(30),
  first: z.enum(ORDERS),
  gentle: z.enum(PATTERNS).default('parallel'),
  top: z.number().min(-10_000).max(10_000).nullable(),
  direction: z.enum(['climb', 'conventional', 'shortest']),
  angleDeg: z.number().min(-360).max(360).nullable(),
  overlap: z.number().min(0).max(50),
  rampDeg: z.number().min(1).max(60).nullable().default(null),
  extension: z.number().min(0).max(50),
});
type Values = z.infer<typeof valuesSchema>;

/** Passes over gentle ground are numbered from here on, so that they are told from those of walls. */
const GENTLE_FROM = 1e7;

const refuses = refusesOthers('Slope-split');

export const slopeSplit = defineStep<Values>({
  id: 'slope-split',
  name: 'Slope-split',
  group: 'finish',
  about: 'Waterlines on steep walls and other passes on gentle ground, in one step.',
  schema: valuesSchema,
  fields: [
    ALLOWANCE,
    BOTTOM_ALLOWANCE,
    scallopField('On walls by their heights, on gentle ground by extra passes where it slopes across.'),
    TOLERANCE,
    {
      key: 'splitDeg',
      label: 'Steep from',
      section: 'limits',
      unit: '°',
      why: '40°: above, heights are farther apart than passes in plan would have to be, below it is the other way round (common practice).',
    },
    {
      key: 'overlapDeg',
      label: 'Overlap of slopes',
      section: 'limits',
      unit: '°',
      why: 'Slopes this wide about the border get both kinds of passes, so that no mark stays along it.',
    },
    FROM_HEIGHT,
    NOT_BELOW,
    MOST_STEEL,
    ...REST_FIELDS,
    {
      key: 'first',
      label: 'First',
      section: 'passes',
      choices: [
        { value: 'steep', label: 'steep walls' },
        { value: 'gentle', label: 'gentle ground' },
      ],
    },
    {
      key: 'gentle',
      label: 'On gentle ground',
      section: 'passes',
      choices: PATTERNS.map((value) => ({ value, label: PATTERN_WORDS[value] })),
      why: 'Side by side along the surface keeps ridges of one height on any ground, with a ball; parallel passes look calmer where it is nearly level.',
    },
    MILLING,
    {
      key: 'angleDeg',
      label: 'Angle of gentle passes',
      section: 'passes',
      unit: '°',
      onlyWhen: (v) => v['gentle'] === 'parallel',
      whenEmpty: 'the best',
      why: 'From X. The best: at which the passes lie nearest to one another on the surface, for one distance in plan.',
    },
    RAMP,
    { key: 'overlap', label: 'Overlap at the seam', section: 'travel', unit: 'mm' },
    {
      key: 'extension',
      label: 'Edge extension',
      section: 'travel',
      unit: 'mm',
      onlyWhen: (v) => v['gentle'] === 'parallel',
    },
  ],
  tasks: [...new Set([...SAMPLING_TASKS, waterlinesTask, scanTask, ...EVEN_TASKS, machineTask])],
  refuses,
  house: (tool) => ({
    ...finishingHouse(tool),
    splitDeg: 40,
    overlapDeg: 4,
    first: 'steep',
    gentle: 'parallel',
    top: null,
    direction: 'climb',
    angleDeg: null,
    overlap: toThousandth(Math.max(0.5, 0.1 * tool.DC)),
    rampDeg: 25,
    extension: toThousandth(0.2 * tool.DC),
  }),
  sentence: (v, tool) =>
    `Finishes with {assemblyId|${tool}}, at constant height where it is steeper than {splitDeg|${v.splitDeg}°} and ` +
    `{gentle|${PATTERN_WORDS[v.gentle]}} below, leaving {allowance|${v.allowance} mm} and scallops of {scallop|${v.scallop} mm}` +
    `${restWords(v)}.`,
  ...PASSES_TELL,
  sideStep: (v, tool) => sideStepFor(tool.RE, v.scallop),
  cut: passesCut,
  plan,
  expect: (context, v) => {
    const { RE } = context.tool;
    const gentleTo = v.splitDeg + v.overlapDeg / 2;
    return finishingExpected(context, v, [
      {
        slopesDeg: [0, gentleTo],
        pattern:
          v.gentle === 'even'
            ? evenPattern(RE, v.scallop)
            : parallelPattern(RE, v.scallop, angleOf(context.part, v.angleDeg, gentleTo), MOST_HALVINGS, {
                box: context.part.box,
                extension: 0,
              }),
      },
      { slopesDeg: [v.splitDeg - v.overlapDeg / 2, 90], pattern: waterlinePattern(RE, v.scallop) },
    ]);
  },
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { part, tool } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  if (values.gentle === 'even' && tool.kind !== 'ball')
    throw new EsquisseError('step-impossible', 'Passes side by side along the surface want a ball cutter.', 'gentle');
  const { splitDeg, overlapDeg } = values;
  const spec = tipSpecOf(context, values);
  const workspace = await workspaceOf(context, planAround(part.box, spec.piece.radius + spec.side));
  const steepFrom = Math.max(1, splitDeg - overlapDeg / 2);
  const gentleTo = splitDeg + overlapDeg / 2;
  const walls = await waterlinesOver(
    context,
    workspace,
    { ...values, spec, wanted: wantedOf(context, values, [steepFrom, 90]) },
    (share) => context.progress(0.55 * share),
  );
  const gentle = await (values.gentle === 'even' ? evenly : parallel)(context, workspace, values, gentleTo);
  const gentleRuns = gentle.runs.map((run) => ({ ...run, line: run.line + GENTLE_FROM }));
  if (walls.runs.length + gentleRuns.length === 0) throw noPass();
  const grow = (all: readonly ScanRun[]): GrownPasses => {
    const growing = workspace.begin();
    const isGentle = (run: ScanRun): boolean => run.line >= GENTLE_FROM;
    const own = (run: ScanRun): ScanRun => ({ ...run, line: run.line - GENTLE_FROM });
    const numbered = (pass: CutPass): CutPass => ({
      ...pass,
      run: { ...pass.run, line: pass.run.line + GENTLE_FROM },
    });
    const parts = [
      () =>
        walls.cut(
          all.filter((run) => !isGentle(run)),
          growing,
        ).cut,
      () => gentle.cut(all.filter(isGentle).map(own), growing).cut.map(numbered),
    ];
    if (values.first === 'gentle') parts.reverse();
    return { ...growing, cut: parts.flatMap((part) => part()) };
  };
  const { grown, left } = await keepNeckClear(context, [...walls.runs, ...gentleRuns], grow);
  return grown.finish([...walls.left, ...gentle.left, ...left]);
}

/** Passes over gentle ground up to a slope, degrees. */
type GentlePasses = (
  context: StepContext,
  workspace: Workspace,
  values: Values,
  toSlopeDeg: number,
) => Promise<EvenPasses>;

const evenly: GentlePasses = (context, workspace, values, toSlopeDeg) => {
  const wanted = wantedOf(context, values, [0, toSlopeDeg], values.top);
  return evenScallopOver(
    context,
    workspace,
    { ...values, spec: tipSpecOf(context, values), wanted, isInward: true },
    (share) => context.progress(0.55 + 0.4 * share),
  );
};

const parallel: GentlePasses = async (context, { bounds }, values, toSlopeDeg) => {
  const { part, tool } = context;
  const step = sideStepFor(tool.RE, values.scallop);
  const scan: Omit<ScanInput, 'lines'> = {
    spec: tipSpecOf(context, values),
    bounds,
    stock: context.steel,
    mostSteel: values.mostSteel,
    lowest: values.bottom ?? -Infinity,
    tolerance: values.tolerance,
    extension: values.extension,
    wanted: wantedOf(context, values, [0, toSlopeDeg], values.top),
    join: context.room.gap ?? JOIN_DIAMETERS * tool.DC,
    sideStep: step,
  };
  const angle = angleOf(part, values.angleDeg, toSlopeDeg);
  const runs = await parallelRuns(context, { angle, step, extra: 'between' }, scan, (share) =>
    context.progress(0.55 + 0.4 * share),
  );
  const follower = new SurfaceFollower({ ...scan, lines: [] });
  return {
    runs,
    left: leftBySteel(stoppedEnds(runs)),
    cut: (some, growing) => cutRuns(some, true, NEAR_STEPS * step, growing, follower, context.room.gap),
  };
};
