import type { LoadQuantity } from '../load/loadAlong';

/** A quantity of the load along a step. */
export interface LoadFigure {
  /** Not exceeded over half the length that is in steel, over 95 % of it, and anywhere. */
  readonly p50: number;
  readonly p95: number;
  readonly most: number;
  /** The motion where it is largest. */
  readonly motion: number;
  /** What machine or assembly is to bear, where they tell. */
  readonly limit: number | undefined;
  /** Share of the length in steel that is above the limit. */
  readonly above: number;
  /** Lengths in steel, mm, by the value: equal bins from 0 to the largest. */
  readonly bins: readonly number[];
  /** Largest value in each of equal spans of the step's time. */
  readonly spans: readonly number[];
}
export type LoadFigures = Readonly<Record<LoadQuantity, LoadFigure>>;
