import { toThousandth } from '../base/round';
import type { Values } from '../strategy/kind';
import type { Hole } from '../survey/features';
import type { Crib, Tool } from '../tool/library';
import { riseOf } from '../tool/profile';
import { cuttingPiece } from '../tool/shape';
import { ofKind, type Proposal, proposed, type ProposedStep, usable } from './step';

/** What a hole is for, by the person's word: the part's shape does not tell a thread from a hole. */
export const HOLE_PURPOSES = ['drilled', 'reamed', 'threaded', 'milled', 'left'] as const;
export type HolePurpose = (typeof HOLE_PURPOSES)[number];
export const PURPOSE_WORDS: Record<HolePurpose, string> = {
  drilled: 'drilled',
  reamed: 'reamed',
  threaded: 'threaded',
  milled: 'milled',
  left: 'left as it is',
};

/**
 * Holes that a step can tell from others: of one diameter, and through or blind. Lengths in mm.
 */
export interface HoleGroup {
  /** The same for the same sort of hole. */
  readonly key: string;
  readonly count: number;
  readonly diameter: number;
  /** Of the deepest. */
  readonly depth: number;
  readonly through: boolean;
  /** Bores over some of them, each sort once. */
  readonly bores: readonly { readonly diameter: number; readonly depth: number }[];
}

/** Sizes within this are one, mm. */
const SAME_MM = 0.02;
/** What a reamer is left, in diameter, mm (common practice: 0.1 to 0.3). */
const FOR_REAMING_MM = [0.1, 0.3] as const;
/** Holes that are drawn for a thread differ from its tapping drill by this at most, mm: 6.8 is drilled for M8, 8 less 1.25 is 6.75. */
const TAPPING_MM = 0.07;
/** Steps go so far beyond through holes (common practice). */
const BEYOND_MM = 1;
/** A cutter mills holes from so many of its diameters up (common practice). */
const MILLED_FROM = 1.2;

/** Holes together that steps mean together, the thinnest first. */
export function groupsOf(holes: readonly Hole[]): HoleGroup[] {
  const groups: { through: boolean; diameter: number; all: Hole[] }[] = [];
  for (const hole of holes.toSorted((a, b) => a.diameter - b.diameter)) {
    const { through, diameter } = hole;
    const known = groups.find((g) => g.through === through && diameter - g.diameter <= SAME_MM);
    if (known) known.all.push(hole);
    else groups.push({ through, diameter, all: [hole] });
  }
  return groups.map(({ through, diameter, all }): HoleGroup => {
    const bores = new Map<string, { diameter: number; depth: number }>();
    for (const { counterbore } of all) {
      if (!counterbore) continue;
      const key = counterbore.diameter.toFixed(2);
      const depth = Math.max(counterbore.depth, bores.get(key)?.depth ?? 0);
      bores.set(key, { diameter: counterbore.diameter, depth });
    }
    return {
      key: `${diameter.toFixed(3)} ${through}`,
      count: all.length,
      diameter,
      depth: Math.max(...all.map(({ top, bottom }) => top - bottom)),
      through,
      bores: [...bores.values()],
    };
  });
}

/** What of the purposes a crib has cutters for beside the plain one; the first is what is likely. */
export function purposesFor(group: HoleGroup, crib: Crib): HolePurpose[] {
  const tools = usable(crib);
  const drill = findDrill(tools, group.diameter, 0, 0);
  const purposes: HolePurpose[] = [];
  // a blind hole of a tapping drill's size is mostly drawn for a thread
  if (!group.through && tapFor(tools, group.diameter)) purposes.push('threaded');
  if (group.through && reamerFor(tools, group.diameter)) purposes.push('reamed');
  if (drill || !millFor(tools, group.diameter, group.depth)) purposes.push('drilled');
  for (const purpose of ['threaded', 'reamed', 'milled', 'drilled', 'left'] as const)
    if (!purposes.includes(purpose) && isPossible(purpose, group, tools)) purposes.push(purpose);
  return purposes;
}

