/** Lengths that files are drawn in, by their symbols, in mm; likelier ones first. */
export const UNITS = { mm: 1, in: 25.4, m: 1000, cm: 10, µm: 1e-3 } as const;
export type LengthUnit = keyof typeof UNITS;
export const UNIT_SYMBOLS = Object.keys(UNITS) as [LengthUnit, ...LengthUnit[]];

/** Inserts, plates and electrodes are between these sizes, mm: outside of them a part's unit is doubted. */
const SMALL_PART_MM = 12;
const LARGE_PART_MM = 2500;

/** A doubt about a part's size. */
export interface UnitDoubt {
  /** The unit that would make it a part of the trade's size. */
  readonly unit: LengthUnit;
  /** How many times larger (or smaller: below 1) it would be then. */
  readonly factor: number;
  readonly sentence: string;
}

/**
 * Whether a part was likely read in a wrong unit.
 *
 * @param size longest side as it was read, mm
 * @param readAs unit that it was read in
 * @param isSaid whether the file says its unit itself
 */
export function unitDoubt(size: number, readAs: LengthUnit, isSaid: boolean): UnitDoubt | undefined {
  if (size >= SMALL_PART_MM && size <= LARGE_PART_MM) return undefined;
  const said = isSaid ? 'mm' : readAs;
  const drawn = size / UNITS[said];
  const unit = UNIT_SYMBOLS.find((u) => {
    const other = drawn * UNITS[u];
    return other >= SMALL_PART_MM && other <= LARGE_PART_MM;
  });
  if (unit === undefined) return undefined;
  const factor = UNITS[unit] / UNITS[said];
  const times = factor > 1 ? `${rounded(factor)} times larger` : `${rounded(1 / factor)} times smaller`;
  const long = `The part is ${size < 1 ? size.toPrecision(2) : size.toFixed(1)} mm long`;
  const would = `${times}, it would be ${(size * factor).toFixed(1)} mm`;
  return {
    unit,
    factor,
    sentence: isSaid
      ? `${long} by the unit that its file says: ${would}. If that is its size, export it again in mm.`
      : `${long}, as its file has no unit and was read in ${said}: in ${unit}, ${would}.`,
  };
}

const rounded = (factor: number): string => (Number.isInteger(factor) ? String(factor) : factor.toPrecision(4));
