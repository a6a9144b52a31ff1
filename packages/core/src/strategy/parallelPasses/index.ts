import { z } from 'zod';
import { EsquisseError } from '../../base/errors';
import { spansOf } from '../../crew/crew';
import { defineTask } from '../../crew/task';
import { tipRows } from '../../field/sampling';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import { workspaceOf } from '../../link/workspace';
import { cutterProfile, type ToolShape } from '../../tool/shape';
import { machineTask } from '../../simulate/runOver';
import { defineStep } from '../kind';
import { keepNeckClear } from '../../passes/neck';
import { cutRuns, type GrownPasses } from '../../passes/order';
import { type ScanInput, type ScanLine, type ScanRun, scanLines, SurfaceFollower } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';

/** Passes in one piece of work: small enough to call off within 0.2 s. */
const LINES_A_TASK = 6;
/** A neighbouring pass is reached over the surface when its start is nearer than this many side steps. */
const NEAR_STEPS = 3;

/** Depth of a finishing cut as a share of DC: common practice, no source. */
const FINISHING_DEPTH = 0.03;

const valuesSchema = z.object({
  allowance: z.number().min(0).max(20),
  scallop: z.number().min(0.0002).max(2),
  tolerance: z.number().min(0.001).max(0.5),
  bottom: z.number().min(-10_000).max(10_000).nullable(),
  mostSteel: z.number().min(0.05).max(50),
  angleDeg: z.number().min(-360).max(360),
  ways: z.enum(['both', 'one']),
  extension: z.number().min(0).max(50),
});
type Values = z.infer<typeof valuesSchema>;

const round = (value: number): number => Math.round(value * 1000) / 1000;

const scanTask = defineTask('scanLines', scanLines);

const refuses = (tool: Pick<ToolShape, 'kind'>): string | undefined =>
  tool.kind === 'ball' ? undefined : 'Parallel passes want a ball cutter.';

