import { feedRate, type Tool } from '../tool/library';

/** Share of the cutting feed at which a cutter goes into steel: common practice, no source. */
export const ENTRY_SHARE = 0.4;

/** Feeds of a step by what its motions are for, mm/min. */
export interface Feeds {
  cut: number;
  entry: number;
  link: number;
}

/** Feeds of an assembly, mm/min. */
export function feedsOf(tool: Pick<Tool, 'assembly' | 'cutter'>): Feeds {
  const cut = feedRate(tool.assembly.fz, tool.cutter.ZEFP, tool.assembly.n);
  return { cut, entry: ENTRY_SHARE * cut, link: cut };
}
