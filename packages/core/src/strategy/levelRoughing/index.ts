import { levelsExpected } from './expected';
import { allSteel, LEVEL_TASKS, planLevels } from '../../levels/plan';
import { levelSchema } from '../../levels/values';
import { refusesMilling } from '../../tool/library';
import { defineStep } from '../kind';
import { LEVEL_FIELDS, levelHouse, levelLeaves, levelStairs, linesSentence } from './fields';

export const levelRoughing = defineStep({
  id: 'level-roughing',
  name: 'Level roughing',
  group: 'open up',
  about: 'Level by level from the top, in loops that follow the walls or in straight lines.',
  schema: levelSchema,
  fields: LEVEL_FIELDS,
  tasks: LEVEL_TASKS,
  refuses: refusesMilling,
  house: levelHouse,
  sentence: (v, tool) =>
    `Opens the block to {sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm} above the part with ` +
    `{assemblyId|${tool}}, {ap|${v.ap} mm} levels, ${linesSentence(v)}` +
    (v.stairs === null ? '.' : `, stairs below {stairs|${v.stairs} mm}.`),
  leaves: levelLeaves,
  stairs: levelStairs,
  cut: ({ ae, ap }) => ({ cut: 'rough', ae, ap }),
  tolerance: (v) => v.tolerance,
  plan: (context, values) => planLevels(context, values, allSteel(context)),
  expect: levelsExpected,
});
