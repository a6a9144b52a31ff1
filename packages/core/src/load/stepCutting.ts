import { z } from 'zod';
import { CUT_WORDS, type CutOf } from '../tool/cuts';
import { feedRate, type Tool } from '../tool/library';
import { cuttingData } from './cuttingData';
import type { Machine } from './machine';
import type { Material } from './material';
import { AIR_FEED, ENTRY_SHARE, PLUNGE_SHARE } from './practice';

const feed = z.number().positive().max(200_000).optional();

/** How hard a step cuts, in plain words, each with its factors on fz, vc and ae: common practice, no source. */
export const STRENGTHS = [
  { name: 'gentle', words: 'thin walls, a slender cutter, or one that must last', fz: 0.7, vc: 0.75, ae: 0.7 },
  { name: 'careful', words: 'chips and cooling poor: deep and narrow, hard to blow out', fz: 0.8, vc: 0.9, ae: 0.85 },
  { name: 'usual', words: 'sound conditions, chips get away', fz: 1, vc: 1, ae: 1 },
  { name: 'brisk', words: 'short and stiff, chips get away well', fz: 1.1, vc: 1.1, ae: 1.1 },
  { name: 'full', words: 'all that cutter and machine are good for, watched over', fz: 1.25, vc: 1.2, ae: 1.2 },
] as const;
export const USUAL_STRENGTH = 2;

/** Quantities of the load by which a feed can be evened. */
export const EVEN_BY = ['chip', 'power', 'bending'] as const;

/** A feed that follows the load. */
export const evenSchema = z.object({
  by: z.enum(EVEN_BY),
  /** What that is not to exceed, mm or kW; null: what it is in the step's own cut. */
  most: z.number().positive().max(500).nullable().default(null),
  /** Least and largest feed, as shares of the step's own, and how much it may change over a millimetre. */
  least: z.number().min(0.1, 'At least 10 %.').max(1, 'At most 100 %.').default(0.5),
  fastest: z.number().min(1, 'At least 100 %.').max(4, 'At most 400 %.').default(1.8),
  perMm: z.number().min(0.01, 'At least 1 %.').max(10, 'At most 1000 %.').default(0.3),
});
export type EvenFeed = z.infer<typeof evenSchema>;

/** Speed and feeds of a step beside what follows from its cut. */
export const stepCuttingSchema = z
  .object({
    /** Where they begin: the cutting data of the step's own cut, or the figures that the crib has for the assembly. */
    from: z.enum(['cut', 'crib']).default('crib'),
    /** Index into {@link STRENGTHS}. */
    strength: z.int().min(0).max(4).default(USUAL_STRENGTH),
    /** A feed that follows the load; null: it is the same in all cuts. */
    even: evenSchema.nullable().default(null),
    /** Set by hand, each alone: vc m/min or n 1/min; fz mm or vf mm/min; the other feeds mm/min. */
    own: z
      .object({
        vc: z.number().positive().max(2000).optional(),
        n: z.number().positive().max(200_000).optional(),
        fz: z.number().positive().max(5).optional(),
        vf: feed,
        entry: feed,
        plunge: feed,
        link: feed,
        back: feed,
      })
      .default({}),
  })
  .prefault({});
export type StepCutting = z.infer<typeof stepCuttingSchema>;
export type OwnCutting = keyof StepCutting['own'];

/** Speed and feeds of a step: 1/min, m/min, mm, mm/min. */
export interface CuttingFigures {
  readonly n: number;
  readonly vc: number;
  readonly fz: number;
  /** By what the motions are for. */
  readonly vf: number;
  readonly entry: number;
  readonly plunge: number;
  readonly link: number;
  readonly back: number;
  /** Diameter at which the edge cuts at this depth, mm. */
  readonly Deff: number;
  /** Where speed and feed come from, in words. */
  readonly why: string;
  /** What holds them back, in words. */
  readonly limit: string | undefined;
}

/** What speeds and feeds depend on beside the step. */
export interface Conditions {
  readonly material: Material;
  readonly machine: Machine;
  /** Index into the descriptions of stiffness. */
  readonly stiffness: number;
}

/**
 * Speed and feeds of a step: from its own cut or the crib, by how hard it is to cut, with what was set by hand. Feeds beside
 * the cutting one are shares of it (common practice); in air the cutter goes no
 * faster than it cuts, unless that is set or its ways are known to touch no steel.
 */
export function cuttingOf(
  { from, strength, own }: StepCutting,
  tool: Tool,
  at: CutOf,
  { material, machine, stiffness }: Conditions,
): CuttingFigures {
  const { cutter, assembly, extensions } = tool;
  const { name, fz: fzFactor, vc: vcFactor } = STRENGTHS[strength] ?? STRENGTHS[USUAL_STRENGTH];
  const figures = (overrides: { vc?: number; n?: number; fz?: number }): ReturnType<typeof cuttingData> =>
    cuttingData({ cutter, stickOut: assembly.stickOut, extensions, material, machine, stiffness, ...at, overrides });
  const isOfCut = from === 'cut';
  const plain = figures(isOfCut ? {} : { n: assembly.n, fz: assembly.fz });
  const d = figures({
    ...(own.n !== undefined
      ? { n: own.n }
      : own.vc !== undefined
        ? { vc: own.vc }
        : isOfCut
          ? { vc: plain.vc.value * vcFactor }
          : { n: assembly.n * vcFactor }),
    fz: own.fz ?? (isOfCut ? plain.fz.value : assembly.fz) * fzFactor,
  });
  const isWhole = own.n === undefined && (isOfCut || strength !== USUAL_STRENGTH);
  // what a person or the crib says is posted as it is; the release tells when the machine cannot
  const n = own.n ?? (isOfCut || own.vc !== undefined ? d.n.value : assembly.n * vcFactor);
  // a tap goes its pitch in a turn, whatever else is said
  const pitch = cutter.kind === 'tap' && cutter.TP > 0 ? cutter.TP : undefined;
  const turns = isWhole || pitch ? Math.max(1, Math.round(n)) : n;
  const perTooth = own.fz ?? (isOfCut ? tidy(d.fz.value) : assembly.fz * fzFactor);
  const vf = pitch ? pitch * turns : (own.vf ?? feedRate(perTooth, cutter.ZEFP, turns));
  const air = at.waysInAir ? Math.max(vf, Math.min(AIR_FEED, machine.maxFeed)) : vf;
  return {
    n: turns,
    vc: (Math.PI * d.Deff.value * turns) / 1000,
    fz: vf / (cutter.ZEFP * turns),
    vf,
    entry: own.entry ?? ENTRY_SHARE * vf,
    // the crib's figures stand for how it was always done: straight down as on a slope
    plunge: own.plunge ?? (isOfCut ? PLUNGE_SHARE : ENTRY_SHARE) * vf,
    link: own.link ?? air,
    back: own.back ?? own.link ?? air,
    Deff: d.Deff.value,
    why: isOfCut
      ? `${CUT_WORDS[at.cut]} at ae ${tidy(at.ae)} mm, ap ${tidy(at.ap)} mm, ${name}`
      : `figures of the crib, ${name}`,
    limit: isOfCut ? (d.n.limit ?? d.fz.limit) : own.n === undefined && own.vc !== undefined ? d.n.limit : undefined,
  };
}

const tidy = (value: number): number => Math.max(1e-4, Math.round(value * 1e4) / 1e4);
