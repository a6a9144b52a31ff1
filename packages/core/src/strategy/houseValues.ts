import { z } from 'zod';
import { readValue } from '../tool/relative';
import { CUTTER_KINDS, type CutterKind } from '../tool/library';
import type { ToolShape } from '../tool/shape';
import type { Field, StepKind, Value } from './kind';

/**
 * A shop's own beginnings of steps: by kind of step, kind of cutter and key of the value. A text in place of a number is
 * worked out with the cutter's sizes: `0.125 DC`.
 */
export const houseValuesSchema = z.record(
  z.string().max(60),
  z.partialRecord(
    z.enum(CUTTER_KINDS),
    z.record(z.string().max(60), z.union([z.number(), z.string().max(200), z.boolean(), z.null()])),
  ),
);
export type HouseValues = z.infer<typeof houseValuesSchema>;

/** Sizes of a cutter that a value can be relative to, mm. */
export function cutterSymbols({ DC, RE, APMX }: Pick<ToolShape, 'DC' | 'RE' | 'APMX'>): Record<string, number> {
  return { DC, RE, APMX };
}

/** What a step of a kind begins with for a tool: the shop's own values where they hold, else those of the kind. */
export function houseOf(kind: StepKind, tool: ToolShape, shop: HouseValues = {}): Record<string, Value> {
  const built = kind.house(tool);
  const values: Record<string, Value> = { ...built };
  for (const [key, own] of Object.entries(shop[kind.id]?.[tool.kind] ?? {})) {
    if (!(key in built)) continue;
    const value = workedOut(kind, key, own, tool);
    if (value !== undefined && 'values' in kind.check({ ...values, [key]: value })) values[key] = value;
  }
  for (const { key, boundBy } of kind.fields) {
    const most = boundBy && tool[boundBy];
    const value = values[key];
    const isBeyond = most !== undefined && typeof value === 'number' && value > most;
    // where the kind takes no value as small as that, its own stays, and the field tells
    if (isBeyond && 'values' in kind.check({ ...values, [key]: most })) values[key] = most;
  }
  return values;
}

/** What a value asks of a cutter beyond what it bears, in words; undefined where it bears it, or its maker does not tell. */
export function beyondBound({ boundBy }: Field, value: Value | undefined, tool: ToolShape): string | undefined {
  const most = boundBy && tool[boundBy];
  if (most === undefined || typeof value !== 'number' || value <= most) return undefined;
  if (boundBy === 'RMPX') return `This cutter goes down by ${most}° at most: that is what holds.`;
  return `This cutter bears ${most} mm at most.`;
}

/** The shop's own value as it was set, or undefined when there is none. */
export function ownHouseValue(shop: HouseValues, kindId: string, cutter: CutterKind, key: string): Value | undefined {
  return shop[kindId]?.[cutter]?.[key];
}

/** House values with one more, or, for undefined, without it. */
export function withHouseValue(
  shop: HouseValues,
  kindId: string,
  cutter: CutterKind,
  key: string,
  value: Value | undefined,
): HouseValues {
  const own = { ...shop[kindId]?.[cutter] };
  if (value === undefined) delete own[key];
  else own[key] = value;
  return { ...shop, [kindId]: { ...shop[kindId], [cutter]: own } };
}

function workedOut(kind: StepKind, key: string, own: Value, tool: ToolShape): Value | undefined {
  const words = kind.fields.find((f) => f.key === key)?.choices;
  if (typeof own !== 'string' || words) return own;
  const typed = readValue(own, cutterSymbols(tool));
  return 'value' in typed ? Math.round(typed.value * 1e4) / 1e4 : undefined;
}
