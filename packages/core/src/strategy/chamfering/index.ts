import { toThousandth } from '../../base/round';
import { CUTTER_WORDS } from '../../tool/library';
import type { ToolShape } from '../../tool/shape';
import { defineStep, type Field } from '../kind';
import { planChamfers } from './plan';
import { chamferSchema, type ChamferValues } from './values';

/** House values as shares of DC: common practice, no source. */
const WIDTH_SHARE = 0.03;
const BELOW_SHARE = 0.1;

const FIELDS: Field[] = [
  {
    key: 'edges',
    label: 'Edges',
    section: 'aim',
    choices: [
      { value: 'drawn', label: 'chamfers of the part' },
      { value: 'sharp', label: 'sharp upper edges' },
    ],
    why: 'Chamfers of the part are made as they are drawn; sharp edges are broken by the width, though the part has them sharp.',
  },
  {
    key: 'width',
    label: 'Width of a broken edge',
    section: 'aim',
    unit: 'mm',
    onlyWhen: (v) => v['edges'] === 'sharp',
  },
  {
    key: 'face',
    label: 'Edges of the face at',
    section: 'limits',
    unit: 'mm',
    height: true,
    whenEmpty: 'any height',
  },
  {
    key: 'below',
    label: 'Tip below the edge',
    section: 'passes',
    unit: 'mm',
    why: 'The very tip does not cut: it stays below what is taken (common practice).',
  },
  {
    key: 'direction',
    label: 'Direction',
    section: 'passes',
    choices: [
      { value: 'climb', label: 'climb' },
      { value: 'conventional', label: 'conventional' },
    ],
  },
];

export function refusesChamfers({ kind, SIG }: Pick<ToolShape, 'kind' | 'SIG'>): string | undefined {
  if (kind !== 'chamfer' && kind !== 'spot')
    return `A ${CUTTER_WORDS[kind]} makes no chamfers: choose a chamfer cutter or a spot drill.`;
  return SIG > 0 && SIG < 180 ? undefined : 'This cutter has no angle SIG between 0° and 180°.';
}

export const chamfering = defineStep<ChamferValues>({
  id: 'chamfering',
  name: 'Chamfers',
  group: 'prismatic',
  about: 'Chamfers of the part, or its sharp upper edges broken, along each edge at its height.',
  schema: chamferSchema,
  fields: FIELDS,
  tasks: [],
  refuses: refusesChamfers,
  house: ({ DC }) => ({
    edges: 'drawn',
    width: toThousandth(Math.max(0.1, WIDTH_SHARE * DC)),
    below: toThousandth(BELOW_SHARE * DC),
    face: null,
    direction: 'climb',
  }),
  sentence: (v, tool) =>
    `${v.edges === 'drawn' ? 'Makes {edges|the chamfers of the part}' : `Breaks {edges|sharp upper edges} by {width|${v.width} mm}`} ` +
    `with {assemblyId|${tool}}${v.face === null ? '' : `, at {face|${v.face} mm}`}, its tip {below|${v.below} mm} below.`,
  leaves: () => ({ least: 0, most: 0 }),
  cut: (v, { DC }) => ({ cut: 'finish', ae: Math.min(v.width, DC / 2), ap: Math.min(v.width, DC / 2) }),
  plan: planChamfers,
});
