import type { CutOf } from './cuts';
import {
  ANGLED_KINDS,
  type Assembly,
  assemblySchema,
  BOUNDS_NOT_TOLD,
  CUTTER_WORDS,
  type Cutter,
  type CutterKind,
  neckEnd,
} from './library';

/** Shanks as they are sold, mm (ISO 3338-1: plain cylindrical shanks of end mills). */
const SHANKS = [4, 6, 8, 10, 12, 16, 20, 25, 32];
/** Length of the flutes, and of what can go into a pocket, in diameters: common practice, no source. */
const FLUTES: Partial<Record<CutterKind, number>> = {
  flat: 2,
  bull: 1.5,
  'high-feed': 0.5,
  face: 0.25,
  ball: 1.2,
  drill: 5,
};
const USABLE = 5;
/** How much slimmer a neck is than its cutter, as a share of the diameter, mm at least: common practice, no source. */
const NECK_SHARE = 0.94;
/** What a shank needs to be held by, in diameters: common practice, no source. */
const HELD = 4;
const ANGLES: Partial<Record<CutterKind, number>> = { drill: 140, spot: 90, chamfer: 90, tapered: 6 };
/** Pitches of ISO metric coarse threads by their diameter, mm (ISO 261, from memory). */
const COARSE_PITCH: Readonly<Record<number, number>> = {
  2: 0.4,
  2.5: 0.45,
  3: 0.5,
  4: 0.7,
  5: 0.8,
  6: 1,
  8: 1.25,
  10: 1.5,
  12: 1.75,
  14: 2,
  16: 2,
  18: 2.5,
  20: 2.5,
  24: 3,
};
/** Kinds that go straight down into steel. */
const DIVING: readonly CutterKind[] = ['drill', 'spot', 'ball', 'chamfer'];

const half = (value: number): number => Math.round(2 * value) / 2;
const tenth = (value: number): number => Math.round(10 * value) / 10;

/** What can be told of a cutter beside kind and diameter. */
export type Told = Partial<Omit<Cutter, 'id' | 'kind' | 'DC'>>;

/**
 * A cutter of a kind and diameter with the sizes that such cutters usually have, to be changed to the real ones: necked where
 * its shank is wider than it is. All proportions are common practice.
 */
export function usualCutter(kind: CutterKind, DC: number, told: Told = {}): Omit<Cutter, 'id'> {
  const DMM = told.DMM ?? (kind === 'face' ? Math.min(32, half(0.5 * DC)) : (SHANKS.find((d) => d >= DC) ?? DC));
  const APMX = told.APMX ?? Math.max(1, tenth((FLUTES[kind] ?? 1.5) * DC));
  const isSlender = kind !== 'face' && !ANGLED_KINDS.includes(kind) && DMM > DC * 1.02;
  const isNecked = isSlender || (told.LN ?? null) !== null || (told.DN ?? null) !== null;
  const LN = isNecked ? Math.max(half(USABLE * DC), APMX + 1) : null;
  const RE =
    kind === 'ball'
      ? DC / 2
      : kind === 'bull'
        ? tenth(DC / 8) || 0.1
        : kind === 'high-feed'
          ? tenth(DC / 8)
          : kind === 'tapered'
            ? DC / 4
            : 0;
  const reach = told.LN ?? LN ?? Math.max(APMX, 3 * DC);
  const OAL = told.OAL ?? Math.max(50, 5 * Math.ceil((reach + HELD * DMM + 5) / 5));
  const cutter = {
    kind,
    DC,
    RE,
    APMX,
    DMM,
    OAL,
    DN: isNecked ? Math.round(100 * NECK_SHARE * DC) / 100 : null,
    LN,
    neckTaper: 0,
    neckCone: 30,
    ZEFP: DC < 2 || kind === 'ball' || kind === 'tapered' ? 2 : DIVING.includes(kind) ? 2 : 4,
    SIG: ANGLES[kind] ?? 0,
    TP: kind === 'tap' ? (COARSE_PITCH[DC] ?? 0) : 0,
    centreCutting: DIVING.includes(kind) || kind === 'flat',
    ...BOUNDS_NOT_TOLD,
    grade: 'HC' as const,
    DCONMS: DMM,
    ...told,
  };
  const corner = cutter.RE > 0 && kind !== 'ball' ? ` R${cutter.RE}` : '';
  const neck = cutter.LN === null ? '' : ` x ${cutter.LN}`;
  const word = CUTTER_WORDS[kind];
  return { name: `${word[0]!.toUpperCase()}${word.slice(1)} ${DC}${corner}${neck}`, ...cutter };
}