export const parallelPasses = defineStep<Values>({
  id: 'parallel-passes',
  name: 'Parallel passes',
  group: 'finish',
  about: 'A ball cutter follows the part along straight lines in plan, at an even side step.',
  schema: valuesSchema,
  fields: [
    { key: 'allowance', label: 'Allowance', section: 'aim', unit: 'mm' },
    {
      key: 'scallop',
      label: 'Scallop height, level',
      section: 'aim',
      unit: 'mm',
      why: 'Side step s = 2 sqrt(2 R h - h²) on a plane (Pythagoras).',
    },
    { key: 'tolerance', label: 'Path tolerance', section: 'aim', unit: 'mm' },
    { key: 'bottom', label: 'Not below', section: 'limits', unit: 'mm', height: true, whenEmpty: 'the part' },
    {
      key: 'mostSteel',
      label: 'Stock limit',
      section: 'limits',
      unit: 'mm',
      why: '0.25 DC: where more is left, a finishing cutter would be overloaded; those places are listed instead.',
    },
    { key: 'angleDeg', label: 'Angle from X', section: 'passes', unit: '°' },
    {
      key: 'ways',
      label: 'Direction',
      section: 'passes',
      choices: [
        { value: 'both', label: 'both ways' },
        { value: 'one', label: 'one way' },
      ],
    },
    { key: 'extension', label: 'Edge extension', section: 'travel', unit: 'mm' },
  ],
  tasks: [tipRows, scanTask, machineTask],
  refuses,
  house: (tool) => ({
    allowance: 0,
    scallop: 0.01,
    tolerance: 0.01,
    bottom: null,
    mostSteel: round(0.25 * tool.DC),
    angleDeg: 0,
    ways: 'both',
    extension: round(0.2 * tool.DC),
  }),
  sentence: (v, tool) =>
    `Follows the part with {assemblyId|${tool}}, leaving {allowance|${v.allowance} mm} and scallops of ` +
    `{scallop|${v.scallop} mm}, in passes at {angleDeg|${v.angleDeg}°}, {ways|${v.ways === 'both' ? 'both ways' : 'one way'}}.`,
  leaves: (v) => ({ least: v.allowance, most: v.allowance }),
  ridges: (v) => v.scallop,
  lowest: (v) => v.bottom ?? -Infinity,
  sideStep: (v, tool) => sideStepFor(tool.DC / 2, v.scallop),
  cut: (v, tool) => ({
    cut: 'finish',
    ae: sideStepFor(tool.DC / 2, v.scallop),
    ap: Math.min(v.mostSteel, FINISHING_DEPTH * tool.DC),
  }),
  tolerance: (v) => v.tolerance,
  plan,
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { part, tool, crew } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const piece = cutterProfile(tool);
  const step = sideStepFor(tool.DC / 2, values.scallop);
  const { box } = part;
  const margin = piece.radius + 1;
  const plan = {
    minX: box.minX - margin,
    minY: box.minY - margin,
    maxX: box.maxX + margin,
    maxY: box.maxY + margin,
  };
  const { bounds, begin } = await workspaceOf(context, plan);
  const scan: Omit<ScanInput, 'lines'> = {
    spec: { mesh: part, piece, side: values.allowance, floor: values.allowance },
    bounds,
    stock: context.steel,
    mostSteel: values.mostSteel,
    lowest: values.bottom ?? -Infinity,
    tolerance: values.tolerance,
    extension: values.extension,
  };
  const lines = linesOver(context, (values.angleDeg * Math.PI) / 180, step);
  const spans = spansOf(lines.length, Math.ceil(lines.length / LINES_A_TASK));
  const found = await crew.all(
    scanTask,
    spans.map(([from, to]) => ({ ...scan, lines: lines.slice(from, to) })),
    (done) => context.progress((0.95 * done) / spans.length),
  );
  const runs = found.flat();
  if (runs.length === 0)
    throw new EsquisseError(
      'step-impossible',
      'No pass reaches the part: either the limits leave nothing, or too much steel stands everywhere. Open it up first.',
      'mostSteel',
    );
  const follower = new SurfaceFollower({ ...scan, lines: [] });
  const grow = (all: readonly ScanRun[]): GrownPasses =>
    cutRuns(all, values.ways === 'both', NEAR_STEPS * step, begin(), follower);
  const { grown, left } = await keepNeckClear(context, runs, grow);
  return grown.finish([...leftBySteel(runs), ...left]);
}

/** Lines at an angle over the part's plan, `step` apart, the outermost half a step inside. */
function linesOver(context: StepContext, angle: number, step: number): ScanLine[] {
  const { box } = context.part;
  const ux = Math.cos(angle);
  const uy = Math.sin(angle);
  const corners = [
    [box.minX, box.minY],
    [box.maxX, box.minY],
    [box.maxX, box.maxY],
    [box.minX, box.maxY],
  ] as const;
  const across = corners.map(([x, y]) => y * ux - x * uy);
  const along = corners.map(([x, y]) => x * ux + y * uy);
  const margin = context.tool.DC / 2 + 1;
  const low = Math.min(...across);
  const count = Math.max(1, Math.ceil((Math.max(...across) - low) / step));
  const spacing = (Math.max(...across) - low) / count;
  const from = Math.min(...along) - margin;
  const length = Math.max(...along) + margin - from;
  return Array.from({ length: count + 1 }, (_, number) => {
    // the outermost lines stay a hair inside, where the part's border is still below them
    const v = Math.min(Math.max(low + number * spacing, low + 1e-3), low + count * spacing - 1e-3);
    return { number, x: from * ux - v * uy, y: from * uy + v * ux, ux, uy, length };
  });
}

/** One entry for each group of neighbouring passes that were cut short by steel. */
function leftBySteel(runs: readonly ScanRun[]): LeftOut[] {
  const places: LeftOut[] = [];
  for (const run of runs)
    run.stoppedBySteel.forEach((stopped, end) => {
      if (!stopped) return;
      const o = end === 0 ? 0 : run.points.length - 3;
      const [x, y, z] = [run.points[o]!, run.points[o + 1]!, run.points[o + 2]!];
      if (!places.some((p) => Math.hypot(p.x - x, p.y - y) < 12))
        places.push({ why: 'More steel than this cutter may take', x, y, z });
    });
  return places;
}
