import { toThousandth } from '../../base/round';
import { SAMPLING_TASKS } from '../../field/sampling';
import { waterlinesTask } from '../../passes/waterlines/curves';
import { CUTTER_WORDS } from '../../tool/library';
import type { ToolShape } from '../../tool/shape';
import { mostSteelFor, REST_FIELDS, restWords } from '../finishing';
import { defineStep, type Field, type Values } from '../kind';
import { MILLING } from '../levelRoughing/fields';
import { planProfile } from './plan';
import { profileSchema, type ProfileValues } from './values';

/** House values as shares of DC: common practice, no source. */
const SIDE_SHARE = 0.12;
const LAST_SHARE = 0.02;
const LEAD_SHARE = 0.25;
const OVERLAP_SHARE = 0.1;
const TAB_WIDTH_SHARE = 0.5;
const TAB_HEIGHT_MM = 0.8;
/** Outer walls are passed by this, mm: no burr stays at their lower edge (common practice). */
const BEYOND_MM = 0.5;

const WHICH = { outer: 'outer walls', inner: 'walls of closed areas', all: 'all walls' } as const;

const hasTabs = (values: Values): boolean => (values['tabs'] as number) > 0;

const FIELDS: readonly Field[] = [
  {
    key: 'which',
    label: 'Walls',
    section: 'aim',
    choices: [
      { value: 'outer', label: 'outer ones' },
      { value: 'inner', label: 'those of closed areas' },
      { value: 'all', label: 'all' },
    ],
    why: 'Outer ones can be come to from outside the part at their height; those of pockets and openings are closed in.',
  },
  {
    key: 'holes',
    label: 'Walls of upright holes',
    section: 'aim',
    choices: [
      { value: 'left', label: 'left to other steps' },
      { value: 'milled', label: 'milled as well' },
    ],
    onlyWhen: (values) => values['which'] !== 'outer',
  },
  {
    key: 'allowance',
    label: 'Side allowance',
    section: 'aim',
    unit: 'mm',
    means: 'side allowance',
    why: 'Less than 0 is cut below the wall, for a press fit.',
  },
  { key: 'bottomAllowance', label: 'Bottom allowance', section: 'aim', unit: 'mm' },
  { key: 'tolerance', label: 'Path tolerance', section: 'aim', unit: 'mm' },
  { key: 'top', label: 'From height', section: 'limits', unit: 'mm', height: true, whenEmpty: 'top of each wall' },
  {
    key: 'bottom',
    label: 'Down to height',
    section: 'limits',
    unit: 'mm',
    height: true,
    whenEmpty: 'foot of each wall',
  },
  {
    key: 'beyond',
    label: 'Beyond the underside',
    section: 'limits',
    unit: 'mm',
    onlyWhen: (values) => values['bottom'] === null,
  },
  {
    key: 'fromSlopeDeg',
    label: 'Walls steeper than',
    section: 'limits',
    unit: '°',
    why: '89°: each depth of a leaning wall leaves a stair. Waterline finishes those.',
  },
  {
    key: 'mostSteel',
    label: 'Stock limit',
    section: 'limits',
    unit: 'mm',
    why: '0.25 DC beside the first side pass: thicker steel would bend the cutter; those places are listed instead.',
  },
  ...REST_FIELDS.filter(({ key }) => key === 'restOf' || key === 'restOverlap'),
  { key: 'ap', label: 'Axial depth ap', section: 'passes', unit: 'mm', own: true, boundBy: 'mostAp' },
  {
    key: 'passes',
    label: 'Side passes',
    section: 'passes',
    whenEmpty: 'as the steel wants',
    why: 'So many that the first one meets no more than the stock limit; each goes only where it meets steel, the last along all walls.',
  },
  {
    key: 'ae',
    boundBy: 'mostAe',
    label: 'Radial depth ae',
    section: 'passes',
    unit: 'mm',
    own: true,
    onlyWhen: (values) => values['passes'] !== 1,
  },
  {
    key: 'lastAe',
    label: 'Last radial depth',
    section: 'passes',
    unit: 'mm',
    whenEmpty: 'as ae',
    why: '0.02 DC: so thin a cut hardly bends the cutter, and the wall stays upright (common practice).',
    onlyWhen: (values) => values['passes'] !== 1,
  },
  {
    key: 'springs',
    label: 'Repeats of the last pass',
    section: 'passes',
    why: 'The same way once more takes off what the cutter had bent away from (common practice).',
  },
  { ...MILLING, choices: MILLING.choices!.filter(({ value }) => value !== 'shortest') },
  {
    key: 'corners',
    label: 'Sharp outer corners',
    section: 'passes',
    choices: [
      { value: 'rolled', label: 'rolled round' },
      { value: 'sharp', label: 'passed straight on both sides' },
    ],
    why: 'Rolled round, the edge is touched all the time and gets a burr; past it, it stays sharp, and the way is longer.',
  },
  {
    key: 'leadRadius',
    label: 'Lead radius',
    section: 'travel',
    unit: 'mm',
    why: 'Smaller ones are taken where there is no room.',
  },
  { key: 'leadLength', label: 'Straight beside the lead', section: 'travel', unit: 'mm' },
  {
    key: 'wear',
    label: 'Wear of the cutter',
    section: 'travel',
    choices: [
      { value: 'path', label: 'in the path: as the cutter is told' },
      { value: 'control', label: 'at the control: G41, G42 with D' },
    ],
    why: 'The path is that of the axis, so D holds only what the cutter is larger or smaller by, 0 to begin with. It begins and ends on the straights beside the leads.',
  },
  {
    key: 'overlap',
    label: 'Overlap',
    section: 'travel',
    unit: 'mm',
    why: 'Past the beginning of a closed pass, and past both ends of an open one.',
  },
  {
    key: 'rampDeg',
    boundBy: 'RMPX',
    label: 'Down along the wall',
    section: 'travel',
    unit: '°',
    whenEmpty: 'no: beside it',
    why: 'Closed passes then go down round and round, by ap a round at most, and once round at the foot.',
  },
  {
    key: 'tabs',
    label: 'Bridges left',
    section: 'travel',
    why: 'So many stay round an outer wall that is cut through, so that the part does not come loose.',
    onlyWhen: (values) => values['which'] !== 'inner',
  },
  { key: 'tabWidth', label: 'Width of a bridge', section: 'travel', unit: 'mm', onlyWhen: hasTabs },
  { key: 'tabHeight', label: 'Height of a bridge', section: 'travel', unit: 'mm', onlyWhen: hasTabs },
];