function isPossible(purpose: HolePurpose, { diameter, depth }: HoleGroup, tools: readonly Tool[]): boolean {
  if (purpose === 'threaded') return tapFor(tools, diameter) !== undefined;
  if (purpose === 'reamed') return reamerFor(tools, diameter) !== undefined;
  if (purpose === 'milled') return millFor(tools, diameter, depth) !== undefined;
  return true;
}

/** A group of holes with what the person says that it is for. */
interface Asked {
  readonly group: HoleGroup;
  readonly purpose: HolePurpose;
}

/**
 * Steps for groups of holes: spots first, then drills from thin to thick, bores that are milled, reamers and taps. Each means the
 * holes that it is for and no others; what one cutter does with through and blind holes of one diameter is one step.
 *
 * @param asked all groups of the part that are not to be touched by steps for others
 */
export function proposeHoles(asked: readonly Asked[], crib: Crib): Proposal {
  const tools = usable(crib);
  const steps: { readonly order: number; readonly step: ProposedStep }[] = [];
  const missing: string[] = [];
  const add = (order: number, kind: string, name: string, tool: Tool, values: Values): void => {
    const step = proposed(kind, name, tool, values);
    const at = steps.findIndex((s) => sameButWhich(s.step, step));
    if (at < 0) steps.push({ order, step });
    else if (steps[at]!.step.values['which'] !== step.values['which'])
      steps[at] = { order, step: proposed(kind, name, tool, { ...values, which: 'all' }) };
  };
  const lacks = (what: string): void => {
    if (!missing.includes(what)) missing.push(what);
  };
  for (const { largest, values } of spotted(asked)) {
    const spot = spotFor(tools, largest);
    if (spot) add(0, 'holes', 'Spot', spot, values);
    else lacks('a spot drill');
  }
  for (const { group, purpose } of asked) {
    if (purpose === 'left') continue;
    const { diameter } = group;
    const depth = group.depth + (group.through ? BEYOND_MM : 0);
    const values = meaning(group);
    const size = sizeOf(diameter);
    if (purpose === 'milled') {
      const mill = millFor(tools, diameter, depth);
      if (mill) add(2000, 'hole-milling', `Mill ⌀ ${size}`, mill, values);
      else lacks(`a flat end mill or bull-nose for ⌀ ${size} mm, ${depth.toFixed(1)} mm deep`);
    } else {
      const [least, most] =
        purpose === 'reamed'
          ? [diameter - FOR_REAMING_MM[1], diameter - FOR_REAMING_MM[0]]
          : [diameter - SAME_MM, diameter + SAME_MM];
      const drill = findDrill(tools, (least + most) / 2, (most - least) / 2, depth);
      const wanted = sizeOf(purpose === 'reamed' ? most : diameter);
      if (drill) add(1000 + drill.cutter.DC, 'holes', `Drill ⌀ ${sizeOf(drill.cutter.DC)}`, drill, values);
      else lacks(`a drill of ${wanted} mm with flutes of ${Math.ceil(depth)} mm or more`);
    }
    for (const bore of group.bores) {
      const mill = millFor(tools, bore.diameter, bore.depth);
      const name = `Mill bore ⌀ ${sizeOf(bore.diameter)}`;
      if (mill) add(2000, 'hole-milling', name, mill, meaning({ ...bore, through: false }));
      else lacks(`a flat end mill for the bore of ${sizeOf(bore.diameter)} mm`);
    }
    if (purpose === 'reamed') {
      const reamer = reamerFor(tools, diameter);
      if (reamer) add(3000, 'holes', `Ream ⌀ ${size}`, reamer, values);
      else lacks(`a reamer of ${size} mm`);
    }
    if (purpose === 'threaded') {
      const tap = tapFor(tools, diameter);
      if (tap) add(4000 + tap.cutter.DC, 'holes', `Tap M${sizeOf(tap.cutter.DC)}`, tap, values);
      else lacks(`a tap for a hole of ${size} mm`);
    }
  }
  steps.sort((a, b) => a.order - b.order);
  return { steps: steps.map(({ step }) => step), missing };
}

