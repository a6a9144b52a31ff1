import { z } from 'zod';
import { CUTS } from './cuts';
import type { Frustum } from './profile';
import { relationsSchema } from './relative';

/** Steps of an assembly's name are short: they stand on the run strip. */
const name = z.string().min(1).max(80);
const length = z.number().positive().max(2000);

/** Kinds of cutter, with the word that the sheet and the table use. */
export const CUTTER_KINDS = [
  'flat',
  'ball',
  'bull',
  'high-feed',
  'face',
  'tapered',
  'chamfer',
  'drill',
  'spot',
  'reamer',
  'tap',
  'bore',
] as const;
export type CutterKind = (typeof CUTTER_KINDS)[number];
export const CUTTER_WORDS: Record<CutterKind, string> = {
  flat: 'flat',
  ball: 'ball',
  bull: 'bull-nose',
  'high-feed': 'high-feed',
  face: 'face mill',
  tapered: 'tapered ball',
  chamfer: 'chamfer',
  drill: 'drill',
  spot: 'spot drill',
  reamer: 'reamer',
  tap: 'tap',
  bore: 'boring bar',
};

/** Kinds whose underside is a disc with a rounded rim: those that mill a surface. A high-feed cutter by its equivalent RE. */
const ROUND_KINDS: readonly CutterKind[] = ['flat', 'ball', 'bull', 'high-feed', 'face'];
/** Kinds with a point or taper, whose angle SIG tells. */
export const ANGLED_KINDS: readonly CutterKind[] = ['tapered', 'chamfer', 'drill', 'spot'];

/** Kinds that make a hole straight down their axis. */
export const HOLE_KINDS: readonly CutterKind[] = ['spot', 'drill', 'reamer', 'bore', 'tap'];

/** Whether cutters of a kind have a size: an angle, a pitch or a corner radius not all have. */
export function hasSize(kind: CutterKind, size: string): boolean {
  if (size === 'SIG') return ANGLED_KINDS.includes(kind);
  if (size === 'TP') return kind === 'tap';
  if (size === 'RE') return ROUND_KINDS.includes(kind) || kind === 'tapered';
  return true;
}

/** Why a cutter cannot mill along a path, or undefined when it can. */
export function refusesMilling(cutter: Pick<Cutter, 'kind'>): string | undefined {
  if (ROUND_KINDS.includes(cutter.kind)) return undefined;
  return `A ${CUTTER_WORDS[cutter.kind]} does not mill surfaces; choose an end mill.`;
}

/** Cutting materials by the letters of ISO 513, and high speed steel, which that standard leaves out. */
export const GRADES = ['HC', 'HW', 'HT', 'BH', 'DP', 'HSS'] as const;
export type Grade = (typeof GRADES)[number];
export const GRADE_WORDS: Record<Grade, string> = {
  HC: 'HC coated carbide',
  HW: 'HW uncoated carbide',
  HT: 'HT cermet',
  BH: 'BH boron nitride',
  DP: 'DP polycrystalline diamond',
  HSS: 'HSS high speed steel',
};

/** A connection's diameter, mm; null: not told, and then not checked. */
const connection = length.nullable().default(null);
/** Connections of cylinders fit within this, mm. */
const FIT_MM = 0.05;

