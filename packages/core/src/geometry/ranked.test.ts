import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ranked } from './ranked';

const SHARES = [0, 0.1, 0.5, 0.9, 0.99, 1];

describe('values at a share of their order', () => {
  it('are those that stand there when all are put in order, whatever their spread', () => {
    const value = fc.oneof(
      fc.float({ noDefaultInfinity: true }),
      fc.float({ min: -1, max: 1 }),
      fc.constantFrom(0, 0.3, NaN, 12),
    );
    fc.assert(
      fc.property(
        fc.float32Array({ minLength: 0, maxLength: 400, noDefaultInfinity: true }),
        fc.array(value),
        (a, b) => {
          const values = Float32Array.from([...a, ...b]);
          const order = values.filter((v) => !Number.isNaN(v)).sort();
          const wanted = SHARES.map((s) => order[Math.min(order.length - 1, Math.floor(s * order.length))] ?? 0);
          expect(ranked(values, SHARES).map((v) => v + 0)).toEqual(wanted.map((v) => v + 0));
        },
      ),
    );
  });
});
