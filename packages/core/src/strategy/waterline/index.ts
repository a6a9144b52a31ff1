import { z } from 'zod';
import { EsquisseError } from '../../base/errors';
import { spansOf } from '../../crew/crew';
import { Buried } from '../../field/buried';
import { SAMPLING_TASKS, sampleTipSurface } from '../../field/sampling';
import { tipGridOver } from '../../field/tipSurface';
import type { LeftOut, StepContext, StepPlan } from '../../link/context';
import { ringOf, workspaceOf } from '../../link/workspace';
import { keepNeckClear } from '../../passes/neck';
import type { GrownPasses } from '../../passes/order';
import { type ScanRun, SurfaceFollower } from '../../passes/scan';
import { sideStepFor } from '../../passes/scallop';
import { machineTask } from '../../simulate/runOver';
import { refusesMilling } from '../../tool/library';
import { cutterProfile, type ToolShape } from '../../tool/shape';
import { defineStep } from '../kind';
import { type Waterline, type WaterlineInput, waterlinesTask } from './curves';
import { cutDown } from './order';

/** Side of a square of the grid that curves are looked for on, mm; openings narrower than that may be missed. */
const GRID_MM = 0.5;
/** Heights that one worker takes at a time: what it learns about walls at one serves the next. */
const BATCH = 6;
/** The axis may run this far outside the part, beyond the cutter's radius, mm. */
const OUTSIDE_MM = 1;
/** The next pass of a wall is reached over the surface when it is nearer than this many steps down, or radii. */
const NEAR_STEPS = 4;
const NEAR_RADII = 0.5;
/** Gaps in a line up to so many diameters are crossed at its height (common practice). */
const GAP_DIAMETERS = 3;
/** Places left out this near to one another are told as one, mm. */
const SAME_PLACE_MM = 12;
/** Distances between heights are halved this often at most. */
const MOST_RANK = 5;
const EPSILON_MM = 1e-6;
/** Sides of part and blank this near to one another are one, mm. */
const SAME_SIDE_MM = 1e-3;
/** The lowest height lies this far above a level floor, mm. */
const ABOVE_FLAT_MM = 1e-4;

const valuesSchema = z.object({
  allowance: z.number().min(0).max(20),
  scallop: z.number().min(0.0002).max(2),
  tolerance: z.number().min(0.001).max(0.5),
  fromSlopeDeg: z.number().min(3).max(90),
  top: z.number().min(-10_000).max(10_000).nullable(),
  bottom: z.number().min(-10_000).max(10_000).nullable(),
  mostSteel: z.number().min(0.05).max(50),
  direction: z.enum(['climb', 'conventional', 'shortest']),
  overlap: z.number().min(0).max(50),
});
type Values = z.infer<typeof valuesSchema>;

const round = (value: number): number => Math.round(value * 1000) / 1000;

const refuses = (tool: Pick<ToolShape, 'kind' | 'RE'>): string | undefined =>
  refusesMilling(tool) ??
  (tool.RE > 0 ? undefined : 'Waterline wants a ball or a corner radius: a sharp corner leaves stairs.');

const WORDS = { climb: 'climb', conventional: 'conventional', shortest: 'both ways' } as const;