/** An end mill by its ISO 13399 sizes, mm. */
export const cutterSchema = z
  .object({
    id: z.string().min(1),
    name,
    kind: z.enum(CUTTER_KINDS),
    /** Cutting diameter. */
    DC: length,
    /** Corner radius; DC / 2 for a ball, 0 for a flat end. */
    RE: z.number().min(0).max(1000),
    /** Largest depth of cut: length of the flutes. */
    APMX: length,
    /** Diameter of the shank; of a cutter without a neck from the flutes up. */
    DMM: length,
    /** Neck: its diameter where it begins above the flutes; null: none. */
    DN: length.nullable().default(null),
    /** Usable length: from the tip to where the neck ends. */
    LN: length.nullable().default(null),
    /** By how much the neck widens a side, and by how much the cone from it to the shank does, degrees. */
    neckTaper: z.number().min(0).max(45).default(0),
    neckCone: z.number().min(1).max(90).default(30),
    /** Overall length. */
    OAL: length,
    /** Number of effective cutting edges. */
    ZEFP: z.int().min(1).max(30),
    /** Point angle of a drill, whole angle of a taper or chamfer, degrees; 0 where there is none. */
    SIG: z.number().min(0).max(180).default(0),
    /** Thread pitch of a tap, mm; 0 where it is not told, and for all others. */
    TP: z.number().min(0).max(10).default(0),
    /** Whether it may be driven straight down into steel. */
    centreCutting: z.boolean().default(false),
    /** Angle of its edges to the axis, degrees; null: not told, {@link HOUSE_HELIX_DEG} is reckoned with. */
    FHA: z.number().min(0).max(75).nullable().default(null),
    /** Largest angle from an edge to the next, degrees; null: they stand evenly. */
    largestPitch: z.number().positive().max(360).nullable().default(null),
    /** Steepest way down into steel, degrees; null: not told, and then the steps' own angle holds. */
    RMPX: z.number().min(0.1).max(90).nullable().default(null),
    /** Smallest bore that it opens by a helix; null: not told. */
    DMIN: length.nullable().default(null),
    /** Largest depth and width of its cuts, where its maker tells less than flutes and diameter; null: not told. */
    mostAp: length.nullable().default(null),
    mostAe: length.nullable().default(null),
    grade: z.enum(GRADES).default('HC'),
    /** Connection diameter on the machine's side: what a holder clamps. */
    DCONMS: connection,
    /** Sizes that were typed by another: RE as `0.5 DC`. */
    relations: relationsSchema,
  })
  .superRefine((c, context) => {
    const issue = (path: string, message: string): void => context.addIssue({ code: 'custom', path: [path], message });
    if (c.kind === 'ball' && Math.abs(c.RE - c.DC / 2) > 1e-6)
      issue('RE', `A ball cutter of DC ${c.DC} has RE ${c.DC / 2}, not ${c.RE}.`);
    if (c.kind === 'flat' && c.RE !== 0) issue('RE', `A flat cutter has RE 0, not ${c.RE}.`);
    if (c.kind === 'bull' && !(c.RE > 0 && c.RE < c.DC / 2))
      issue('RE', `A bull-nose cutter of DC ${c.DC} needs an RE between 0 and ${c.DC / 2}.`);
    if (c.kind === 'high-feed' && !(c.RE > 0 && c.RE < c.DC / 2))
      issue('RE', `A high-feed cutter needs the corner radius that it is programmed with, between 0 and ${c.DC / 2}.`);
    if (ANGLED_KINDS.includes(c.kind) && !(c.SIG > 0)) issue('SIG', `A ${CUTTER_WORDS[c.kind]} needs its angle SIG.`);
    if (c.RE > c.DC / 2 + 1e-9) issue('RE', `A cutter of DC ${c.DC} cannot have RE ${c.RE}.`);
    if (c.APMX > c.OAL) issue('APMX', 'The flutes cannot be longer than the whole cutter.');
    if (c.largestPitch !== null && c.largestPitch < 360 / c.ZEFP - 1e-6)
      issue('largestPitch', `The largest of ${c.ZEFP} pitches is ${(360 / c.ZEFP).toFixed(1)}° at least.`);
    if (c.DMIN !== null && (c.DMIN <= c.DC || c.DMIN > 2 * c.DC))
      issue(
        'DMIN',
        `By a helix a cutter of DC ${c.DC} opens bores above ${c.DC} mm, and leaves no post in those up to ${2 * c.DC} mm.`,
      );
    if (c.mostAp !== null && c.mostAp > c.APMX) issue('mostAp', `Its flutes are ${c.APMX} mm long: it cuts no deeper.`);
    if (c.mostAe !== null && c.mostAe > c.DC) issue('mostAe', `It cuts no wider than its DC of ${c.DC} mm.`);
    if (c.DN !== null) {
      if (c.DN > c.DMM) issue('DN', `A neck of ${c.DN} mm is no neck of a shank of ${c.DMM} mm.`);
      if (c.LN === null) issue('LN', 'A neck needs its length LN, from the tip.');
      else if (c.LN <= c.APMX) issue('LN', `The neck ends at ${c.LN} mm, where there are flutes up to ${c.APMX} mm.`);
      else if (c.LN > c.OAL) issue('LN', 'The neck cannot be longer than the whole cutter.');
    } else if (c.LN !== null) issue('DN', 'A neck length LN needs the diameter of the neck DN.');
  });