/** Only a cutter whose edges are straight up from its corner makes an upright wall. */
export function refusesProfile({ kind }: Pick<ToolShape, 'kind'>): string | undefined {
  return kind === 'flat' || kind === 'bull' || kind === 'ball'
    ? undefined
    : `A ${CUTTER_WORDS[kind]} has no upright edges: choose a flat end mill, a bull-nose or a ball cutter.`;
}

export const profile = defineStep<ProfileValues>({
  id: 'profile',
  name: 'Profile',
  group: 'prismatic',
  about: 'Mills upright walls along their outline, in depths and side passes, met and left by arcs.',
  schema: profileSchema,
  fields: FIELDS,
  tasks: [...SAMPLING_TASKS, waterlinesTask],
  refuses: refusesProfile,
  house: (tool) => ({
    which: 'outer',
    holes: 'left',
    allowance: 0,
    bottomAllowance: 0,
    tolerance: 0.005,
    top: null,
    bottom: null,
    beyond: BEYOND_MM,
    fromSlopeDeg: 89,
    mostSteel: mostSteelFor(tool),
    restOf: null,
    restOverlap: 0.2,
    ap: tool.APMX,
    passes: null,
    ae: toThousandth(SIDE_SHARE * tool.DC),
    lastAe: toThousandth(LAST_SHARE * tool.DC),
    springs: 0,
    direction: 'climb',
    corners: 'rolled',
    leadRadius: toThousandth(LEAD_SHARE * tool.DC),
    leadLength: 0,
    wear: 'path',
    overlap: toThousandth(Math.max(0.5, OVERLAP_SHARE * tool.DC)),
    rampDeg: null,
    tabs: 0,
    tabWidth: toThousandth(Math.max(1, TAB_WIDTH_SHARE * tool.DC)),
    tabHeight: TAB_HEIGHT_MM,
  }),
  sentence: (v, tool) =>
    `Mills {which|${WHICH[v.which]}} with {assemblyId|${tool}} down to {bottom|${v.bottom === null ? 'their foot' : `${v.bottom} mm`}}, ` +
    `{ap|${v.ap} mm} deep at a time${v.passes !== null && v.passes > 1 ? ` in {passes|${v.passes} side passes}` : ''}, ` +
    `{direction|${v.direction}}, leaving {allowance|${v.allowance} mm}` +
    `${restWords(v)}${v.tabs > 0 ? ` and {tabs|${v.tabs} bridge${v.tabs > 1 ? 's' : ''}}` : ''}.`,
  byFaces: true,
  leaves: (v) => ({ least: Math.min(v.allowance, v.bottomAllowance), most: Math.max(v.allowance, v.bottomAllowance) }),
  tolerance: (v) => v.tolerance,
  cut: (v, tool) => ({
    cut: 'finish',
    ae: Math.min(v.passes === 1 ? v.mostSteel : v.ae, tool.DC / 2),
    ap: Math.min(v.ap, tool.APMX),
  }),
  plan: planProfile,
});
