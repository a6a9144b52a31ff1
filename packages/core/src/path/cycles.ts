import { Motion } from './motion';

/** What a cutter does in a hole, by its moves. */
export const CYCLES = ['drill', 'peck', 'break', 'ream', 'tap'] as const;
export type Cycle = (typeof CYCLES)[number];

/** How a hole is made: heights of the tip, mm. */
export interface HoleCut {
  readonly cycle: Cycle;
  /** Height to which the tip comes at rapid rate, and to which it goes back. */
  readonly from: number;
  /** Lowest height. */
  readonly to: number;
  /** Depth of a peck; 0 for cycles without. */
  readonly peck: number;
}

/** Motions of a path that one cycle of a control makes: `first` to `end` (exclusive); the tip stands over the hole before. */
export interface CycleSpan extends HoleCut {
  readonly first: number;
  readonly end: number;
}

/**
 * How far a peck goes back to break the chip, and above the last depth where the next one begins at feed, mm: a hundredth of an
 * inch, as the RS274/NGC interpreter does (NISTIR 6556, from memory).
 */
export const PECK_BACK_MM = 0.254;

/** Moves of a hole from the height `from` over it on, as heights and what each move is for (RS274/NGC 3.5.16, NISTIR 6556, from memory). */
export function movesOf({ cycle, from, to, peck }: HoleCut): { readonly z: number; readonly kind: Motion }[] {
  const out: { z: number; kind: Motion }[] = [];
  if (cycle === 'peck' || cycle === 'break') {
    for (let deep = from; deep > to;) {
      deep = Math.max(to, deep - peck);
      out.push({ z: deep, kind: Motion.cut });
      if (deep <= to) break;
      const back = deep + PECK_BACK_MM;
      out.push({ z: cycle === 'peck' ? from : back, kind: Motion.rapid });
      if (cycle === 'peck') out.push({ z: back, kind: Motion.rapid });
    }
  } else out.push({ z: to, kind: Motion.cut });
  out.push({ z: from, kind: cycle === 'ream' || cycle === 'tap' ? Motion.exit : Motion.rapid });
  return out;
}