export type Cutter = z.infer<typeof cutterSchema>;

/** What the maker of a cutter may tell of it, and what then holds in place of the usual. */
export const CUTTER_BOUNDS = ['FHA', 'largestPitch', 'RMPX', 'DMIN', 'mostAp', 'mostAe'] as const;
/** The bounds of a cutter whose maker tells none. */
export const BOUNDS_NOT_TOLD = {
  FHA: null,
  largestPitch: null,
  RMPX: null,
  DMIN: null,
  mostAp: null,
  mostAe: null,
} satisfies Partial<Cutter>;

/** Everything of a cutter above its flutes: neck, cone and shank, from the flutes up to its end, mm. */
export function shankStack({ APMX, DMM, DN, LN, neckTaper, neckCone, OAL }: Omit<Cutter, 'id'>): Frustum[] {
  if (DN === null || LN === null) return frusta([DMM, DMM, OAL - APMX]);
  const up = Math.min(DMM, DN + 2 * Math.tan((neckTaper * Math.PI) / 180) * (LN - APMX));
  const cone = Math.min(OAL - LN, (DMM - up) / 2 / Math.tan((neckCone * Math.PI) / 180));
  return frusta([DN, up, LN - APMX], [up, DMM, cone], [DMM, DMM, OAL - LN - cone]);
}

/** Height over the tip at which the whole shank begins; where it does without a neck, the end of the flutes, mm. */
export function neckEnd(cutter: Omit<Cutter, 'id'>): number {
  if (cutter.DN === null) return cutter.APMX;
  const [neck, ...others] = shankStack(cutter);
  const cone = others.find((f) => f.bottomDiameter < f.topDiameter);
  return cutter.APMX + (neck?.length ?? 0) + (cone?.length ?? 0);
}

const frusta = (...all: [bottomDiameter: number, topDiameter: number, length: number][]): Frustum[] =>
  all.flatMap(([bottomDiameter, topDiameter, length]) =>
    length > 1e-9 ? [{ bottomDiameter, topDiameter, length }] : [],
  );

/** Stacked frusta from the cutter's side up, mm. */
const stackSchema = z
  .array(
    z.object({
      bottomDiameter: z.number().min(0).max(500),
      topDiameter: z.number().min(0).max(500),
      length: z.number().positive().max(1000),
    }),
  )
  .min(1)
  .max(40);

export const HOLDER_KINDS = ['shrink-fit', 'collet', 'face-mill arbor', 'other'] as const;

/** What clamps a cylinder: the largest diameter that it takes, and, of a collet, the smallest. */
const clamp = { DCONWS: connection, clampFrom: connection };

/** A holder by its outline, with its connections: the cutter's side in mm, the spindle's by its standard's name. */
export const holderSchema = z.object({
  id: z.string().min(1),
  name,
  kind: z.enum(HOLDER_KINDS).default('other'),
  ...clamp,
  spindle: z.string().max(40).default(''),
  stack: stackSchema,
});
export type Holder = z.infer<typeof holderSchema>;

/** What stands between cutter and holder: clamps the one and is clamped by the other. */
export const extensionSchema = z.object({
  id: z.string().min(1),
  name,
  ...clamp,
  /** Connection diameter on the machine's side. */
  DCONMS: connection,
  stack: stackSchema,
});
export type Extension = z.infer<typeof extensionSchema>;

const offsetNumber = z.int().min(1).max(9999).nullable().default(null);

