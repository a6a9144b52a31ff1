import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { EsquisseError } from '../../base/errors';
import { netOver } from '../../field/contactNet';
import { projectNet, projectNetTask } from '../../field/projectNet';
import { sampleNodes, tipRows } from '../../field/sampling';
import { tipGridOver } from '../../field/tipSurface';
import { valleysOf } from '../../field/valleys';
import type { StepContext, StepPlan } from '../../link/context';
import { planAround, workspaceOf } from '../../link/workspace';
import { oneClimb } from '../../passes/climb';
import { leftBySteel, stoppedEnds } from '../../passes/leftBySteel';
import { keepNeckClear } from '../../passes/neck';
import { cutRuns, type GrownPasses } from '../../passes/order';
import { type ScanRun, SurfaceFollower } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';
import { wayRuns } from '../../passes/valleyRuns';
import { machineTask } from '../../simulate/runOver';
import type { ToolShape } from '../../tool/shape';
import { FINISHING_DEPTH } from '../../tool/usual';
import {
  ALLOWANCE,
  finishingHouse,
  finishingLeaves,
  finishingRest,
  finishingSchema,
  MOST_STEEL,
  NEAR_STEPS,
  NOT_BELOW,
  REST_FIELDS,
  tipSpecOf,
  TOLERANCE,
  wantedOf,
  restWords,
} from '../finishing';
import { defineStep } from '../kind';

/** Step of the net on which valleys are looked for, in radii of the cutter's round, and at least so wide, mm. */
const NET_SHARE = 1 / 8;
const FINEST_NET_MM = 0.12;

const WAYS = ['both', 'up', 'down'] as const;
const WAY_WORDS = { both: 'both ways', up: 'upward only', down: 'downward only' } as const;

const valuesSchema = finishingSchema.omit({ bottomAllowance: true, scallop: true }).extend({
  ways: z.enum(WAYS),
  leastLength: z.number().min(0.1).max(1000),
});
type Values = z.infer<typeof valuesSchema>;

const refuses = ({ kind }: Pick<ToolShape, 'kind'>): string | undefined =>
  kind === 'ball' ? undefined : 'Corner tracing wants a ball cutter.';

/** As the other finishing kinds have it. */
const asFinishing = (v: Values) => ({ ...v, bottomAllowance: null, scallop: 0.01 });

export const cornerTracing = defineStep<Values>({
  id: 'corner-tracing',
  name: 'Corner tracing',
  group: 'finish',
  about: 'One pass along each valley in which the ball touches the part on two sides.',
  schema: valuesSchema,
  fields: [
    ALLOWANCE,
    TOLERANCE,
    NOT_BELOW,
    MOST_STEEL,
    ...REST_FIELDS,
    { key: 'leastLength', label: 'Ignore valleys shorter than', section: 'limits', unit: 'mm' },
    {
      key: 'ways',
      label: 'Direction',
      section: 'passes',
      choices: WAYS.map((value) => ({ value, label: WAY_WORDS[value] })),
    },
  ],
  tasks: [tipRows, projectNetTask, machineTask],
  refuses,
  house: (tool) => {
    const { allowance, tolerance, bottom, mostSteel, restOf, restOverlap, restThicker, restBy, leastSteel } =
      finishingHouse(tool);
    return {
      allowance,
      tolerance,
      bottom,
      mostSteel,
      restOf,
      restOverlap,
      restThicker,
      restBy,
      leastSteel,
      ways: 'both',
      leastLength: toThousandth(0.25 * tool.DC),
    };
  },
  sentence: (v, tool) =>
    `Follows valleys with {assemblyId|${tool}} where it touches on two sides, leaving {allowance|${v.allowance} mm}, ` +
    `{ways|${WAY_WORDS[v.ways]}}${restWords(v)}.`,
  leaves: (v) => finishingLeaves(asFinishing(v)),
  rest: (v) => finishingRest(asFinishing(v)),
  lowest: (v) => v.bottom ?? -Infinity,
  cut: (v, tool) => {
    const width = Math.min(v.mostSteel, FINISHING_DEPTH * tool.DC);
    return { cut: 'finish', ae: width, ap: width };
  },
  tolerance: (v) => v.tolerance,
  byFaces: true,
  plan,
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { part, tool, crew, steel } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const spec = tipSpecOf(context, asFinishing(values));
  const { piece } = spec;
  const { bounds, test, begin } = await workspaceOf(context, planAround(part.box, piece.radius + spec.side));
  const grid = tipGridOver(part.box, piece.radius + spec.side, Math.max(FINEST_NET_MM, NET_SHARE * piece.corner));
  await sampleNodes(grid, spec, crew, (share) => context.progress(0.3 * share));
  const net = netOver(grid, piece.corner);
  await projectNet(net, spec, crew, (share) => context.progress(0.3 + 0.5 * share));
  const valleys = valleysOf(net, spec, grid.step, values.tolerance, crew.cancel);
  context.progress(0.9);
  const wanted = wantedOf(context, asFinishing(values), [0, 90]);
  const found = wayRuns(valleys, {
    spec,
    wanted,
    bounds: test,
    steel,
    mostSteel: values.mostSteel,
    lowest: values.bottom ?? -Infinity,
    leastLength: values.leastLength,
  });
  const runs = values.ways === 'both' ? found : oneClimb(found, values.ways, values.tolerance);
  if (runs.length === 0)
    throw new EsquisseError(
      'step-impossible',
      valleys.length === 0
        ? 'There is no valley in which this cutter touches the part on two sides.'
        : 'No valley is left to cut: the limits leave none, or too much steel stands in all of them.',
      valleys.length === 0 ? 'assemblyId' : 'mostSteel',
    );
  const follower = new SurfaceFollower({
    spec,
    bounds,
    stock: steel,
    mostSteel: values.mostSteel,
    lowest: -Infinity,
    tolerance: values.tolerance,
    extension: 0,
    wanted,
    join: 0,
    sideStep: 0,
    lines: [],
  });
  const near = NEAR_STEPS * sideStepFor(piece.corner, values.tolerance);
  const grow = (all: readonly ScanRun[]): GrownPasses =>
    cutRuns(all, values.ways === 'both', near, begin(), follower, context.room.gap);
  const { grown, left } = await keepNeckClear(context, runs, grow);
  return grown.finish([...leftBySteel(stoppedEnds(runs)), ...left]);
}
