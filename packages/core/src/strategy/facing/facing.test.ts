import { describe, expect, it } from 'vitest';
import { roughed } from '../../../test/roughing';
import { squarePocket } from '../../../test/shapes';

describe('facing', () => {
  const soup = squarePocket(25, 15, 6, -20);

  it('leaves the block level at the part’s top, and nothing below it is touched', async () => {
    for (const change of [{}, { pattern: 'auto', direction: 'climb' }, { angleDeg: 45, allowance: 0.2 }]) {
      const { next, figures } = await roughed(soup, 't4', change, { above: 3.5, kind: 'facing' });
      const want = 'allowance' in change ? 0.2 : 0;
      for (const h of next.after.heights) {
        expect(h).toBeGreaterThan(want - 1e-3);
        // ridges between lines of a cutter with a corner radius
        expect(h).toBeLessThan(want + 0.02);
      }
      expect(figures.findings).toEqual([]);
    }
  });

  it('a face below the part’s top, or where no steel stands, is refused with the figure', async () => {
    await expect(roughed(soup, 't4', { face: -1.5 }, { above: 3.5, kind: 'facing' })).rejects.toThrow(
      /1\.500 mm higher/,
    );
    await expect(roughed(soup, 't4', {}, { kind: 'facing' })).rejects.toThrow(/nothing to face/);
  });
});