/** A cutter in a holder, ready in the machine's magazine. */
export const assemblySchema = z.object({
  id: z.string().min(1),
  /** Number of its place in the magazine: T word. */
  number: z.int().min(1).max(9999),
  cutterId: z.string().min(1),
  holderId: z.string().min(1),
  /** Extensions between cutter and holder, from the cutter up. */
  extensionIds: z.array(z.string().min(1)).max(4).default([]),
  /** From the tip to the lower end of whatever clamps the cutter, mm. */
  stickOut: length,
  /** Numbers of its length and radius offsets at the control; null: the number of its place. */
  lengthOffset: offsetNumber,
  radiusOffset: offsetNumber,
  /** Spindle speed, 1/min. */
  n: z.number().positive().max(200_000),
  /** Feed per tooth, mm. */
  fz: z.number().positive().max(5),
  /** Largest bending at the tip and largest chip thickness that it is to bear, mm; null: house values. */
  mostBending: z.number().positive().max(5).nullable().default(null),
  mostChip: z.number().positive().max(5).nullable().default(null),
  /** The cut that n and fz follow from; null: they were set by hand. */
  data: z
    .object({
      cut: z.enum(CUTS),
      ae: length,
      ap: length,
      overrides: z.object({
        vc: z.number().positive().max(2000).optional(),
        n: z.number().positive().max(200_000).optional(),
        fz: z.number().positive().max(5).optional(),
      }),
    })
    .nullable()
    .default(null),
  /** No longer to be chosen for new work. */
  retired: z.boolean().default(false),
  /** Measured length from the tip to the spindle's gauge line and diameter, mm; null: nominal. */
  measuredLength: length.nullable().default(null),
  measuredDiameter: length.nullable().default(null),
  measuredRadius: z.number().min(0).max(1000).nullable().default(null),
  /** Whether paths, steel and checks are for the measured sizes. */
  asMeasured: z.boolean().default(false),
  /** Figures that were typed by the cutter's sizes: stick-out as `4 DC`. */
  relations: relationsSchema,
});
export type Assembly = z.infer<typeof assemblySchema>;

export const cribSchema = z
  .object({
    cutters: z.array(cutterSchema).max(5000),
    holders: z.array(holderSchema).max(5000),
    extensions: z.array(extensionSchema).max(5000).default([]),
    assemblies: z.array(assemblySchema).max(5000),
  })
  .superRefine((crib, context) => {
    const numbers = new Set<number>();
    const offsets = new Map<number, number>();
    const cutters = new Map(crib.cutters.map((c) => [c.id, c]));
    const holders = new Map(crib.holders.map((h) => [h.id, h]));
    const extensions = new Map(crib.extensions.map((e) => [e.id, e]));
    crib.assemblies.forEach((a, i) => {
      const issue = (path: string, message: string): void =>
        context.addIssue({ code: 'custom', path: ['assemblies', i, path], message });
      const cutter = cutters.get(a.cutterId);
      if (!cutter) issue('cutterId', `T${a.number} names a cutter "${a.cutterId}" that is not in the crib.`);
      if (!holders.has(a.holderId))
        issue('holderId', `T${a.number} names a holder "${a.holderId}" that is not in the crib.`);
      if (cutter && a.stickOut < cutter.APMX)
        issue('stickOut', `T${a.number} sticks out ${a.stickOut} mm, less than its flutes of ${cutter.APMX} mm.`);
      if (cutter && a.stickOut >= cutter.APMX && a.stickOut < neckEnd(cutter) - 1e-9)
        issue(
          'stickOut',
          `T${a.number} sticks out ${a.stickOut} mm: it would be clamped by its neck, which ends at ${neckEnd(cutter).toFixed(2)} mm.`,
        );
      if (cutter && a.stickOut > cutter.OAL)
        issue('stickOut', `T${a.number} sticks out ${a.stickOut} mm, more than its whole length of ${cutter.OAL} mm.`);
      const between = a.extensionIds.map((id) => extensions.get(id));
      if (between.includes(undefined))
        issue('extensionIds', `T${a.number} names an extension that is not in the crib.`);
      const measured = measuredStickOut(
        a,
        between.flatMap((e) => e ?? []),
        holders.get(a.holderId),
      );
      if (cutter && a.asMeasured && measured !== undefined && (measured < neckEnd(cutter) || measured > cutter.OAL))
        issue(
          'measuredLength',
          `T${a.number} would stick out ${measured.toFixed(2)} mm by its measured length, but its cutter can from ${neckEnd(cutter).toFixed(2)} to ${cutter.OAL} mm: look at the gauge line.`,
        );
      const chain = [cutter, ...between, holders.get(a.holderId)].filter((c) => c !== undefined);
      for (let k = 1; k < chain.length; k++) {
        const problem = misfit(chain[k - 1] as Clamped, chain[k] as Clamping);
        if (problem) issue(k === chain.length - 1 ? 'holderId' : 'extensionIds', `T${a.number}: ${problem}`);
      }
      const offset = a.lengthOffset ?? a.number;
      const other = offsets.get(offset);
      if (other) issue('lengthOffset', `T${a.number} and T${other} would share the length offset H${offset}.`);
      offsets.set(offset, a.number);
      if (numbers.has(a.number)) issue('number', `Two assemblies have the number T${a.number}.`);
      numbers.add(a.number);
    });
  });
