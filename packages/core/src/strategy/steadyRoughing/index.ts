import { toThousandth } from '../../base/round';
import { allSteel } from '../../levels/plan';
import { roughingSchema } from '../../levels/values';
import { planSteady } from '../../steady/plan';
import { refusesMilling } from '../../tool/library';
import type { ToolShape } from '../../tool/shape';
import { defineStep, type Field } from '../kind';
import { levelsExpected } from '../levelRoughing/expected';
import { levelLeaves, levelStairs, ROUGHING_FIELDS, roughingHouse } from '../levelRoughing/fields';
import { ROUGHING_TASKS } from '../levelRoughing/planRoughing';

const schema = roughingSchema.omit({
  pattern: true,
  wallLoops: true,
  angleDeg: true,
  cornerRadius: true,
  cornerLoadDeg: true,
  order: true,
  leadRadius: true,
  entry: true,
});
type Values = ReturnType<typeof schema.parse>;

/** Engagement angle of the house value, rad (common practice for a light, even cut at full depth). */
const HOUSE_LOAD = (50 * Math.PI) / 180;
/** Depth of the house value, in diameters (common practice). */
const HOUSE_DEPTH = 1;

const house = (tool: Pick<ToolShape, 'DC' | 'APMX'>): Values =>
  schema.parse({
    ...roughingHouse(tool),
    ap: toThousandth(Math.min(tool.APMX, HOUSE_DEPTH * tool.DC)),
    ae: toThousandth((tool.DC / 2) * (1 - Math.cos(HOUSE_LOAD))),
  });

const REASONS: Readonly<Record<string, string>> = {
  ae: '50° of engagement: ae = DC (1 - cos 50°) / 2 (ISO 3002-3). The path is steered so that the cutter never meets more, in corners neither.',
  ap: 'DC, or the length of the edges: full depth with a small side step uses the whole edge and keeps the chip thin. Levels are evened out.',
  stairs:
    '0.0625 DC. A stair of height h and run d stands h d / sqrt(h² + d²) above the slope (geometry); thicker ones are cut on the way up from each level.',
};

/** Depth and width are others than those of loops: deep and narrow. */
const OWN = ['ap', 'ae'];

const FLATS: Pick<Field, 'label' | 'choices'> = {
  label: 'Heights at flats',
  choices: [
    { value: 'even', label: 'cut on the way up' },
    { value: 'none', label: 'flats not looked at' },
  ],
};

const FIELDS: readonly Field[] = ROUGHING_FIELDS.filter(({ key }) => key in schema.shape).map((field): Field => {
  const plain = { ...field };
  // what depends on the pattern elsewhere is always asked for here
  delete plain.onlyWhen;
  const why = REASONS[field.key];
  return {
    ...plain,
    ...(why ? { why } : {}),
    ...(OWN.includes(field.key) ? { own: true as const } : {}),
    ...(field.key === 'flats' ? FLATS : {}),
  };
});

export const steadyRoughing = defineStep<Values>({
  id: 'steady-roughing',
  name: 'Steady-load roughing',
  group: 'open up',
  rival: 'level-roughing',
  about: 'At full depth, steered so that the cutter never meets more steel than it was asked to; stairs on the way up.',
  schema,
  fields: FIELDS,
  tasks: ROUGHING_TASKS,
  refuses: refusesMilling,
  house,
  sentence: (v, tool) =>
    `Opens the block to {sideAllowance|${v.sideAllowance}} / {floorAllowance|${v.floorAllowance} mm} above the part with ` +
    `{assemblyId|${tool}}, {ap|${v.ap} mm} deep, never wider than {ae|${v.ae} mm}` +
    (v.stairs === null ? '.' : `, stairs below {stairs|${v.stairs} mm}.`),
  leaves: levelLeaves,
  stairs: levelStairs,
  cut: ({ ae, ap }) => ({ cut: 'rough', ae, ap, waysInAir: true }),
  tolerance: (v) => v.tolerance,
  plan: (context, values) => planSteady(context, { ...roughingHouse(context.tool), ...values }, allSteel(context)),
  expect: (context, values) =>
    levelsExpected(context, { ...roughingHouse(context.tool), ...values, pattern: 'steady' }),
});
