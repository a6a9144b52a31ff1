import { z } from 'zod';
import { EsquisseError } from '../../base/errors';
import { spansOf } from '../../crew/crew';
import { defineTask } from '../../crew/task';
import { tipRows } from '../../field/sampling';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import type { Travel } from '../../link/travel';
import { workspaceOf } from '../../link/workspace';
import { Motion, type PathBuilder } from '../../path/toolpath';
import { cutterProfile, type ToolShape } from '../../tool/shape';
import { defineStep } from '../kind';
import { type ScanInput, type ScanLine, type ScanRun, scanLines, SurfaceFollower } from './scan';
import { sideStepFor } from './scallop';

/** Passes in one piece of work: small enough to call off within 0.2 s. */
const LINES_A_TASK = 6;
/** A neighbouring pass is reached over the surface when its start is nearer than this many side steps. */
const NEAR_STEPS = 3;

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
    { key: 'allowance', label: 'Leave', section: 'aim', unit: 'mm' },
    {
      key: 'scallop',
      label: 'Scallop height on level ground',
      section: 'aim',
      unit: 'mm',
      why: 'Side step s = 2 sqrt(2 R h - h²) on a plane (Pythagoras).',
    },
    { key: 'tolerance', label: 'Tolerance of the path', section: 'aim', unit: 'mm' },
    { key: 'bottom', label: 'Not below', section: 'limits', unit: 'mm', height: true, whenEmpty: 'the part' },
    {
      key: 'mostSteel',
      label: 'Thickest steel',
      section: 'limits',
      unit: 'mm',
      why: '0.25 DC: where more is left, a finishing cutter would be overloaded; those places are listed instead.',
    },
    { key: 'angleDeg', label: 'Angle from X', section: 'passes', unit: '°' },
    {
      key: 'ways',
      label: 'Ways',
      section: 'passes',
      choices: [
        { value: 'both', label: 'to and fro' },
        { value: 'one', label: 'one way' },
      ],
    },
    { key: 'extension', label: 'Past the edges', section: 'travel', unit: 'mm' },
  ],
  tasks: [tipRows, scanTask],
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
    `{scallop|${v.scallop} mm}, in passes at {angleDeg|${v.angleDeg}°}, {ways|${v.ways === 'both' ? 'to and fro' : 'one way'}}.`,
  leaves: (v) => ({ least: v.allowance, most: v.allowance }),
  ridges: (v) => v.scallop,
  sideStep: (v, tool) => sideStepFor(tool.DC / 2, v.scallop),
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
  const { bounds, path, travel, finish } = await workspaceOf(context, plan);
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
  cutRuns(runs, values.ways === 'both', NEAR_STEPS * step, path, travel, follower);
  return finish(leftBySteel(runs));
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

/** Cuts the runs line by line, linking to a near end over the surface, else crossing above the steel. */
function cutRuns(
  runs: ScanRun[],
  bothWays: boolean,
  near: number,
  path: PathBuilder,
  travel: Travel,
  follower: SurfaceFollower,
): void {
  const byLine = new Map<number, ScanRun[]>();
  for (const run of runs) byLine.set(run.line, [...(byLine.get(run.line) ?? []), run]);
  let open = runs.length;
  let line = runs[0]!.line;
  while (open > 0) {
    const at = path.last;
    const next = at ? nearestRun(byLine, line, at, bothWays) : { run: runs[0]!, turned: false, distance: Infinity };
    const rest = byLine.get(next.run.line)!;
    rest.splice(rest.indexOf(next.run), 1);
    if (rest.length === 0) byLine.delete(next.run.line);
    open--;
    line = next.run.line;
    const p = next.turned ? turned(next.run.points) : next.run.points;
    const way = at && next.distance < near ? follower.over(at[0], at[1], at[2], p[0]!, p[1]!, p[2]!) : undefined;
    if (way && follower.isOpen(way)) {
      for (let k = 0; k < way.length; k += 3) path.to(way[k]!, way[k + 1]!, way[k + 2]!, Motion.link);
    } else {
      travel.crossTo(p[0]!, p[1]!, p[2]!);
      path.to(p[0]!, p[1]!, p[2]!, Motion.entry);
    }
    for (let k = 3; k < p.length; k += 3) path.to(p[k]!, p[k + 1]!, p[k + 2]!, Motion.cut);
  }
}

/** The open run whose start is nearest, looking at the lines beside the present one first. */
function nearestRun(
  byLine: Map<number, ScanRun[]>,
  line: number,
  at: readonly [number, number, number],
  bothWays: boolean,
): { run: ScanRun; turned: boolean; distance: number } {
  let best: { run: ScanRun; turned: boolean; distance: number } | undefined;
  let score = Infinity;
  for (const [number, runs] of byLine)
    for (const run of runs) {
      const n = run.points.length;
      const starts: [number, boolean][] = bothWays
        ? [
            [0, false],
            [n - 3, true],
          ]
        : [[0, false]];
      for (const [o, isTurned] of starts) {
        const distance = Math.hypot(run.points[o]! - at[0], run.points[o + 1]! - at[1]);
        // lines left behind come first, so that no strip stays alone in finished ground
        const weighted = distance + (number < line ? 0 : 1e-6);
        if (weighted < score) {
          score = weighted;
          best = { run, turned: isTurned, distance };
        }
      }
    }
  return best!;
}

function turned(points: Float64Array): Float64Array {
  const out = new Float64Array(points.length);
  for (let k = 0; k < points.length; k += 3) out.set(points.subarray(points.length - 3 - k, points.length - k), k);
  return out;
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
