import jsep, { type Expression } from 'jsep';
import { z } from 'zod';

/** A typed value: the number and the symbols that it was worked out from, or what is wrong and at which character. */
export type Typed = { value: number; symbols: readonly string[] } | { problem: string };

/** A value as it was typed with symbols, to be worked out again whenever what they stand for changes. */
export const relationSchema = z.object({
  /** As it was typed: `0.3 DC`. */
  expr: z.string().min(1).max(200),
  /** What a number that stands alone in it is in. */
  unit: z.enum(['mm', 'in']).default('mm'),
});
export type Relation = z.infer<typeof relationSchema>;
/** The relations among some values, by the values' keys. */
export const relationsSchema = z.record(z.string().max(60), relationSchema).optional();
export type Relations = Readonly<Record<string, Relation>>;

/** A value by its relation. @returns the number, or what is wrong with it */
export function related({ expr, unit }: Relation, symbols: Readonly<Record<string, number>>): Typed {
  return readValue(expr, symbols, unit === 'in' ? MM_PER_INCH : 1);
}

const MM_PER_INCH = 25.4;

/**
 * Reads a number as a person types it: `12.5`, `12,5`, `0.3 DC`, `50 % DC`, `2 in`, `(APMX - 1) / 2`. Only arithmetic and
 * the given symbols; lengths may end in `mm` or `in`. A number that stands alone, or is added to a length, is in the unit
 * that is typed in; a factor is not.
 *
 * @param symbols lengths by their symbols, mm
 * @param unit what 1 is, in the unit of the value: 25.4 for a length in mm that is typed in inches
 */
export function readValue(text: string, symbols: Readonly<Record<string, number>> = {}, unit = 1): Typed {
  const plain = text
    .trim()
    .replace(/\u2212/g, '-')
    .replace(/(\d),(\d)/g, '$1.$2');
  if (plain === '') return { problem: 'A number is missing.' };
  // a factor before a symbol, a unit or a bracket multiplies; a per cent sign stands for a hundredth
  const spelled = plain
    .replace(/%/g, ' * 0.01 ')
    .replace(/(\d|\)|\b)\s*\*\s*0\.01\s+(?=[A-Za-z(])/g, '$1 * 0.01 * ')
    .replace(/((?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?|\))\s*(?=[A-Za-z(])/gi, '$1 * ')
    .replace(/°\s*$/, '');
  let tree: Expression;
  try {
    tree = jsep(spelled);
  } catch (error) {
    const at = (error as { index?: number }).index;
    return {
      problem: `"${text.trim()}" cannot be read${at === undefined ? '' : ` from character ${Math.min(at + 1, text.length)} on`}.`,
    };
  }
  try {
    const { value } = asLength(valueOf(tree, { mm: 1, in: MM_PER_INCH, ...symbols }, unit), unit);
    const named = Object.keys(symbols).filter((name) => new RegExp(`\\b${name}\\b`).test(spelled));
    return Number.isFinite(value)
      ? { value: tidy(value), symbols: named }
      : { problem: `"${text.trim()}" has no finite value.` };
  } catch (error) {
    return { problem: (error as Error).message };
  }
}

/** Ten decimals are beyond any tolerance and hide the rounding of factors. */
const tidy = (value: number): number => Math.round(value * 1e10) / 1e10;

/** A part of what is typed: a length, or a plain number that may yet become one or a factor. */
interface Part {
  readonly value: number;
  readonly isLength: boolean;
}

const asLength = (part: Part, unit: number): Part =>
  part.isLength ? part : { value: part.value * unit, isLength: true };

function valueOf(node: Expression, symbols: Readonly<Record<string, number>>, unit: number): Part {
  switch (node.type) {
    case 'Literal': {
      const value = (node as { value?: unknown }).value;
      if (typeof value === 'number') return { value, isLength: false };
      break;
    }
    case 'Identifier': {
      const name = String((node as { name?: unknown }).name);
      if (Object.hasOwn(symbols, name)) return { value: symbols[name]!, isLength: true };
      const known = Object.keys(symbols).filter((s) => s !== 'mm' && s !== 'in');
      throw new Error(`"${name}" is not known here${known.length > 0 ? `; there are ${known.join(', ')}` : ''}.`);
    }
    case 'UnaryExpression': {
      const { operator, argument } = node as unknown as { operator: string; argument: Expression };
      const part = valueOf(argument, symbols, unit);
      if (operator === '-') return { ...part, value: -part.value };
      if (operator === '+') return part;
      break;
    }
    case 'BinaryExpression': {
      const { operator, left, right } = node as unknown as { operator: string; left: Expression; right: Expression };
      const a = valueOf(left, symbols, unit);
      const b = valueOf(right, symbols, unit);
      const isLength = a.isLength || b.isLength;
      if (operator === '*') return { value: a.value * b.value, isLength };
      if (operator === '/') return { value: a.value / b.value, isLength: a.isLength && !b.isLength };
      if (operator !== '+' && operator !== '-') break;
      const [u, v] = isLength ? [asLength(a, unit), asLength(b, unit)] : [a, b];
      return { value: operator === '+' ? u.value + v.value : u.value - v.value, isLength };
    }
  }
  throw new Error('Only numbers, + - * /, brackets and symbols can be used here.');
}
