import { toThousandth } from '../../base/round';
import { CUTTER_WORDS, type CutterKind, HOLE_KINDS } from '../../tool/library';
import type { ToolShape } from '../../tool/shape';
import { axialCut } from '../../tool/usual';
import { defineStep, type Field, type Values } from '../kind';
import { CHOICE_FIELDS, choiceSentence, type HoleChoice } from './choice';
import { planHoles } from './plan';
import { type HoleValues, holeSchema } from './values';

const isSpot = (_: Values, tool?: ToolShape): boolean => tool?.kind === 'spot';
const isNoSpot = (_: Values, tool?: ToolShape): boolean => tool?.kind !== 'spot';
const isDrill = (_: Values, tool?: ToolShape): boolean => tool?.kind === 'drill';

const FIELDS: Field[] = [
  ...CHOICE_FIELDS,
  {
    key: 'depth',
    label: 'Depth to full diameter',
    section: 'aim',
    unit: 'mm',
    whenEmpty: "the hole's own",
    onlyWhen: isNoSpot,
    why: 'Under the upper edge of the hole. A drill is never taken into the part: on a level floor its tip stops.',
  },
  {
    key: 'mark',
    label: 'Mark of a spot drill',
    section: 'aim',
    unit: 'mm',
    whenEmpty: 'as wide as the hole',
    onlyWhen: isSpot,
  },
  { key: 'beyond', label: 'Beyond through holes', section: 'limits', unit: 'mm', onlyWhen: isNoSpot },
  { key: 'short', label: 'Short of blind bottoms', section: 'limits', unit: 'mm', onlyWhen: isNoSpot },
  {
    key: 'peck',
    label: 'Chips of a drill',
    section: 'passes',
    choices: [
      { value: 'depth', label: 'cleared by pecks beyond 3 DC' },
      { value: 'none', label: 'straight down' },
      { value: 'full', label: 'cleared by pecks' },
      { value: 'break', label: 'broken in the hole' },
    ],
    onlyWhen: isDrill,
    why: 'Deeper than about 3 diameters chips do not get away by themselves (common practice).',
  },
  {
    key: 'peckDepth',
    label: 'Depth of a peck',
    section: 'passes',
    unit: 'mm',
    whenEmpty: 'DC',
    onlyWhen: (v, tool) => isDrill(v, tool) && v['peck'] !== 'none',
  },
];

/** Diameters of holes around that of a cutter that it makes whole, or prepares, mm (common practice: reaming allowance 0.1 to 0.3). */
const UNDER_MM = 0.02;
const FOR_REAMING_MM = 0.3;
/** A cutter with an end goes so far beyond a through hole, and stays so far short of a blind bottom, mm (common practice). */
const BEYOND_MM = 1;
/** Threads of a tap's lead: so much is not a whole thread (common practice). */
const LEAD_PITCHES = 3;

export function refusesHoles({ kind, TP, SIG }: Pick<ToolShape, 'kind' | 'TP' | 'SIG'>): string | undefined {
  if (!HOLE_KINDS.includes(kind))
    return `A ${CUTTER_WORDS[kind]} makes no holes: choose a drill, reamer, tap or boring bar.`;
  if (kind === 'tap' && !(TP > 0)) return 'This tap has no pitch TP: its feed follows from it.';
  if ((kind === 'drill' || kind === 'spot') && !(SIG > 0)) return 'This drill has no point angle SIG.';
  return undefined;
}

/** What a step does by its cutter. */
const VERBS: Partial<Record<CutterKind, string>> = {
  spot: 'Spots',
  drill: 'Drills',
  reamer: 'Reams',
  bore: 'Bores',
  tap: 'Taps',
};

export const holes = defineStep<HoleValues>({
  id: 'holes',
  name: 'Holes',
  group: 'prismatic',
  about: 'Upright holes of the part: spotted, drilled, reamed, bored or tapped, by what the cutter is.',
  schema: holeSchema,
  fields: FIELDS,
  tasks: [],
  refuses: refusesHoles,
  house: (tool) => ({
    ...diametersFor(tool),
    which: 'all',
    depth: null,
    beyond: tool.kind === 'tap' ? toThousandth(LEAD_PITCHES * tool.TP) : BEYOND_MM,
    short: tool.kind === 'tap' ? toThousandth(LEAD_PITCHES * tool.TP) : tool.kind === 'drill' ? 0 : BEYOND_MM,
    peck: 'depth',
    peckDepth: null,
    mark: null,
  }),
  sentence: (v, tool, kind) => {
    const how = `${VERBS[kind] ?? 'Makes'} ${choiceSentence(v)} with {assemblyId|${tool}}`;
    if (kind === 'spot') return `${how}, {mark|${v.mark === null ? 'as wide as each' : `${v.mark} mm wide`}}.`;
    return `${how}, ${v.depth === null ? 'to {depth|the bottom}' : `{depth|${v.depth} mm} deep`}.`;
  },
  leaves: () => ({ least: 0, most: 0 }),
  cut: (_, tool) => axialCut(tool) ?? { cut: 'drill', ae: tool.DC, ap: tool.DC },
  plan: planHoles,
});

/** Which holes a cutter is for, by its diameter. */
function diametersFor({ kind, DC, TP }: ToolShape): Pick<HoleChoice, 'diameterFrom' | 'diameterTo'> {
  if (kind === 'spot') return { diameterFrom: null, diameterTo: null };
  // a thread is drawn as the hole that is drilled for it
  const least = kind === 'tap' ? DC - TP : DC;
  const most = kind === 'drill' ? DC + FOR_REAMING_MM : kind === 'tap' ? least + UNDER_MM + 0.1 : DC + UNDER_MM;
  return { diameterFrom: toThousandth(least - UNDER_MM), diameterTo: toThousandth(most) };
}
