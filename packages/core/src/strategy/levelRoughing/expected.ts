import { lowestTip } from '../../levels/heights';
import { heightsOf, highest } from '../../levels/plan';
import type { LevelValues } from '../../levels/values';
import { grown } from '../../tool/profile';
import { cutterProfile } from '../../tool/shape';
import type { Expected, ExpectContext } from '../expected';

/** How many levels there will be, and how far apart: as they are planned, but with the tip looked at coarsely. */
export async function levelsExpected(
  context: ExpectContext,
  values: Omit<LevelValues, 'pattern'>,
): Promise<Expected | undefined> {
  const { steel, part, tool } = context;
  if (!steel) return undefined;
  const grid = await context.tips({ side: values.sideAllowance, floor: values.floorAllowance });
  const lowest = lowestTip(grid, part.box, grown(cutterProfile(tool), values.sideAllowance), () => false);
  const levels = heightsOf({ part, tool, steel }, values, lowest, highest(steel.heights)).filter(
    ({ flat }) => flat === undefined,
  );
  return { levels: { count: levels.length, apart: Math.max(...levels.map(({ z, above }) => above - z)) } };
}
