import { type Crib, type Tool, toolsOf } from './library';

/** Kinds of end mill whose edge is fast down to their end, all but their middle. */
const FAST_ENDED = ['bull', 'flat'];

/**
 * An assembly that opens up better than one with a ball, whose middle hardly turns: an end mill with a flat, at least as wide and
 * standing out at least as far; the slimmest of them. Undefined for other cutters, and where the crib has none.
 */
export function rougherThan({ cutter, assembly }: Tool, crib: Crib): Tool | undefined {
  if (cutter.kind !== 'ball') return undefined;
  return toolsOf(crib)
    .filter(
      (t) =>
        FAST_ENDED.includes(t.cutter.kind) &&
        !t.assembly.retired &&
        t.cutter.DC >= cutter.DC &&
        t.assembly.stickOut >= assembly.stickOut,
    )
    .sort((a, b) => a.cutter.DC - b.cutter.DC)[0];
}
