import { z } from 'zod';
import { cutterProfile, refusesMilling } from '../../cutter/library';
import { EsquisseError } from '../../errors';
import { feedsOf, travelTool } from '../../path/forTool';
import { PathBuilder } from '../../path/toolpath';
import { Travel } from '../../path/travel';
import { spansOf } from '../../plan/crew';
import { tipGridOver, TipSurface } from '../../region/tipSurface';
import { coarseMap } from '../../stock/coarse';
import type { HeightMap } from '../../stock/heightMap';
import type { StepContext, StepKind, StepPlan } from '../kind';
import { LevelCutter } from './cutting';
import { flatsOf, levelHeights, lowestTip } from './heights';

/**
 * Step of the grid on which level curves are looked for, mm. What stands up in the part shows at least as wide as the
 * cutter's flat, so a wide flat allows a wider step; islands and openings below it can be missed.
 */
const GRID_MM = 0.5;
const WIDEST_GRID_MM = 0.8;
/** How far outside the block the axis may run, beyond the cutter's radius, mm. */
const OUTSIDE_MM = 1;
/** Cells of the coarse map by which entries and links are planned, in cells of the stock. */
const COARSE = 2;
/** Levels that one worker takes at a time: what it learns about the walls at one serves the next. */
const BATCH = 4;

export const levelRoughingSchema = z.object({
  sideAllowance: z.number().min(0).max(20),
  floorAllowance: z.number().min(0).max(20),
  ap: z.number().min(0.01).max(100),
  ae: z.number().min(0.01).max(200),
  top: z.number().min(-10_000).max(10_000).nullable(),
  bottom: z.number().min(-10_000).max(10_000).nullable(),
  direction: z.enum(['climb', 'conventional']),
  rampAngleDeg: z.number().min(0.1).max(30),
  smallestOpening: z.number().min(0).max(1000),
});
type Values = z.infer<typeof levelRoughingSchema>;

const round = (value: number): number => Math.round(value * 1000) / 1000;

