import { refusesMilling } from '../../cutter/library';
import type { StepKind } from '../kind';
import { allSteel, planLevels } from './plan';
import { LEVEL_FIELDS, levelHouse, levelSchema, type LevelValues, linesSentence } from './values';

export const levelRoughing: StepKind<LevelValues> = {
  id: 'level-roughing',
  name: 'Level roughing',
  group: 'open up',
  about: 'Level by level from the top, in loops that follow the walls or in straight lines.',
  schema: levelSchema,
  fields: LEVEL_FIELDS,
  refuses: (tool) => refusesMilling(tool.cutter),
  house: levelHouse,
  sentence: (v, tool) =>
    `Opens the block to {sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm} above the part with ` +
    `{assemblyId|${tool}}, {ap|${v.ap} mm} levels, ${linesSentence(v)}` +
    (v.stairs === null ? '.' : `, stairs below {stairs|${v.stairs} mm}.`),
  leaves: (v) => ({
    least: Math.min(v.sideAllowance, v.floorAllowance),
    most: Math.max(v.sideAllowance, v.floorAllowance),
  }),
  stairs: (v) => v.stairs ?? v.ap,
  plan: (context, values) => planLevels(context, values, allSteel(context)),
};
