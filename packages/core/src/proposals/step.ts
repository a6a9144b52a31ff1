import type { Values } from '../strategy/kind';
import { kindOf } from '../strategy/registry';
import { type Crib, type CutterKind, type Tool, toolsOf } from '../tool/library';
import { shapeOf } from '../tool/shape';

/** A step that is proposed, with the cutter that was chosen for it. */
export interface ProposedStep {
  readonly kind: string;
  readonly name: string;
  readonly tool: Tool;
  /** All its values; those of them that are not the house values of its cutter. */
  readonly values: Values;
  readonly own: Values;
  /** It is offered, and only taken when it is asked for. */
  readonly isExtra?: true;
}

/** Steps in their order, and what the crib lacks for some, in words. */
export interface Proposal {
  readonly steps: readonly ProposedStep[];
  readonly missing: readonly string[];
}

export function proposed(kind: string, name: string, tool: Tool, own: Values = {}): ProposedStep {
  return { kind, name, tool, own, values: { ...kindOf(kind)!.house(shapeOf(tool)), ...own } };
}

/** The same step with another cutter. */
export function withCutter({ kind, name, own, isExtra }: ProposedStep, tool: Tool): ProposedStep {
  return { ...proposed(kind, name, tool, own), ...(isExtra && { isExtra }) };
}

/** Cutters of a crib that can do a kind of step. */
export function cuttersFor(kind: string, crib: Crib): Tool[] {
  const { refuses } = kindOf(kind)!;
  return usable(crib).filter((tool) => refuses(shapeOf(tool)) === undefined);
}

export const usable = (crib: Crib): Tool[] => toolsOf(crib).filter((t) => !t.assembly.retired);

export const ofKind = (tools: readonly Tool[], ...kinds: CutterKind[]): Tool[] =>
  tools.filter(({ cutter }) => kinds.includes(cutter.kind));
