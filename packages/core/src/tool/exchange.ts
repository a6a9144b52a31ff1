import { type Assembly, type Crib, type Cutter, type Extension, type Holder, type Tool, toolsOf } from './library';

/** Cutters go between the shop's crib and a job's own: an assembly is known by its number, what it is made of by its name. */

const nextId = (prefix: string, taken: ReadonlySet<string>): string => {
  let n = taken.size + 1;
  while (taken.has(`${prefix}${n}`)) n++;
  return `${prefix}${n}`;
};
const idsOf = (list: readonly { id: string }[]): Set<string> => new Set(list.map((one) => one.id));
const apart = <T extends { id: string }>(one: T): string => JSON.stringify({ ...one, id: '' });

/** What a part of a tool becomes in another crib: the same where there is one like it in everything, else a new one. */
function placed<T extends { id: string }>(
  list: readonly T[],
  one: T,
  prefix: string,
): { list: readonly T[]; id: string } {
  const like = list.find((own) => apart(own) === apart(one));
  if (like) return { list, id: like.id };
  const ids = idsOf(list);
  const id = ids.has(one.id) ? nextId(prefix, ids) : one.id;
  return { list: [...list, { ...one, id }], id };
}

/** The number and offsets of an assembly where some are taken. */
function numbered(assembly: Assembly, others: readonly Assembly[]): Partial<Assembly> {
  const taken = new Set(others.flatMap((a) => [a.number, a.lengthOffset ?? a.number]));
  if (!taken.has(assembly.number) && !taken.has(assembly.lengthOffset ?? assembly.number)) return {};
  return { number: Math.max(0, ...taken) + 1, lengthOffset: null, radiusOffset: null };
}

/**
 * A crib with a tool of another one. In place of the assembly `instead` when that is given, which keeps its id; else as one
 * more, under the next free number where its own is taken.
 */
export function withTool(crib: Crib, tool: Tool, instead?: string): { crib: Crib; id: string } {
  const cutters = placed(crib.cutters, tool.cutter, 'c');
  const holders = placed(crib.holders, tool.holder, 'h');
  let extensions: readonly Extension[] = crib.extensions;
  const extensionIds = tool.extensions.map((e) => {
    const next = placed(extensions, e, 'e');
    extensions = next.list;
    return next.id;
  });
  const others = crib.assemblies.filter((a) => a.id !== instead);
  const ids = idsOf(others);
  const id = instead ?? (ids.has(tool.assembly.id) ? nextId('t', ids) : tool.assembly.id);
  const made: Assembly = {
    ...tool.assembly,
    ...numbered(tool.assembly, others),
    id,
    cutterId: cutters.id,
    holderId: holders.id,
    extensionIds,
  };
  const assemblies = instead ? crib.assemblies.map((a) => (a.id === instead ? made : a)) : [...crib.assemblies, made];
  return {
    id,
    crib: withoutUnused({
      cutters: cutters.list as Cutter[],
      holders: holders.list as Holder[],
      extensions: extensions as Extension[],
      assemblies,
    }),
  };
}

/** Cutters that stand in no assembly are in nobody's hand; holders and extensions wait on their shelf. */
function withoutUnused(crib: Crib): Crib {
  const used = new Set(crib.assemblies.map((a) => a.cutterId));
  return { ...crib, cutters: crib.cutters.filter((c) => used.has(c.id)) };
}

/** One thing in which two tools differ: what it is, here and there. */
export interface Difference {
  readonly what: string;
  readonly here: string;
  readonly there: string;
}

const WORDS: Readonly<Record<string, string>> = {
  name: 'name',
  kind: 'kind',
  grade: 'grade',
  stickOut: 'stick-out',
  neckTaper: 'taper of the neck',
  neckCone: 'cone to the shank',
  centreCutting: 'cuts over its centre',
  FHA: 'helix angle',
  largestPitch: 'largest flute pitch',
  RMPX: 'steepest way down',
  DMIN: 'smallest bore by helix',
  mostAp: 'largest ap',
  mostAe: 'largest ae',
  measuredLength: 'measured length',
  measuredDiameter: 'measured diameter',
  measuredRadius: 'measured corner radius',
  asMeasured: 'taken as measured',
  retired: 'retired',
};
/** Whatever says how a part is named in its crib, or is worked out. */
const ASIDE = [
  'id',
  'cutterId',
  'holderId',
  'extensionIds',
  'number',
  'n',
  'fz',
  'data',
  'relations',
  'lengthOffset',
  'radiusOffset',
];

/** In what a tool differs from another: sizes, holder, measured lengths; not in speeds, which are a step's affair. */
export function differences(here: Tool, there: Tool): Difference[] {
  const between = (a: object, b: object): Difference[] =>
    Object.keys({ ...a, ...b }).flatMap((key) => {
      if (ASIDE.includes(key)) return [];
      const [own, other] = [(a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]];
      if (JSON.stringify(own) === JSON.stringify(other)) return [];
      return [{ what: WORDS[key] ?? key, here: said(own), there: said(other) }];
    });
  const clamps = (tool: Tool): string => [...tool.extensions, tool.holder].map((c) => c.name).join(' in ');
  const isHeldOtherwise =
    apart(here.holder) !== apart(there.holder) ||
    here.extensions.map(apart).join() !== there.extensions.map(apart).join();
  return [
    ...between(here.cutter, there.cutter),
    ...between(here.assembly, there.assembly),
    ...(isHeldOtherwise ? [{ what: 'holder', here: clamps(here), there: clamps(there) }] : []),
  ];
}

const said = (value: unknown): string =>
  value === null || value === undefined
    ? 'not given'
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : String(value as string | number);

/** The tool of a crib that has the number of another one. */
export function counterpart(crib: Crib, { assembly }: Tool): Tool | undefined {
  return toolsOf(crib).find((t) => t.assembly.number === assembly.number);
}
