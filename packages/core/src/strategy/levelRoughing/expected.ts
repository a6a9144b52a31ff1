import { lowestTip } from '../../levels/heights';
import { heightsOf, highest } from '../../levels/plan';
import type { RoughingValues } from '../../levels/values';
import { steadyLevelsOf } from '../../steady/plan';
import { grown } from '../../tool/profile';
import { cutterProfile } from '../../tool/shape';
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
  return {
    levels: { count: levels.length, apart: Math.max(...levels.map(({ z, above }) => above - z)) },
    planes: [{ normal: [0, 0, 1], at: levels.map(({ z }) => z) }],
  };
}
