import { z } from 'zod';
import { type Profile, type ProfilePiece, roundProfile, stackProfile } from './profile';

/** Steps of an assembly's name are short: they stand on the run strip. */
const name = z.string().min(1).max(80);
const length = z.number().positive().max(2000);

/** Kinds of cutter, with the word that the sheet and the table use. */
export const CUTTER_KINDS = ['flat', 'ball', 'bull'] as const;
export type CutterKind = (typeof CUTTER_KINDS)[number];
export const CUTTER_WORDS: Record<CutterKind, string> = { flat: 'flat', ball: 'ball', bull: 'bull-nose' };

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
    /** Diameter of neck and shank above the flutes. */
    DMM: length,
    /** Overall length. */
    OAL: length,
    /** Number of effective cutting edges. */
    ZEFP: z.int().min(1).max(30),
    /** Whether it may be driven straight down into steel. */
    centreCutting: z.boolean().default(false),
  })
  .superRefine((c, context) => {
    const issue = (path: string, message: string): void => context.addIssue({ code: 'custom', path: [path], message });
    if (c.kind === 'ball' && Math.abs(c.RE - c.DC / 2) > 1e-6)
      issue('RE', `A ball cutter of DC ${c.DC} has RE ${c.DC / 2}, not ${c.RE}.`);
    if (c.kind === 'flat' && c.RE !== 0) issue('RE', `A flat cutter has RE 0, not ${c.RE}.`);
    if (c.kind === 'bull' && !(c.RE > 0 && c.RE < c.DC / 2))
      issue('RE', `A bull-nose cutter of DC ${c.DC} needs an RE between 0 and ${c.DC / 2}.`);
    if (c.APMX > c.OAL) issue('APMX', 'The flutes cannot be longer than the whole cutter.');
  });
export type Cutter = z.infer<typeof cutterSchema>;

/** A holder as stacked frusta from the cutter's side up, mm. */
export const holderSchema = z.object({
  id: z.string().min(1),
  name,
  stack: z
    .array(
      z.object({
        bottomDiameter: z.number().min(0).max(500),
        topDiameter: z.number().min(0).max(500),
        length: z.number().positive().max(1000),
      }),
    )
    .min(1)
    .max(40),
});
export type Holder = z.infer<typeof holderSchema>;

/** A cutter in a holder, ready in the machine's magazine. */
export const assemblySchema = z.object({
  id: z.string().min(1),
  /** Number of its place in the magazine: T word. */
  number: z.int().min(1).max(9999),
  cutterId: z.string().min(1),
  holderId: z.string().min(1),
  /** From the tip to the holder's lower end, mm. */
  stickOut: length,
  /** Spindle speed, 1/min. */
  n: z.number().positive().max(200_000),
  /** Feed per tooth, mm. */
  fz: z.number().positive().max(5),
});
export type Assembly = z.infer<typeof assemblySchema>;

export const cribSchema = z
  .object({
    cutters: z.array(cutterSchema).max(5000),
    holders: z.array(holderSchema).max(5000),
    assemblies: z.array(assemblySchema).max(5000),
  })
  .superRefine((crib, context) => {
    const numbers = new Set<number>();
    crib.assemblies.forEach((a, i) => {
      const issue = (path: string, message: string): void =>
        context.addIssue({ code: 'custom', path: ['assemblies', i, path], message });
      const cutter = crib.cutters.find((c) => c.id === a.cutterId);
      if (!cutter) issue('cutterId', `T${a.number} names a cutter "${a.cutterId}" that is not in the crib.`);
      if (!crib.holders.some((h) => h.id === a.holderId))
        issue('holderId', `T${a.number} names a holder "${a.holderId}" that is not in the crib.`);
      if (cutter && a.stickOut < cutter.APMX)
        issue('stickOut', `T${a.number} sticks out ${a.stickOut} mm, less than its flutes of ${cutter.APMX} mm.`);
      if (cutter && a.stickOut > cutter.OAL)
        issue('stickOut', `T${a.number} sticks out ${a.stickOut} mm, more than its whole length of ${cutter.OAL} mm.`);
      if (numbers.has(a.number)) issue('number', `Two assemblies have the number T${a.number}.`);
      numbers.add(a.number);
    });
  });
export type Crib = z.infer<typeof cribSchema>;

/** An assembly with its cutter and holder looked up. */
export interface Tool {
  assembly: Assembly;
  cutter: Cutter;
  holder: Holder;
}

export function toolOf(crib: Crib, assemblyId: string): Tool | undefined {
  const assembly = crib.assemblies.find((a) => a.id === assemblyId);
  const cutter = crib.cutters.find((c) => c.id === assembly?.cutterId);
  const holder = crib.holders.find((h) => h.id === assembly?.holderId);
  return assembly && cutter && holder ? { assembly, cutter, holder } : undefined;
}

/** "T3 bull-nose 8 R1". */
export function toolTitle(tool: Tool): string {
  return `T${tool.assembly.number} ${cutterTitle(tool.cutter)}`;
}

export function cutterTitle(cutter: Cutter): string {
  const corner = cutter.kind === 'bull' ? ` R${cutter.RE}` : '';
  return `${CUTTER_WORDS[cutter.kind]} ${cutter.DC}${corner}`;
}

/** Underside of the cutting part. */
export function cutterProfile(cutter: Cutter): ProfilePiece & { kind: 'round' } {
  return roundProfile(cutter.DC, cutter.RE) as ProfilePiece & { kind: 'round' };
}

/** Underside of neck and shank, from the end of the flutes up. */
export function shankProfile(tool: Tool): Profile {
  const { cutter, assembly } = tool;
  if (assembly.stickOut <= cutter.APMX) return [];
  return stackProfile(
    [{ bottomDiameter: cutter.DMM, topDiameter: cutter.DMM, length: assembly.stickOut - cutter.APMX }],
    cutter.APMX,
  );
}

/** Underside of the holder. */
export function holderProfile(tool: Tool): Profile {
  return stackProfile(tool.holder.stack, tool.assembly.stickOut);
}

/** Feed of the axis, mm/min: vf = fz z n (ISO 3002). */
export function feedRate(fz: number, teeth: number, n: number): number {
  return fz * teeth * n;
}

/** Spindle speed, 1/min, for a cutting speed vc in m/min at diameter d in mm: n = 1000 vc / (π d) (ISO 3002). */
export function spindleSpeed(vc: number, d: number): number {
  return (1000 * vc) / (Math.PI * d);
}
