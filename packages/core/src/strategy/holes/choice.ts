import { z } from 'zod';
import type { Hole } from '../../survey/features';
import type { Field } from '../kind';

const diameter = z.number().positive('Above 0.').max(500).nullable();

/** Which holes of the part are meant: mm; null: no bound. */
export const choiceShape = {
  diameterFrom: diameter,
  diameterTo: diameter,
  which: z.enum(['all', 'through', 'blind']),
};
export const choiceSchema = z.object(choiceShape);
export type HoleChoice = z.infer<typeof choiceSchema>;

export const isInOrder = (v: HoleChoice): boolean =>
  v.diameterFrom === null || v.diameterTo === null || v.diameterFrom <= v.diameterTo;
export const OUT_OF_ORDER = { path: ['diameterTo'], message: 'Not less than the smallest diameter.' };

/** Diameters this close are one, mm. */
const SAME_MM = 1e-3;

/** Whether a hole is one of those that are meant. */
export function isMeant(
  { diameter, through }: Pick<Hole, 'diameter' | 'through'>,
  { diameterFrom, diameterTo, which }: HoleChoice,
): boolean {
  if (which !== 'all' && through !== (which === 'through')) return false;
  return diameter >= (diameterFrom ?? -Infinity) - SAME_MM && diameter <= (diameterTo ?? Infinity) + SAME_MM;
}

/** The holes that are meant, to follow "no upright hole". */
export function choiceWords({ diameterFrom, diameterTo, which }: HoleChoice): string {
  const kind = which === 'all' ? '' : which === 'through' ? ' that goes through' : ' that ends in the part';
  if (diameterFrom === null && diameterTo === null) return kind.trim();
  if (diameterFrom === null) return `up to ⌀ ${diameterTo} mm${kind}`;
  return `of ⌀ ${diameterFrom} mm ${diameterTo === null ? 'or more' : `to ${diameterTo} mm`}${kind}`;
}

/** The same in a step's sentence, with what can be jumped to. */
export function choiceSentence({ diameterFrom, diameterTo, which }: HoleChoice): string {
  const kinds = which === 'all' ? 'holes' : `{which|${which} holes}`;
  if (diameterFrom === null && diameterTo === null) return `${kinds} of {diameterFrom|all diameters}`;
  if (diameterFrom === null) return `${kinds} {diameterTo|up to ⌀ ${diameterTo} mm}`;
  const to = diameterTo === null ? ' mm and more' : ` to {diameterTo|${diameterTo} mm}`;
  return `${kinds} of {diameterFrom|⌀ ${diameterFrom}}${to}`;
}

export const CHOICE_FIELDS: readonly Field[] = [
  {
    key: 'diameterFrom',
    label: 'Holes from diameter',
    section: 'aim',
    unit: 'mm',
    whenEmpty: 'the smallest',
    own: true,
    why: 'By the cutter: what it makes, and what it prepares for reaming or tapping.',
  },
  { key: 'diameterTo', label: 'to diameter', section: 'aim', unit: 'mm', whenEmpty: 'the largest', own: true },
  {
    key: 'which',
    label: 'Of them',
    section: 'aim',
    choices: [
      { value: 'all', label: 'all' },
      { value: 'through', label: 'through holes' },
      { value: 'blind', label: 'blind holes' },
    ],
  },
];
