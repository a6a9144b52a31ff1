import { z } from 'zod';
import { toThousandth } from '../../base/round';
import { EsquisseError } from '../../base/errors';
import { ABOVE_FLAT_MM, flatsOf, type Level } from '../../levels/heights';
import { allSteel, LEVEL_TASKS, planLevels } from '../../levels/plan';
import { levelSchema, type LevelValues } from '../../levels/values';
import type { StepContext, StepPlan } from '../../link/context';
import type { ToolShape } from '../../tool/shape';
import { MOST_STEEL, mostSteelFor, NOT_BELOW } from '../finishing';
import { defineStep, type Field } from '../kind';
import { facesExpected } from '../levelRoughing/expected';
import { LEVEL_FIELDS, levelHouse, linesSentence } from '../levelRoughing/fields';

const valuesSchema = levelSchema
  .pick({
    sideAllowance: true,
    floorAllowance: true,
    tolerance: true,
    ap: true,
    ae: true,
    top: true,
    bottom: true,
    pattern: true,
    angleDeg: true,
    direction: true,
    cornerRadius: true,
    entry: true,
    rampAngleDeg: true,
    leadRadius: true,
    lift: true,
  })
  .extend({
    /** How often each flat is cut, the depths `ap` above one another. */
    cuts: z.number().int().min(1).max(50),
    /** Smaller flats are left, mm². */
    smallestFlat: z.number().min(0).max(1e6),
    mostSteel: z.number().min(0.05).max(50),
  });
type Values = z.infer<typeof valuesSchema>;

/** Fields of roughing that flats have as well. */
const levelFields = (...keys: string[]): readonly Field[] => LEVEL_FIELDS.filter((f) => keys.includes(f.key));

/** Kept off walls, so that their finish is not touched (common practice), mm. */
const OFF_WALLS_MM = 0.1;
/** Heights this near to each other are one, mm. */
const SAME_MM = 1e-3;

const refuses = ({ kind }: Pick<ToolShape, 'kind'>): string | undefined =>
  kind === 'flat' || kind === 'bull' || kind === 'face'
    ? undefined
    : 'Flats want a flat end mill, a bull-nose cutter or a face mill.';

export const flats = defineStep<Values>({
  id: 'flats',
  name: 'Flats',
  group: 'finish',
  about: 'Every level face of the part at its own height, kept off the walls beside it.',
  schema: valuesSchema,
  fields: [
    { key: 'floorAllowance', label: 'Bottom allowance', section: 'aim', unit: 'mm' },
    {
      key: 'sideAllowance',
      label: 'Kept off walls',
      section: 'aim',
      unit: 'mm',
      why: 'So that walls that are finished are not touched again (common practice).',
    },
    ...levelFields('tolerance', 'top'),
    NOT_BELOW,
    { key: 'smallestFlat', label: 'Ignore flats below', section: 'limits', unit: 'mm²' },
    MOST_STEEL,
    {
      key: 'cuts',
      label: 'Cuts of each flat',
      section: 'passes',
      why: 'The last one lies on the flat, the others so many depths above it.',
    },
    ...levelFields('ap', 'ae', 'pattern', 'angleDeg', 'direction', 'cornerRadius'),
    ...levelFields('entry', 'rampAngleDeg', 'leadRadius', 'lift'),
  ],
  tasks: LEVEL_TASKS,
  refuses,
  house: (tool) => {
    const own = levelHouse(tool);
    return {
      sideAllowance: OFF_WALLS_MM,
      floorAllowance: 0,
      tolerance: 0.008,
      ap: 0.2,
      // lines overlap on the flat of the cutter, so that nothing stays between them
      ae: toThousandth(Math.max(0.1 * tool.DC, Math.min(0.7 * tool.DC, tool.DC - 2 * tool.RE))),
      top: null,
      bottom: null,
      pattern: 'auto',
      angleDeg: 0,
      direction: own.direction,
      cornerRadius: own.cornerRadius,
      entry: own.entry,
      rampAngleDeg: own.rampAngleDeg,
      leadRadius: own.leadRadius,
      lift: own.lift,
      cuts: 1,
      smallestFlat: toThousandth(0.25 * tool.DC ** 2),
      mostSteel: mostSteelFor(tool),
    };
  },
  sentence: (v, tool) =>
    `Finishes level faces with {assemblyId|${tool}}, leaving {floorAllowance|${v.floorAllowance} mm}, ` +
    `{sideAllowance|${v.sideAllowance} mm} off the walls, ` +
    `${v.cuts > 1 ? `in {cuts|${v.cuts} cuts} of {ap|${v.ap} mm}, ` : ''}${linesSentence(v)}.`,
  leaves: (v) => ({ least: Math.min(v.floorAllowance, v.sideAllowance), most: v.floorAllowance }),
  ridges: () => 0,
  // level to what the steel's cells can tell
  slopes: () => [0, 0.5],
  lowest: (v) => v.bottom ?? -Infinity,
  highest: (v) => v.top ?? Infinity,
  cut: (v) => ({ cut: 'finish', ae: v.ae, ap: Math.min(v.ap, v.mostSteel) }),
  tolerance: (v) => v.tolerance,
  plan,
  expect: (context, values) =>
    facesExpected(context, levelsOfFlats(context, values), ({ part }, _, lowest) => levelsAt(part, values, lowest)),
});

function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const refused = refuses(context.tool);
  if (refused) throw new EsquisseError('step-impossible', refused, 'assemblyId');
  return planLevels(context, levelsOfFlats(context, values), allSteel(context), ({ part }, _, lowest) =>
    levelsAt(part, values, lowest),
  );
}

const levelsOfFlats = ({ tool }: Pick<StepContext, 'tool'>, values: Values): LevelValues => ({
  ...levelHouse(tool),
  ...values,
  // a skin over a flat is entered wherever the cutter fits
  smallestOpening: tool.DC,
  flats: 'over',
  stairs: null,
  cornerLoadDeg: null,
  order: 'level',
});

/** The cuts of every flat within the heights, from the top down. */
function levelsAt(part: StepContext['part'], values: Values, lowest: number): Level[] {
  const { cuts, ap, floorAllowance, mostSteel } = values;
  const top = values.top ?? Infinity;
  const bottom = Math.max(values.bottom ?? -Infinity, lowest);
  const wanted = flatsOf(part, values.smallestFlat).filter(
    (flat) => flat <= top + SAME_MM && flat + floorAllowance >= bottom - SAME_MM,
  );
  if (wanted.length === 0)
    throw new EsquisseError(
      'step-impossible',
      'No level face of that size lies between the heights where this cutter can reach it.',
      'smallestFlat',
    );
  return wanted
    .flatMap((flat) => {
      const last = flat + floorAllowance + ABOVE_FLAT_MM;
      // what stands too thick for the first cut is left by all of them
      const tallest = last + (cuts - 1) * ap + mostSteel;
      return Array.from({ length: cuts }, (_, k): Level => {
        const z = last + (cuts - 1 - k) * ap;
        return { z, above: k === 0 ? tallest : z + ap, flat, tallest };
      });
    })
    .sort((a, b) => b.z - a.z);
}
