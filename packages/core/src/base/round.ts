/** A length, mm, or any other number, to three decimals. */
export const toThousandth = (value: number): number => Math.round(value * 1000) / 1000;