export const levelRoughing: StepKind<Values> = {
  id: 'level-roughing',
  name: 'Level roughing',
  group: 'open up',
  about: 'Level by level from the top, in loops that follow the walls at an even side step.',
  schema: levelRoughingSchema,
  fields: [
    { key: 'sideAllowance', label: 'Leave on walls', section: 'aim', unit: 'mm' },
    { key: 'floorAllowance', label: 'Leave on floors', section: 'aim', unit: 'mm' },
    { key: 'top', label: 'From height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'top of the steel' },
    { key: 'bottom', label: 'Down to height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'lowest floor' },
    {
      key: 'ap',
      label: 'Depth a level, ap',
      section: 'passes',
      unit: 'mm',
      why: '0.125 DC: common practice for roughing hardened steel with a side step below half the diameter.',
    },
    {
      key: 'ae',
      label: 'Side step, ae',
      section: 'passes',
      unit: 'mm',
      why: '0.45 DC: engagement angle arccos(1 - 2 ae/DC) = 84° (ISO 3002-3), below a half turn even in corners.',
    },
    {
      key: 'direction',
      label: 'Milling',
      section: 'passes',
      choices: [
        { value: 'climb', label: 'climb' },
        { value: 'conventional', label: 'conventional' },
      ],
    },
    { key: 'rampAngleDeg', label: 'Helix angle', section: 'travel', unit: '°' },
    {
      key: 'smallestOpening',
      label: 'Smallest opening entered',
      section: 'travel',
      unit: 'mm',
      why: '1.4 DC: a helix of 0.2 DC radius still leaves chips a way out (common practice).',
    },
  ],
  refuses: (tool) => refusesMilling(tool.cutter),
  house: (tool) => ({
    sideAllowance: 0.4,
    floorAllowance: 0.3,
    ap: round(0.125 * tool.cutter.DC),
    ae: round(0.45 * tool.cutter.DC),
    top: null,
    bottom: null,
    direction: 'climb',
    rampAngleDeg: 2,
    smallestOpening: round(1.4 * tool.cutter.DC),
  }),
  sentence: (v, tool) =>
    `Opens the block to {sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm} above the part with ` +
    `{assemblyId|${tool}}, {ap|${v.ap} mm} levels, loops {ae|${v.ae} mm} apart, {direction|${v.direction}}, ` +
    `entering by helix at {rampAngleDeg|${v.rampAngleDeg}°}.`,
  leaves: (v) => ({
    least: Math.min(v.sideAllowance, v.floorAllowance),
    most: Math.max(v.sideAllowance, v.floorAllowance),
  }),
  plan: (context, values) => planLevels(context, values, context.stock),
};

/**
 * Levels from the top down.
 *
 * @param toCut steel that is to be cut: the stock, or only where it stands in a region
 */
export async function planLevels(context: StepContext, values: Values, toCut: HeightMap): Promise<StepPlan> {
  const { part, tool, stock, crew } = context;
  const piece = cutterProfile(tool.cutter);
  const spec = { mesh: part, piece, side: values.sideAllowance, floor: values.floorAllowance };
  const surface = new TipSurface(spec);
  const grid = tipGridOver(part.box, surface.reach + 1, Math.min(WIDEST_GRID_MM, Math.max(GRID_MM, piece.flat / 4)));
  await crew.all(
    'tipRows',
    spansOf(grid.ny, 24).map((rows) => ({ grid, spec, rows })),
    (done) => context.progress((0.3 * done) / 24),
  );
  const steel = coarseMap(toCut, COARSE);
  const levels = heightsOf(context, values, lowestTip(grid, part.box), highest(toCut.heights));
  const batches = spansOf(levels.length, Math.ceil(levels.length / BATCH));
  const loops = await crew.all(
    'levelLoops',
    batches.map(([from, to]) => ({
      grid,
      spec,
      levels: levels.slice(from, to),
      ae: values.ae,
      within: planOutside(context, piece.radius + OUTSIDE_MM),
      outside: OUTSIDE_MM,
      steel,
      radius: piece.radius,
      climb: values.direction === 'climb',
    })),
    (done) => context.progress(0.3 + (0.6 * done) / batches.length),
  );
  const path = new PathBuilder(feedsOf(tool));
  const travel = new Travel(path, coarseMap(stock, COARSE), travelTool(tool), context.safeZ);
  const cutter = new LevelCutter(path, travel, surface, piece, values);
  loops.flat().forEach((level, k) => {
    crew.cancel.check();
    cutter.level(level, k === 0 ? highest(steel.heights) : levels[k - 1]!);
  });
  travel.leave();
  return { path: path.build(), leftOut: cutter.leftOut };
}

function heightsOf(context: StepContext, values: Values, lowest: number, highest: number): number[] {
  const top = Math.min(values.top ?? Infinity, highest);
  const bottom = Math.max(values.bottom ?? -Infinity, lowest, context.stock.floor);
  if (!(bottom < top))
    throw new EsquisseError(
      'step-impossible',
      Number.isFinite(bottom)
        ? `There is no level to cut: the lowest height is ${bottom.toFixed(3)} mm and the highest ${top.toFixed(3)} mm.`
        : 'The cutter does not fit anywhere over the part with this allowance.',
      'bottom',
    );
  const smallestFlat = (0.5 * context.tool.cutter.DC) ** 2;
  const flats = flatsOf(context.part, smallestFlat).map((z) => z + values.floorAllowance);
  return levelHeights(top, bottom, values.ap, flats);
}

function highest(heights: Float32Array): number {
  let top = -Infinity;
  for (const h of heights) if (h > top) top = h;
  return top;
}

/** The block's plan grown by `by` mm: where the axis may be, counter-clockwise. */
function planOutside(context: StepContext, by: number): Float64Array {
  const { x0, y0, cell, nx, ny } = context.stock;
  const [a, b, c, d] = [x0 - by, y0 - by, x0 + nx * cell + by, y0 + ny * cell + by];
  return Float64Array.from([a, b, c, b, c, d, a, d]);
}
