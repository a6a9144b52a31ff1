import { z } from 'zod';

/** A place of the part that a height of a step is bound to: with another zero or another revision the height goes with it. */
export const boundHeightSchema = z.object({
  /** The part's top, its lowest place, or a place that was picked. */
  to: z.enum(['top', 'lowest', 'place']),
  /** The picked place in words. */
  what: z.string().max(200).default(''),
  /** Height of the place in the laid frame, mm. What the step's value stands above it is the offset. */
  at: z.number().min(-1e6).max(1e6),
  /** Where the place lies in plan in the laid frame, mm: of places at one height this one is meant. */
  x: z.number().min(-1e6).max(1e6).optional(),
  y: z.number().min(-1e6).max(1e6).optional(),
});
export type BoundHeight = z.infer<typeof boundHeightSchema>;
/** The bound ones among a step's heights, by the values' keys. */
export const boundHeightsSchema = z.record(z.string().max(60), boundHeightSchema).optional();
export type BoundHeights = Readonly<Record<string, BoundHeight>>;

/** Height above a bound place, mm. */
export function offsetOf(value: number, { at }: BoundHeight, zero: number): number {
  return Math.round((value - (at - zero)) * 1e4) / 1e4;
}

/** Bound heights with one more, or, for undefined, without it. */
export function withBound(
  bound: BoundHeights | undefined,
  key: string,
  one: BoundHeight | undefined,
): BoundHeights | undefined {
  const all = { ...bound };
  if (one) all[key] = one;
  else delete all[key];
  return Object.keys(all).length > 0 ? all : undefined;
}
