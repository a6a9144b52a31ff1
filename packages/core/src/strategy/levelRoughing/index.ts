import { levelsExpected } from './expected';
import { allSteel } from '../../levels/plan';
import { roughingSchema } from '../../levels/values';
import { refusesMilling } from '../../tool/library';
import { defineStep } from '../kind';
import { levelLeaves, levelStairs, linesSentence, ROUGHING_FIELDS, roughingCut, roughingHouse } from './fields';
import { planRoughing, ROUGHING_TASKS } from './planRoughing';

export const levelRoughing = defineStep({
  id: 'level-roughing',
  name: 'Level roughing',
  group: 'open up',
  rival: 'steady-roughing',
  about: 'Level by level from the top, in loops that follow the walls or in straight lines.',
  schema: roughingSchema,
  fields: ROUGHING_FIELDS,
  tasks: ROUGHING_TASKS,
  refuses: refusesMilling,
  house: roughingHouse,
  sentence: (v, tool) =>
    `Opens the block to {sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm} above the part with ` +
    `{assemblyId|${tool}}, {ap|${v.ap} mm} levels, ${linesSentence(v)}` +
    (v.stairs === null ? '.' : `, stairs below {stairs|${v.stairs} mm}.`),
  leaves: levelLeaves,
  stairs: levelStairs,
  cut: (v) => roughingCut('rough', v),
  tolerance: (v) => v.tolerance,
  plan: (context, values) => planRoughing(context, values, allSteel(context)),
  expect: levelsExpected,
});