/** Whether two steps are one but for whether they mean through or blind holes. */
const sameButWhich = (a: ProposedStep, b: ProposedStep): boolean =>
  a.kind === b.kind &&
  a.tool === b.tool &&
  JSON.stringify({ ...a.values, which: '' }) === JSON.stringify({ ...b.values, which: '' });

/** Holes that one step spots, mm: a row of diameters between which none lies that is not to be spotted. */
function spotted(asked: readonly Asked[]): { largest: number; values: Values }[] {
  const isSpotted = ({ purpose }: Asked): boolean => purpose !== 'left' && purpose !== 'milled';
  const out: { largest: number; values: Values }[] = [];
  /** Diameters of the row that grows. */
  let row: number[] = [];
  const end = (): void => {
    if (row.length > 0) out.push({ largest: Math.max(...row), values: { ...between(row), which: 'all' } });
    row = [];
  };
  for (const one of asked.toSorted((a, b) => a.group.diameter - b.group.diameter)) {
    const { diameter } = one.group;
    const alike = asked.filter(({ group }) => Math.abs(group.diameter - diameter) <= 2 * SAME_MM);
    if (alike.every(isSpotted)) {
      row.push(diameter);
      continue;
    }
    end();
    if (isSpotted(one)) out.push({ largest: diameter, values: meaning(one.group) });
  }
  end();
  return out;
}

const sizeOf = (length: number): string => String(Number(length.toFixed(2)));

const between = (diameters: readonly number[]): Values => ({
  diameterFrom: toThousandth(Math.min(...diameters) - SAME_MM),
  diameterTo: toThousandth(Math.max(...diameters) + SAME_MM),
});
/** Values by which a step means the holes of a group and no others. */
const meaning = ({ diameter, through }: Pick<HoleGroup, 'diameter' | 'through'>): Values => ({
  ...between([diameter]),
  which: through ? 'through' : 'blind',
});

/** The spot drill that marks a hole whole, the smallest of them; else the largest there is. */
function spotFor(tools: readonly Tool[], diameter: number): Tool | undefined {
  const all = ofKind(tools, 'spot').sort((a, b) => a.cutter.DC - b.cutter.DC);
  return all.find(({ cutter }) => 0.9 * cutter.DC >= diameter) ?? all.at(-1);
}

/** The shortest drill of a diameter, within so much, whose flutes reach so deep beside its point. */
function findDrill(tools: readonly Tool[], diameter: number, within: number, depth: number): Tool | undefined {
  return ofKind(tools, 'drill')
    .filter(
      ({ cutter }) =>
        Math.abs(cutter.DC - diameter) <= Math.max(within, SAME_MM) + 1e-9 &&
        cutter.APMX >= depth + riseOf(cuttingPiece(cutter)),
    )
    .sort((a, b) => a.cutter.APMX - b.cutter.APMX || b.cutter.DC - a.cutter.DC)[0];
}

const reamerFor = (tools: readonly Tool[], diameter: number): Tool | undefined =>
  ofKind(tools, 'reamer').find(({ cutter }) => Math.abs(cutter.DC - diameter) <= SAME_MM);

const tapFor = (tools: readonly Tool[], diameter: number): Tool | undefined =>
  ofKind(tools, 'tap').find(({ cutter: { DC, TP } }) => TP > 0 && Math.abs(DC - TP - diameter) <= TAPPING_MM);

/** A cutter of at least this share of the widest leaves no round at a floor: it is taken before that (common practice, no source). */
const SHARP_SHARE = 0.6;

/** The widest cutter with a level end that turns in a bore and reaches its floor; a flat one that is nearly as wide before it. */
function millFor(tools: readonly Tool[], diameter: number, depth: number): Tool | undefined {
  const all = ofKind(tools, 'flat', 'bull')
    .filter(({ cutter }) => MILLED_FROM * cutter.DC <= diameter + 1e-9 && cutter.APMX >= depth)
    .sort((a, b) => b.cutter.DC - a.cutter.DC || a.cutter.RE - b.cutter.RE);
  const [widest] = all;
  return all.find(({ cutter }) => cutter.RE === 0 && cutter.DC >= SHARP_SHARE * widest!.cutter.DC) ?? widest;
}
