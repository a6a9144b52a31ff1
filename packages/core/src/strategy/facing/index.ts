import { z } from 'zod';
import { refusesMilling } from '../../tool/library';
import { EsquisseError } from '../../base/errors';
import { ABOVE_FLAT_MM, type Level, levelsOf } from '../../levels/heights';
import { allSteel, heightsOf, highest, LEVEL_TASKS, planLevels } from '../../levels/plan';
import { levelSchema, type LevelValues } from '../../levels/values';
import type { StepContext, StepPlan } from '../../link/context';
import { defineStep, type Field } from '../kind';
import { facesExpected } from '../levelRoughing/expected';
import { LEVEL_FIELDS, levelHouse, linesSentence } from '../levelRoughing/fields';

const valuesSchema = levelSchema
  .pick({ ap: true, ae: true, top: true, pattern: true, angleDeg: true, direction: true, leadRadius: true, lift: true })
  .extend({
    /** Left above the face, mm. */
    allowance: z.number().min(0).max(20),
    /** Height of the face; null: the top of the part. */
    face: z.number().min(-10_000).max(10_000).nullable(),
    /** Depth of the last level alone, mm; null: as the others. */
    lastAp: z.number().min(0.01, 'At least 0.01 mm.').max(50).nullable().default(null),
  });
type Values = z.infer<typeof valuesSchema>;

const OWN_FIELDS: Field[] = [
  { key: 'allowance', label: 'Allowance on the face', section: 'aim', unit: 'mm' },
  { key: 'face', label: 'Face at height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'top of the part' },
];
const LAST_DEPTH: Field = {
  key: 'lastAp',
  label: 'Last depth',
  section: 'passes',
  unit: 'mm',
  whenEmpty: 'as ap',
  why: 'The last level alone: a thin even cut leaves the face flat and bright.',
};
const SHARED = ['top', 'ap', 'ae', 'pattern', 'angleDeg', 'direction', 'leadRadius', 'lift'];

/** Two heights this close are one, mm. */
const SAME_MM = 1e-6;

export const facing = defineStep<Values>({
  id: 'facing',
  name: 'Facing',
  group: 'open up',
  about: 'Takes the block down to one level face, in straight lines or loops from outside.',
  schema: valuesSchema,
  fields: [
    ...OWN_FIELDS,
    ...LEVEL_FIELDS.filter((f) => SHARED.includes(f.key)).flatMap((f) => (f.key === 'ap' ? [f, LAST_DEPTH] : [f])),
  ],
  tasks: LEVEL_TASKS,
  refuses: refusesMilling,
  house: (tool) => {
    const { ap, top, angleDeg, leadRadius, lift } = levelHouse(tool);
    const ae = Math.round(700 * tool.DC) / 1000;
    return {
      allowance: 0,
      face: null,
      lastAp: null,
      top,
      ap,
      ae,
      pattern: 'lines',
      angleDeg,
      direction: 'shortest',
      leadRadius,
      lift,
    };
  },
  sentence: (v, tool) =>
    `Faces with {assemblyId|${tool}} down to ${v.face === null ? '{face|the top of the part}' : `{face|${v.face} mm}`}` +
    `${v.allowance > 0 ? `, leaving {allowance|${v.allowance} mm}` : ''}, in levels of {ap|${v.ap} mm}${v.lastAp === null ? '' : ` and a last one of {lastAp|${v.lastAp} mm}`}, ${linesSentence(v)}.`,
  leaves: (v) => ({ least: v.allowance, most: v.allowance }),
  cut: ({ ae, ap }) => ({ cut: 'rough', ae, ap }),
  plan,
  expect: (context, values) =>
    context.steel && problemOf(context.part.box.maxZ, context.steel.heights, values)
      ? Promise.resolve(undefined)
      : facesExpected(context, levelsOfFace(context, values), heightsWith(values)),
});

function plan(context: StepContext, values: Values): Promise<StepPlan> {
  const problem = problemOf(context.part.box.maxZ, context.steel.heights, values);
  if (problem) throw new EsquisseError('step-impossible', problem, 'face');
  return planLevels(context, levelsOfFace(context, values), allSteel(context), heightsWith(values));
}

/** Why there is nothing to face, in words; undefined where there is. */
function problemOf(top: number, heights: Float32Array, { face, allowance }: Values): string | undefined {
  const at = face ?? top;
  if (at < top - SAME_MM)
    return `The part stands ${(top - at).toFixed(3)} mm higher than the face: face at ${top.toFixed(3)} mm or above, or rough by levels.`;
  if (highest(heights) > at + allowance + SAME_MM) return undefined;
  return `No steel stands above ${(at + allowance).toFixed(3)} mm: there is nothing to face.`;
}

const levelsOfFace = ({ part, tool }: Pick<StepContext, 'part' | 'tool'>, values: Values): LevelValues => ({
  ...levelHouse(tool),
  ...values,
  sideAllowance: 0,
  floorAllowance: values.allowance,
  bottom: (values.face ?? part.box.maxZ) + values.allowance,
  flats: 'none',
  stairs: null,
  cornerRadius: 0,
  cornerLoadDeg: null,
  order: 'level',
});

const heightsWith =
  (values: Values) =>
  (at: Parameters<typeof heightsOf>[0], v: LevelValues, lowest: number, top: number): Level[] =>
    withLast(heightsOf(at, v, lowest, top), top, values);

/** Levels whose last one is as thin as it is asked for; where all of the steel is thinner there is one alone. */
function withLast(levels: readonly Level[], top: number, { ap, lastAp }: Pick<Values, 'ap' | 'lastAp'>): Level[] {
  const last = levels.at(-1);
  if (lastAp === null || !last) return [...levels];
  const from = Math.min(top, levels[0]!.above);
  const low = last.z - ABOVE_FLAT_MM;
  const before = from - low > lastAp + SAME_MM ? levelsOf(from, low + lastAp, ap, [], 'none') : [];
  return [...before, { ...last, above: before.at(-1)?.z ?? from }];
}
