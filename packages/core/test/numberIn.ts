import fc from 'fast-check';

/**
 * Numbers from `low` to `high`, numberIn spread but for some that are very small or at an end. `fc.double` alone takes all
 * doubles to be as likely, and nearly all of those around 0 are smaller than anything that is made.
 */
export const numberIn = (low: number, high: number): fc.Arbitrary<number> =>
  fc.oneof(
    { weight: 7, arbitrary: fc.integer({ min: 0, max: 1e6 }).map((k) => low + ((high - low) * k) / 1e6) },
    { weight: 1, arbitrary: fc.double({ min: low, max: high, noNaN: true }) },
  );
