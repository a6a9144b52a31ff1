import type { Coolant } from '../tool/coolants';
import type { Grade } from '../tool/library';
import type { Material } from './material';

/** Cutting materials that crack when they are quenched: common practice, no source. */
const SHY_OF_FLOOD: readonly Grade[] = ['BH', 'HT'];

/** What a shop takes for a material and a cutting material: air on hard steel and for shy grades, flood else (common practice). */
export function houseCoolant({ group }: Pick<Material, 'group'>, grade: Grade): Coolant {
  return group === 'H' || SHY_OF_FLOOD.includes(grade) ? 'air' : 'flood';
}

/** What speaks against a coolant where steps are held against the rules for hard steel. */
export function hardSteelDoubt(coolant: Coolant): string | undefined {
  return coolant === 'flood' || coolant === 'through'
    ? 'Hard steel: it is cut under a liquid, which quenches the edge at every turn; air is usual'
    : undefined;
}

/** What speaks against a coolant, in words; undefined when nothing does (common practice). */
export function coolantDoubt(coolant: Coolant, { group }: Pick<Material, 'group'>, grade: Grade): string | undefined {
  if (coolant !== 'flood') return undefined;
  if (group === 'H')
    return 'Flood on hard steel quenches the edge at every turn: carbide cracks. Air or mist is usual.';
  if (SHY_OF_FLOOD.includes(grade)) return 'This cutting material cracks under flood: air or none is usual.';
  return undefined;
}
