import { toThousandth } from '../../base/round';
import type { LevelValues, RoughingValues } from '../../levels/values';
import type { CutOf } from '../../tool/cuts';
import type { ToolShape } from '../../tool/shape';
import type { Field, Values } from '../kind';

/** Which side of the cutter meets the steel. */
export const MILLING: Field = {
  key: 'direction',
  label: 'Milling',
  section: 'passes',
  choices: [
    { value: 'climb', label: 'climb' },
    { value: 'conventional', label: 'conventional' },
    { value: 'shortest', label: 'whichever way is shorter' },
  ],
};

export const LEVEL_FIELDS: readonly Field[] = [
  { key: 'sideAllowance', label: 'Side allowance', section: 'aim', unit: 'mm', means: 'side allowance' },
  { key: 'floorAllowance', label: 'Bottom allowance', section: 'aim', unit: 'mm' },
  {
    key: 'tolerance',
    label: 'Path tolerance',
    section: 'aim',
    unit: 'mm',
    why: '0.02 mm, a small share of what is left (common practice). Where nothing or little is left, paths are never off by more than 0.008 mm and that.',
  },
  {
    key: 'stairs',
    label: 'Largest stair',
    section: 'aim',
    unit: 'mm',
    whenEmpty: 'as the levels leave them',
    why: 'Half of ap. A stair of height h and run d stands h d / sqrt(h² + d²) above the slope (geometry); thicker ones are cut again on the way up.',
  },
  { key: 'top', label: 'From height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'top of the steel' },
  { key: 'bottom', label: 'Down to height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'lowest floor' },
  {
    key: 'ap',
    boundBy: 'mostAp',
    label: 'Axial depth ap',
    section: 'passes',
    unit: 'mm',
    why: '0.125 DC: common practice for roughing hardened steel with a side step below half the diameter.',
  },
  {
    key: 'firstAp',
    boundBy: 'mostAp',
    label: 'First depth',
    section: 'passes',
    unit: 'mm',
    whenEmpty: 'as ap',
    why: 'The first level alone: below a cast or forged skin, or shallow into a raw top.',
  },
  {
    key: 'flats',
    label: 'Levels at flats',
    section: 'passes',
    choices: [
      { value: 'even', label: 'evened out between flats' },
      { value: 'added', label: 'ap, one more at each flat' },
      { value: 'over', label: 'ap, one more over each flat only' },
      { value: 'none', label: 'ap, flats not looked at' },
    ],
  },
  {
    key: 'ae',
    boundBy: 'mostAe',
    label: 'Radial depth ae',
    section: 'passes',
    unit: 'mm',
    why: '0.45 DC: engagement angle arccos(1 - 2 ae/DC) = 84° (ISO 3002-3), below a half turn even in corners.',
    also: [
      {
        label: 'Engagement angle',
        unit: '°',
        of: (ae, { DC }) => (Math.acos(Math.max(-1, 1 - (2 * ae) / DC)) * 180) / Math.PI,
        from: (angle, { DC }) => (DC / 2) * (1 - Math.cos((Math.min(180, Math.max(0, angle)) * Math.PI) / 180)),
      },
    ],
  },
  {
    key: 'pattern',
    label: 'Pattern',
    section: 'passes',
    choices: [
      { value: 'auto', label: 'loops towards the wall' },
      { value: 'inside-out', label: 'loops from the middle outward' },
      { value: 'outside-in', label: 'loops from outside inward' },
      { value: 'spiral', label: 'a spiral outward, then along the wall' },
      { value: 'lines', label: 'straight, then a loop along the wall' },
    ],
    why: 'Towards the wall: islands are come to from outside, closed pockets are opened from their middle. A spiral goes over an area without islands in one way, without a lift; others are gone over in loops.',
  },
  {
    key: 'wallLoops',
    label: 'Loops along the wall',
    section: 'passes',
    whenEmpty: 'the whole area',
    why: 'So many loops at each level and no more: roughing a wall, or evening out its skin. What stands farther from it stays.',
    onlyWhen: (values) => values['pattern'] !== 'lines' && values['pattern'] !== 'steady',
  },
  {
    key: 'angleDeg',
    label: 'Angle of the passes',
    section: 'passes',
    unit: '°',
    onlyWhen: (values) => values['pattern'] === 'lines',
  },
  MILLING,
  {
    key: 'order',
    label: 'Areas',
    section: 'passes',
    choices: [
      { value: 'depth', label: 'each to its depth' },
      { value: 'level', label: 'all, level by level' },
    ],
  },
  {
    key: 'cornerRadius',
    label: 'Corner radius of loops',
    section: 'passes',
    unit: 'mm',
    why: '0.05 DC: the machine keeps its feed. The loop along the wall follows the wall.',
  },
  {
    key: 'cornerLoadDeg',
    label: 'Ease corners above',
    section: 'passes',
    unit: '°',
    whenEmpty: 'not eased',
    why: 'Angle over which the cutter meets steel. In a corner that turns by τ it is τ + asin(ae / (DC cos(τ/2))) (geometry): 130° in a square one with ae 0.45 DC. Short lines cut such corners in steps beforehand; they cost time.',
    onlyWhen: (values) => values['pattern'] !== 'lines',
  },
  {
    key: 'entry',
    label: 'Entry',
    section: 'travel',
    choices: [
      { value: 'helix', label: 'by helix' },
      { value: 'ramp', label: 'by a ramp along the line' },
      { value: 'plunge', label: 'straight down' },
      { value: 'none', label: 'none: closed areas are left' },
    ],
  },
  {
    key: 'rampAngleDeg',
    boundBy: 'RMPX',
    label: 'Ramp angle',
    section: 'travel',
    unit: '°',
    onlyWhen: (values) => values['entry'] !== 'plunge' && values['entry'] !== 'none',
  },
  {
    key: 'helixRadius',
    label: 'Helix radius',
    section: 'travel',
    unit: 'mm',
    whenEmpty: '0.4 DC',
    why: '0.4 DC leaves no post in the middle, since the cutter reaches past the axis of the helix; narrower where the room asks for it (geometry).',
    onlyWhen: (values) => values['entry'] === 'helix',
  },
  {
    key: 'smallestOpening',
    label: 'Smallest opening',
    section: 'travel',
    unit: 'mm',
    why: '1.4 DC: a helix of 0.2 DC radius still leaves chips a way out (common practice).',
  },
  { key: 'leadRadius', label: 'Lead radius', section: 'travel', unit: 'mm' },
  { key: 'lift', label: 'Lift on return', section: 'travel', unit: 'mm' },
];

const isSteady = (values: Values): boolean => values['pattern'] === 'steady';
const isLoops = (values: Values): boolean => !isSteady(values);
/** What passes of steady load have no use for. */
const LOOPS_ALONE = ['cornerRadius', 'cornerLoadDeg', 'leadRadius', 'order', 'entry'];
/** What a helix has, however loops are entered. */
const OF_HELIX = ['rampAngleDeg', 'helixRadius'];

/** Fields of roughing: those of levels, and what passes of steady load have beside them. */
export const ROUGHING_FIELDS: readonly Field[] = [
  ...LEVEL_FIELDS.map((field): Field => {
    if (field.key === 'pattern')
      return { ...field, choices: [...field.choices!, { value: 'steady', label: 'passes of steady load' }] };
    const { onlyWhen } = field;
    if (OF_HELIX.includes(field.key))
      return { ...field, onlyWhen: (values) => isSteady(values) || (onlyWhen?.(values) ?? true) };
    if (!LOOPS_ALONE.includes(field.key)) return field;
    return { ...field, onlyWhen: (values) => isLoops(values) && (onlyWhen?.(values) ?? true) };
  }),
  {
    key: 'leastRadius',
    label: 'Least radius of the path',
    section: 'passes',
    unit: 'mm',
    whenEmpty: '0.05 DC',
    why: '0.05 DC: the cutter turns from the wall before it meets more than it was asked to. A larger one is easier on the machine and leaves more in corners.',
    onlyWhen: isSteady,
  },
  {
    key: 'longestWay',
    label: 'Longest way back at the level',
    section: 'travel',
    unit: 'mm',
    whenEmpty: 'any, where there is air',
    why: 'A longer one is crossed at rapid rate, above the steel.',
    onlyWhen: isSteady,
  },
];

/** House values of levels for a tool. */
export function levelHouse({ DC }: Pick<ToolShape, 'DC'>): LevelValues {
  return {
    sideAllowance: 0.4,
    floorAllowance: 0.3,
    tolerance: 0.02,
    ap: toThousandth(0.125 * DC),
    firstAp: null,
    ae: toThousandth(0.45 * DC),
    top: null,
    bottom: null,
    flats: 'even',
    stairs: toThousandth(0.0625 * DC),
    pattern: 'auto',
    wallLoops: null,
    angleDeg: 0,
    direction: 'climb',
    order: 'depth',
    cornerRadius: toThousandth(0.05 * DC),
    cornerLoadDeg: 135,
    entry: 'helix',
    rampAngleDeg: 2,
    helixRadius: null,
    smallestOpening: toThousandth(1.4 * DC),
    leadRadius: toThousandth(0.1 * DC),
    lift: 0.3,
  };
}

const DIRECTION_WORDS = { climb: 'climb', conventional: 'conventional', shortest: 'whichever way is shorter' };

/** The part of the sentence that tells of lines. */
export function linesSentence(v: Pick<RoughingValues, 'pattern' | 'angleDeg' | 'ae' | 'direction'>): string {
  if (v.pattern === 'steady')
    return `passes of {pattern|steady load} never wider than {ae|${v.ae} mm}, {direction|${DIRECTION_WORDS[v.direction]}}`;
  const loops = v.pattern === 'spiral' ? 'a {pattern|spiral}' : '{pattern|loops}';
  const lines =
    v.pattern === 'lines'
      ? `straight {pattern|lines} at {angleDeg|${v.angleDeg}°}, {ae|${v.ae} mm} apart`
      : `${loops} {ae|${v.ae} mm} apart`;
  return `${lines}, {direction|${DIRECTION_WORDS[v.direction]}}`;
}

/** What levels leave on the part on purpose, mm. */
export function levelLeaves({ sideAllowance, floorAllowance }: Pick<LevelValues, 'sideAllowance' | 'floorAllowance'>) {
  return { least: Math.min(sideAllowance, floorAllowance), most: Math.max(sideAllowance, floorAllowance) };
}

/** Thickest stairs between levels, mm; undefined where whole areas stay on purpose. */
export function levelStairs({
  stairs,
  ap,
  firstAp,
  wallLoops = null,
}: Pick<LevelValues, 'stairs' | 'ap' | 'firstAp'> & { wallLoops?: number | null }): number | undefined {
  return wallLoops === null ? (stairs ?? Math.max(ap, firstAp ?? 0)) : undefined;
}

/** House values of roughing for a tool. */
export function roughingHouse(tool: Pick<ToolShape, 'DC'>): RoughingValues {
  return { ...levelHouse(tool), leastRadius: null, longestWay: null };
}

/** The cut that speeds and feeds follow from. */
export function roughingCut(
  cut: 'rough' | 'rest',
  { ae, ap, pattern }: Pick<RoughingValues, 'ae' | 'ap' | 'pattern'>,
): CutOf {
  return { cut, ae, ap, ...(pattern === 'steady' ? { waysInAir: true as const } : {}) };
}