export type Crib = z.infer<typeof cribSchema>;

/** How far an assembly stands out by its measured length, mm; undefined when none was measured. */
export function measuredStickOut(
  { measuredLength }: Pick<Assembly, 'measuredLength'>,
  extensions: readonly Extension[],
  holder: Holder | undefined,
): number | undefined {
  if (measuredLength === null || !holder) return undefined;
  const clamping = [...extensions.flatMap((e) => e.stack), ...holder.stack];
  return measuredLength - clamping.reduce((sum, f) => sum + f.length, 0);
}

type Clamped = Pick<Cutter, 'name' | 'DCONMS'>;
type Clamping = Pick<Holder, 'name' | 'DCONWS' | 'clampFrom'>;

/** Why a cylinder cannot be clamped, or undefined when it can or its size is not told. */
export function misfit(held: Clamped, by: Clamping): string | undefined {
  if (held.DCONMS === null || by.DCONWS === null) return undefined;
  const from = by.clampFrom ?? by.DCONWS;
  if (held.DCONMS >= from - FIT_MM && held.DCONMS <= by.DCONWS + FIT_MM) return undefined;
  const takes = from < by.DCONWS ? `${from} to ${by.DCONWS}` : String(by.DCONWS);
  return `"${held.name}" has a connection of ${held.DCONMS} mm, but "${by.name}" takes ${takes} mm.`;
}

/** An assembly with its cutter, extensions and holder looked up. */
export interface Tool {
  assembly: Assembly;
  cutter: Cutter;
  extensions: Extension[];
  holder: Holder;
}

export function toolOf(crib: Crib, assemblyId: string): Tool | undefined {
  const assembly = crib.assemblies.find((a) => a.id === assemblyId);
  return assembly && toolsOf({ ...crib, assemblies: [assembly] })[0];
}

/** All assemblies with their cutters, extensions and holders. */
export function toolsOf(crib: Crib): Tool[] {
  const cutters = new Map(crib.cutters.map((c) => [c.id, c]));
  const holders = new Map(crib.holders.map((h) => [h.id, h]));
  const known = new Map(crib.extensions.map((e) => [e.id, e]));
  return crib.assemblies.flatMap((assembly) => {
    const cutter = cutters.get(assembly.cutterId);
    const holder = holders.get(assembly.holderId);
    const extensions = assembly.extensionIds.flatMap((id) => known.get(id) ?? []);
    return cutter && holder ? [{ assembly, cutter, extensions, holder }] : [];
  });
}

/** "T3 bull-nose 8 R1". */
export function toolTitle(tool: Tool): string {
  return `T${tool.assembly.number} ${cutterTitle(tool.cutter)}`;
}

export function cutterTitle(cutter: Pick<Cutter, 'kind' | 'DC' | 'RE'>): string {
  const corner = cutter.RE > 0 && cutter.kind !== 'ball' ? ` R${cutter.RE}` : '';
  return `${CUTTER_WORDS[cutter.kind]} ${cutter.DC}${corner}`;
}

/** Feed of the axis, mm/min: vf = fz z n (ISO 3002). */
export function feedRate(fz: number, teeth: number, n: number): number {
  return fz * teeth * n;
}

/** Spindle speed, 1/min, for a cutting speed vc in m/min at diameter d in mm: n = 1000 vc / (π d) (ISO 3002). */
export function spindleSpeed(vc: number, d: number): number {
  return (1000 * vc) / (Math.PI * d);
}
