import { toThousandth } from '../../base/round';
import { refusesMilling } from '../../tool/library';
import type { ToolShape } from '../../tool/shape';
import { CHOICE_FIELDS, choiceSentence } from '../holes/choice';
import { defineStep, type Field } from '../kind';
import { planHoleMilling } from './plan';
import { type HoleMillingValues, millingSchema } from './values';

/** A hole is at least so much wider than its cutter: a helix needs room to turn (common practice). */
const ROOM_SHARE = 1.2;
/** Depth of a turn and side step, as shares of DC: common practice, no source. */
const PITCH_SHARE = 0.1;
const SIDE_SHARE = 0.4;

const FIELDS: Field[] = [
  ...CHOICE_FIELDS.map((f) =>
    f.key === 'diameterFrom' ? { ...f, why: 'A helix needs room to turn: 1.2 DC at least (common practice).' } : f,
  ),
  { key: 'allowance', label: 'Side allowance', section: 'aim', unit: 'mm', means: 'side allowance' },
  { key: 'tolerance', label: 'Path tolerance', section: 'aim', unit: 'mm' },
  { key: 'beyond', label: 'Beyond through holes', section: 'limits', unit: 'mm' },
  { key: 'pitch', label: 'Depth of a turn', section: 'passes', unit: 'mm', own: true, boundBy: 'mostAp' },
  { key: 'ae', label: 'Radial depth ae', section: 'passes', unit: 'mm', own: true, boundBy: 'mostAe' },
  {
    key: 'finish',
    label: 'Last radial depth',
    section: 'passes',
    unit: 'mm',
    why: 'The last radius takes so little that the wall stays true; 0 where none is taken apart.',
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

function refuses(tool: Pick<ToolShape, 'kind'>): string | undefined {
  if (tool.kind === 'ball') return 'A ball leaves no level floor: choose a flat end mill or a bull-nose cutter.';
  return refusesMilling(tool);
}

export const holeMilling = defineStep<HoleMillingValues>({
  id: 'hole-milling',
  name: 'Hole milling',
  group: 'prismatic',
  about: 'Upright holes and bores wider than the cutter, down a helix and round by round to their wall.',
  schema: millingSchema,
  fields: FIELDS,
  tasks: [],
  refuses,
  house: ({ DC }) => ({
    diameterFrom: toThousandth(ROOM_SHARE * DC),
    diameterTo: null,
    which: 'all',
    allowance: 0,
    beyond: 1,
    pitch: toThousandth(PITCH_SHARE * DC),
    ae: toThousandth(SIDE_SHARE * DC),
    finish: 0.1,
    direction: 'climb',
    tolerance: 0.005,
  }),
  sentence: (v, tool) =>
    `Mills ${choiceSentence(v)} with {assemblyId|${tool}}, {pitch|${v.pitch} mm} a turn, ` +
    `{ae|${v.ae} mm} to the side, leaving {allowance|${v.allowance} mm}.`,
  leaves: (v) => ({ least: v.allowance, most: v.allowance }),
  tolerance: (v) => v.tolerance,
  cut: (v, tool) => ({ cut: 'rough', ae: Math.min(v.ae, tool.DC), ap: v.pitch }),
  plan: planHoleMilling,
});
