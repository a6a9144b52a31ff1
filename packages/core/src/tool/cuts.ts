/** Kinds of cut, by how much of the cutter is in the steel. */
export const CUTS = ['slot', 'rough', 'rest', 'finish', 'drill', 'ream', 'tap'] as const;
export type Cut = (typeof CUTS)[number];
export const CUT_WORDS: Record<Cut, string> = {
  slot: 'full slot',
  rough: 'roughing',
  rest: 'rest roughing',
  finish: 'finishing',
  drill: 'drilling',
  ream: 'reaming or boring',
  tap: 'tapping',
};

/** Cuts along the cutter's axis: nothing bends it to a side. */
export const isAxial = (cut: Cut): boolean => cut === 'drill' || cut === 'ream' || cut === 'tap';

/** The cut of a step as the cutting data want it, mm. */
export interface CutOf {
  readonly cut: Cut;
  readonly ae: number;
  readonly ap: number;
  /** The ways between the cuts are known to touch no steel. */
  readonly waysInAir?: true;
}
