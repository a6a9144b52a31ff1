import { cutterProfile, feedRate, holderProfile, type Tool } from '../cutter/library';
import type { Feeds } from './toolpath';
import type { TravelTool } from './travel';

/** Share of the cutting feed at which a cutter goes into steel. */
export const ENTRY_SHARE = 0.4;

/** Feeds of an assembly, mm/min. */
export function feedsOf(tool: Tool): Feeds {
  const cut = feedRate(tool.assembly.fz, tool.cutter.ZEFP, tool.assembly.n);
  return { cut, entry: ENTRY_SHARE * cut, link: cut };
}

export function travelTool(tool: Tool): TravelTool {
  const holder = holderProfile(tool);
  return {
    piece: cutterProfile(tool.cutter),
    stickOut: tool.assembly.stickOut,
    holderRadius: holder.length > 0 ? holder[holder.length - 1]!.radius : 0,
  };
}