/** How far a cutter stands out in diameters at least, and beyond its neck or flutes, mm: common practice, no source. */
const STANDS_OUT = 3;
const BEYOND_MM = 3;

/** Depth of a finishing cut as a share of DC: common practice, no source. */
export const FINISHING_DEPTH = 0.03;

/** Thickness that a reamer or boring bar takes off the wall of a hole, mm (common practice: 0.1 to 0.3 in diameter). */
const REAMED_MM = 0.1;
/** Area of a thread's groove along the hole, as a share of diameter times pitch: 0.27 π, from its depth of 0.613 TP (ISO 68-1, from memory). */
const THREAD_SHARE = 0.27 * Math.PI;

/** The cut of a cutter that makes a hole along its axis, told as a strip of DC of the same area, mm; undefined for others. */
export function axialCut({ kind, DC, TP }: Pick<Cutter, 'kind' | 'DC' | 'TP'>): CutOf | undefined {
  if (kind === 'drill' || kind === 'spot') return { cut: 'drill', ae: DC, ap: (Math.PI / 4) * DC };
  if (kind === 'reamer' || kind === 'bore') return { cut: 'ream', ae: DC, ap: Math.PI * REAMED_MM };
  if (kind === 'tap') return { cut: 'tap', ae: DC, ap: Math.max(0.05, THREAD_SHARE * TP) };
  return undefined;
}

/** The cut that a cutter is mostly used for, to begin with: shares of DC are common practice, no source. */
export function usualCut({ kind, DC, TP }: Pick<Cutter, 'kind' | 'DC' | 'TP'>): CutOf {
  const round = (v: number): number => Math.max(0.01, Math.round(v * 1000) / 1000);
  if (kind === 'ball' || kind === 'tapered')
    return { cut: 'finish', ae: round(0.05 * DC), ap: round(FINISHING_DEPTH * DC) };
  const axial = axialCut({ kind, DC, TP });
  if (axial) return { ...axial, ae: round(axial.ae), ap: round(axial.ap) };
  return { cut: 'rough', ae: round(0.45 * DC), ap: round(0.125 * DC) };
}

/** A cutter in a holder, as short as it may be; its speed and feed are to follow the cut that it is mostly used for. */
export function usualAssembly(
  names: Pick<Assembly, 'id' | 'number' | 'cutterId' | 'holderId'>,
  cutter: Omit<Cutter, 'id'>,
): Assembly {
  const reach = Math.max(neckEnd(cutter), cutter.APMX, STANDS_OUT * cutter.DC);
  const stickOut = Math.min(cutter.OAL, Math.ceil(reach + BEYOND_MM));
  // until they are worked out for material and machine
  const slow = { n: 1000, fz: 0.01 };
  return assemblySchema.parse({ ...names, stickOut, ...slow, data: { ...usualCut(cutter), overrides: {} } });
}

/** A cutter stands out so much more than the wall beside it is high, and stick-outs are set to so many mm (common practice). */
const MARGIN_MM = 5;
const STEP_MM = 5;
/** It is clamped over so many shank diameters at least (common practice). */
const CLAMPED_DIAMETERS = 2;

/** Stick-out for a cutter that needs at least so much, mm. */
export function advisedStickOut(needed: number): number {
  return STEP_MM * Math.ceil((needed + MARGIN_MM) / STEP_MM - 1e-9);
}

/** How far a cutter can stand out and still be clamped, mm. */
export function longestStickOut({ OAL, DMM }: Pick<Cutter, 'OAL' | 'DMM'>): number {
  return OAL - CLAMPED_DIAMETERS * DMM;
}
