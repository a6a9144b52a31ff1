import type { Holder } from './library';

/** Flange towards the spindle that all made-up holders have, mm. */
const FLANGE = { bottomDiameter: 63, topDiameter: 63, length: 26 };
const COLLET_RANGE_MM = 3;

/** A made-up holder of a kind that takes a connection of `diameter` mm, to be changed to the real one's sizes. */
export function holderShape(kind: Holder['kind'], diameter: number): Omit<Holder, 'id'> {
  const base = { kind, DCONWS: diameter, spindle: '', name: `${kind} ${diameter}` };
  const round = (value: number): number => Math.round(value);
  switch (kind) {
    case 'shrink-fit':
      return {
        ...base,
        clampFrom: null,
        stack: [
          { bottomDiameter: round(1.6 * diameter + 5), topDiameter: round(1.6 * diameter + 11), length: 40 },
          { bottomDiameter: 44, topDiameter: 50, length: 30 },
          FLANGE,
        ],
      };
    case 'collet':
      return {
        ...base,
        clampFrom: Math.max(1, diameter - COLLET_RANGE_MM),
        stack: [
          { bottomDiameter: round(1.7 * diameter + 14), topDiameter: round(1.7 * diameter + 16), length: 50 },
          FLANGE,
        ],
      };
    case 'face-mill arbor':
      return {
        ...base,
        clampFrom: null,
        stack: [{ bottomDiameter: round(2 * diameter), topDiameter: round(2 * diameter), length: 45 }, FLANGE],
      };
    case 'other':
      return {
        ...base,
        clampFrom: null,
        stack: [{ bottomDiameter: round(2 * diameter), topDiameter: round(2 * diameter), length: 60 }],
      };
  }
}
