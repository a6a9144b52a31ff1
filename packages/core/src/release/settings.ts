import type { Motions } from '../path/toolpath';
import type { Tool } from '../tool/library';

/** What is to be set at the machine for one of the tools of a program. */
export interface ToolSetting {
  readonly number: number;
  readonly name: string;
  /** From the tip to what clamps the cutter, mm. */
  readonly stickOut: number;
  readonly lengthOffset: number;
  /** Where its wear is left to the control: the number of the offset, which is 0 for a new cutter (ISO 6983 word D). */
  readonly wearOffset?: number;
}

/** The tools of a program in the order in which they are first called, each once. */
export function toolSettings(
  steps: readonly { readonly tool: Tool; readonly path: Pick<Motions, 'wear'> }[],
): ToolSetting[] {
  const settings = new Map<string, ToolSetting>();
  for (const { tool, path } of steps) {
    const { id, number, stickOut, lengthOffset, radiusOffset } = tool.assembly;
    const known = settings.get(id);
    settings.set(id, {
      number,
      name: tool.cutter.name,
      stickOut,
      lengthOffset: lengthOffset ?? number,
      ...((path.wear?.length ?? 0) > 0 ? { wearOffset: radiusOffset ?? number } : {}),
      ...(known?.wearOffset === undefined ? {} : { wearOffset: known.wearOffset }),
    });
  }
  return [...settings.values()];
}