export const waterline = defineStep<Values>({
  id: 'waterline',
  name: 'Waterline',
  group: 'finish',
  about: 'Follows steep walls round and round at constant height, the heights closer where the wall is gentler.',
  schema: valuesSchema,
  fields: [
    { key: 'allowance', label: 'Allowance', section: 'aim', unit: 'mm' },
    {
      key: 'scallop',
      label: 'Scallop height',
      section: 'aim',
      unit: 'mm',
      why: 'Along the wall passes lie s = 2 sqrt(2 RE h - h²) apart (Pythagoras), a ball with RE = DC / 2; so heights lie s sin θ apart on a wall of slope θ.',
    },
    { key: 'tolerance', label: 'Path tolerance', section: 'aim', unit: 'mm' },
    {
      key: 'fromSlopeDeg',
      label: 'Walls steeper than',
      section: 'limits',
      unit: '°',
      why: '40°: on gentler ground heights come so close that passes over the surface are shorter (common practice).',
    },
    { key: 'top', label: 'From height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'top of the part' },
    { key: 'bottom', label: 'Not below', section: 'limits', unit: 'mm', height: true, whenEmpty: 'the part' },
    {
      key: 'mostSteel',
      label: 'Stock limit',
      section: 'limits',
      unit: 'mm',
      why: '0.25 DC: where more is left, a finishing cutter would be overloaded; those places are listed instead.',
    },
    {
      key: 'direction',
      label: 'Direction',
      section: 'passes',
      choices: [
        { value: 'climb', label: 'climb' },
        { value: 'conventional', label: 'conventional' },
        { value: 'shortest', label: 'both ways' },
      ],
    },
    { key: 'overlap', label: 'Overlap at the seam', section: 'travel', unit: 'mm' },
  ],
  tasks: [...SAMPLING_TASKS, waterlinesTask, machineTask],
  refuses,
  house: (tool) => ({
    allowance: 0,
    scallop: 0.01,
    tolerance: 0.01,
    fromSlopeDeg: 40,
    top: null,
    bottom: null,
    mostSteel: round(0.25 * tool.DC),
    direction: 'climb',
    overlap: round(Math.max(0.5, 0.1 * tool.DC)),
  }),
  sentence: (v, tool) =>
    `Follows walls steeper than {fromSlopeDeg|${v.fromSlopeDeg}°} with {assemblyId|${tool}} at constant height, leaving ` +
    `{allowance|${v.allowance} mm} and scallops of {scallop|${v.scallop} mm}, {direction|${WORDS[v.direction]}}.`,
  leaves: (v) => ({ least: v.allowance, most: v.allowance }),
  ridges: (v) => v.scallop,
  lowest: (v) => v.bottom ?? -Infinity,
  steepFrom: (v) => v.fromSlopeDeg,
  cut: (v, tool) => ({ cut: 'finish', ae: Math.min(v.mostSteel, 0.03 * tool.DC), ap: sideStepFor(tool.RE, v.scallop) }),
  tolerance: (v) => v.tolerance,
  plan,
});

async function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const { part, tool, crew, steel } = context;
  const refused = refuses(tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  const piece = cutterProfile(tool);
  const spec = { mesh: part, piece, side: values.allowance, floor: values.allowance };
  const { box } = part;
  const margin = piece.radius + values.allowance + OUTSIDE_MM;
  const grid = tipGridOver(box, margin, GRID_MM);
  await sampleTipSurface(grid, spec, crew, (share) => context.progress(0.2 * share));
  const around = { minX: box.minX - margin, minY: box.minY - margin, maxX: box.maxX + margin, maxY: box.maxY + margin };
  const { bounds, begin } = await workspaceOf(context, around);
  const stepDown = sideStepFor(tool.RE, values.scallop);
  const slopeFrom = (values.fromSlopeDeg * Math.PI) / 180;
  const heights = heightsOf(context, values, lowestOver(grid, box), stepDown, slopeFrom);
  const spans = spansOf(heights.length, Math.ceil(heights.length / BATCH));
  const input = {
    grid,
    spec,
    bounds,
    stepDown,
    slopeFrom,
    tolerance: CURVE_SHARE * values.tolerance,
    direction: values.direction,
    within: ringOf(around),
    bare: bareSides(context),
    steel,
    mostSteel: values.mostSteel,
  };
  const found = await crew.all(
    waterlinesTask,
    spans.map(([from, to]) => ({ ...input, heights: heights.slice(from, to) })),
    (done) => context.progress(0.2 + (0.7 * done) / spans.length),
  );
  const lines = found.flat();
  const runs = lines.flatMap(runsOf);
  if (runs.length === 0)
    throw new EsquisseError(
      'step-impossible',
      `No wall steeper than ${values.fromSlopeDeg}° is reached: either there is none within the limits, or too much steel stands everywhere.`,
      'fromSlopeDeg',
    );
  const follower = new SurfaceFollower({
    spec,
    bounds,
    stock: steel,
    mostSteel: values.mostSteel,
    lowest: -Infinity,
    tolerance: values.tolerance,
    extension: 0,
    lines: [],
  });
  const near = Math.max(NEAR_STEPS * stepDown, NEAR_RADII * piece.radius);
  const gap = GAP_DIAMETERS * tool.DC;
  const buried = new Buried(steel, piece, values.mostSteel);
  const isClear = (way: readonly number[]): boolean => {
    for (let k = 3; k < way.length; k += 3) {
      const [ax, ay, az, bx, by, bz] = way.slice(k - 3, k + 3) as [number, number, number, number, number, number];
      const n = Math.max(1, Math.ceil(Math.hypot(bx - ax, by - ay) / steel.cell));
      for (let s = 1; s <= n; s++)
        if (buried.at(ax + (s / n) * (bx - ax), ay + (s / n) * (by - ay), az + (s / n) * (bz - az))) return false;
    }
    return true;
  };
  const grow = (all: readonly ScanRun[]): GrownPasses =>
    cutDown(all, values.direction === 'shortest', { near, gap, overlap: values.overlap, isClear }, begin(), follower);
  const { grown, left } = await keepNeckClear(context, runs, grow);
  return grown.finish([...leftBySteel(lines), ...left]);
}

/** Share of the tolerance that curves are traced with: roots and rounded words take some, and bends that neighbours judge. */
const CURVE_SHARE = 0.75;

/** Tip heights from the top down: a step apart, and in between as often as the gentlest wall wants. */
function heightsOf(
  { part }: StepContext,
  { top, bottom }: Values,
  lowest: number,
  stepDown: number,
  slopeFrom: number,
): { z: number; rank: number }[] {
  const high = Math.min(top ?? Infinity, part.box.maxZ);
  // on a level floor itself every place is as high as the curve
  const low = Math.max(bottom ?? -Infinity, lowest + ABOVE_FLAT_MM);
  if (!(low < high - EPSILON_MM))
    throw new EsquisseError(
      'step-impossible',
      `There is no height to cut: the lowest is ${low.toFixed(3)} mm and the highest ${high.toFixed(3)} mm.`,
      'bottom',
    );
  const count = Math.ceil((high - low) / stepDown - EPSILON_MM);
  // evenly, so that the last one lies at the lowest height
  const step = (high - low) / count;
  const most = Math.min(MOST_RANK, Math.max(0, Math.ceil(Math.log2(1 / Math.sin(slopeFrom)) - EPSILON_MM)));
  const fine = 2 ** most;
  return Array.from({ length: count * fine }, (_, k) => {
    const index = k + 1;
    return { z: high - (index * step) / fine, rank: rankOf(index, most) };
  });
}

/** How often a step was halved for the `index`-th of its 2^most parts. */
function rankOf(index: number, most: number): number {
  let rank = most;
  for (let i = index; rank > 0 && i % 2 === 0; i /= 2) rank--;
  return rank;
}

/** The lowest that the tip comes over the part itself, mm. */
function lowestOver(
  { x0, y0, step, nx, ny, z }: ReturnType<typeof tipGridOver>,
  box: StepContext['part']['box'],
): number {
  let low = Infinity;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const [x, y, h] = [x0 + i * step, y0 + j * step, z[j * nx + i]!];
      if (x > box.minX && x < box.maxX && y > box.minY && y < box.maxY && h > -Infinity && h < low) low = h;
    }
  return Math.max(low, box.minZ);
}

