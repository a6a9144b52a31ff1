import { lowestTip } from '../../levels/heights';
import { heightsOf, highest } from '../../levels/plan';
import { levelsCost, type LevelsCost } from '../../levels/levelsCost';
import type { RoughingValues } from '../../levels/values';
import { steadyLevelsOf } from '../../steady/plan';
import { grown } from '../../tool/profile';
import { cutterProfile } from '../../tool/shape';
import type { TipGrid } from '../../field/tipSurface';
import { levelLines } from '../../levels/plan';
import type { Level } from '../../levels/heights';
import { coarseMap } from '../../steel/coarse';
import type { HeightMap } from '../../steel/heightMap';
import type { Expected, ExpectContext } from '../expected';

/** How many levels there will be, and how far apart: as they are planned, but with the tip looked at coarsely. */
export async function levelsExpected(context: ExpectContext, values: RoughingValues): Promise<Expected | undefined> {
  const { steel, part, tool } = context;
  if (!steel) return undefined;
  const grid = await context.tips({ side: values.sideAllowance, floor: values.floorAllowance });
  const lowest = lowestTip(grid, part.box, grown(cutterProfile(tool), values.sideAllowance), () => false);
  const of = values.pattern === 'steady' ? steadyLevelsOf : heightsOf;
  const all: readonly { z: number; above: number; flat?: number }[] = of(
    { part, tool, steel },
    values,
    lowest,
    highest(steel.heights),
  );
  const levels = all.filter(({ flat }) => flat === undefined);
  const cost = values.pattern === 'steady' ? undefined : await costOf(context, steel, grid, values, levels);
  return {
    ...(cost && { length: cost.length, between: cost }),
    levels: { count: levels.length, apart: Math.max(...levels.map(({ z, above }) => above - z)) },
    planes: [{ normal: [0, 0, 1], at: levels.map(({ z }) => z) }],
  };
}

/** Cells of the steel by which lines are told, as a share of the tip grid's step. */
const CELL_SHARE = 0.5;
/** The lines need be no truer than this to tell their length, mm. */
const TOLERANCE_MM = 0.1;

function costOf(
  { part, tool, bounds, within, crew }: ExpectContext,
  steel: HeightMap,
  grid: TipGrid,
  values: RoughingValues,
  levels: readonly Level[],
): Promise<LevelsCost> {
  const piece = cutterProfile(tool);
  const spec = { mesh: part, piece, side: values.sideAllowance, floor: values.floorAllowance };
  const coarse = coarseMap(steel, Math.max(1, Math.round((CELL_SHARE * grid.step) / steel.cell)));
  const { pattern } = values;
  const lines = levelLines({ ...values, pattern: pattern === 'steady' ? 'auto' : pattern }, piece.radius);
  const input = { ...lines, grid, spec, bounds, within, steel: coarse, tolerance: TOLERANCE_MM };
  return levelsCost(input, levels, values, crew);
}
