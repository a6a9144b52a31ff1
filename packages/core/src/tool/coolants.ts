/** What keeps the edge cool and carries the chips away. */
export const COOLANTS = ['none', 'flood', 'air', 'mist', 'through'] as const;
export type Coolant = (typeof COOLANTS)[number];
export const COOLANT_WORDS: Record<Coolant, string> = {
  none: 'none',
  flood: 'flood',
  air: 'air',
  mist: 'mist',
  through: 'through the spindle',
};