/** Where the part is as wide as the blank there is nothing to be cut on its sides: the axis stays over it there, mm. */
function bareSides({ part: { box }, blank }: StepContext): WaterlineInput['bare'] {
  return {
    minX: blank.minX > box.minX - SAME_SIDE_MM ? box.minX : -Infinity,
    minY: blank.minY > box.minY - SAME_SIDE_MM ? box.minY : -Infinity,
    maxX: blank.maxX < box.maxX + SAME_SIDE_MM ? box.maxX : Infinity,
    maxY: blank.maxY < box.maxY + SAME_SIDE_MM ? box.maxY : Infinity,
  };
}

/** The pieces at a height as passes; of a closed one the first point comes again at its end. */
function runsOf({ z, loops }: Waterline, line: number): ScanRun[] {
  return loops.map(({ points, closed, either }): ScanRun => {
    const n = points.length / 2 + (closed ? 1 : 0);
    const xyz = new Float64Array(3 * n);
    for (let k = 0; k < n; k++) {
      const o = 2 * (k % (points.length / 2));
      xyz.set([points[o]!, points[o + 1]!, z], 3 * k);
    }
    return { line, points: xyz, stoppedBySteel: [false, false], ...(either ? {} : { oneWay: true as const }) };
  });
}

/** One entry for each group of places where passes were cut short by steel. */
function leftBySteel(lines: readonly Waterline[]): LeftOut[] {
  const places: LeftOut[] = [];
  for (const { z: height, stopped } of lines)
    for (const [x, y] of stopped)
      if (!places.some((p) => Math.hypot(p.x - x, p.y - y) < SAME_PLACE_MM))
        places.push({ why: 'More steel than this cutter may take', x, y, z: height });
  return places;
}
