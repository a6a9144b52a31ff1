import type { TipGrid } from '../../field/tipSurface';
import { cellsOver, type Level, lowestTip } from '../../levels/heights';
import { type LevelsCost, levelsCost } from '../../levels/levelsCost';
import { heightsOf, highest, levelLines } from '../../levels/plan';
import type { LevelValues, RoughingValues } from '../../levels/values';
import { steadyLevelsOf } from '../../steady/plan';
import { coarseMap } from '../../steel/coarse';
import type { HeightMap } from '../../steel/heightMap';
import { grown } from '../../tool/profile';
import { cutterProfile } from '../../tool/shape';
import type { Expected, ExpectContext } from '../expected';

/** Levels from the top down, between the lowest that the tip reaches and the highest steel, mm. */
type Heights<V> = (
  at: Pick<ExpectContext, 'part' | 'tool'> & { steel: HeightMap },
  values: V,
  lowest: number,
  highest: number,
) => readonly Level[];

/** How many levels of roughing there will be, how far apart, and what they come to: as they are planned, but with the tip looked at coarsely. */
export async function levelsExpected(context: ExpectContext, values: RoughingValues): Promise<Expected | undefined> {
  const { pattern } = values;
  const found = await levelsAt(context, values, pattern === 'steady' ? steadyLevelsOf : heightsOf);
  if (!found) return undefined;
  const levels = found.levels.filter(({ flat }) => flat === undefined);
  const cost = pattern === 'steady' ? undefined : await costOf(context, found, { ...values, pattern }, levels);
  return {
    ...(cost && { length: cost.length, between: cost }),
    levels: { count: levels.length, apart: Math.max(...levels.map(({ z, above }) => above - z)) },
    planes: [{ normal: [0, 0, 1], at: levels.map(({ z }) => z) }],
  };
}

/** What the lines over faces come to, with the lines themselves. */
export async function facesExpected(
  context: ExpectContext,
  values: LevelValues,
  heights: Heights<LevelValues>,
): Promise<Expected | undefined> {
  const found = await levelsAt(context, values, heights);
  if (!found || found.levels.length === 0) return undefined;
  const cost = await costOf(context, found, values, found.levels);
  return { length: cost.length, between: cost, drawn: cost.drawn };
}

/** The levels, and what they were found on; undefined while the steel is not known. */
interface Found {
  readonly steel: HeightMap;
  readonly grid: TipGrid;
  readonly levels: readonly Level[];
}

async function levelsAt<V extends Pick<LevelValues, 'sideAllowance' | 'floorAllowance'>>(
  context: ExpectContext,
  values: V,
  heights: Heights<V>,
): Promise<Found | undefined> {
  const { steel, part, tool } = context;
  if (!steel) return undefined;
  const grid = await context.tips({ side: values.sideAllowance, floor: values.floorAllowance });
  const lowest = lowestTip(grid, part.box, grown(cutterProfile(tool), values.sideAllowance), () => false);
  return { steel, grid, levels: heights({ part, tool, steel }, values, lowest, highest(steel.heights)) };
}

/** Cells of the steel by which lines are told, as a share of the tip grid's step. */
const CELL_SHARE = 0.5;
/** The lines need be no truer than this to tell their length, mm. */
const TOLERANCE_MM = 0.1;

function costOf(
  { part, tool, bounds, within, crew }: ExpectContext,
  { steel, grid }: Found,
  values: LevelValues,
  levels: readonly Level[],
): Promise<LevelsCost> {
  const piece = cutterProfile(tool);
  const spec = { mesh: part, piece, side: values.sideAllowance, floor: values.floorAllowance };
  const coarse = coarseMap(steel, Math.max(1, Math.round((CELL_SHARE * grid.step) / steel.cell)));
  const lines = levelLines(values, piece.radius);
  const input = { ...lines, grid, spec, bounds, within, steel: coarse, tolerance: TOLERANCE_MM };
  const held = levels.map((level) => {
    if (level.flat === undefined) return level;
    const only = cellsOver(part, level.flat, coarse);
    // where too much steel stands nothing is cut
    const { tallest = Infinity } = level;
    for (let o = 0; o < only.length; o++) if (coarse.heights[o]! > tallest) only[o] = 0;
    return { ...level, only };
  });
  return levelsCost(input, held, values, crew);
}
