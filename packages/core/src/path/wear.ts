/** On which side of its way the tool goes, looking along it. */
export type Side = 'left' | 'right';

/**
 * Motions of a path along which the control moves the tool aside by what is in its radius offset: `first` to `end` (exclusive). The path
 * is that of the axis, so the offset holds only what the cutter is larger or smaller by: its wear. The control goes over to the offset
 * way on the first of the motions and back on the last, so both are straight and level.
 */
export interface WearSpan {
  readonly first: number;
  readonly end: number;
  readonly side: Side;
}

/** Side on which the control compensates during a motion; undefined where it does not. On the last of a span it lets go already. */
export function wearSideAt(spans: readonly WearSpan[] | undefined, motion: number): Side | undefined {
  return spans?.find(({ first, end }) => motion >= first && motion < end - 1)?.side;
}
