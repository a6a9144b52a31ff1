import { describe, expect, it } from 'vitest';
import { each, roughed } from '../../../test/roughing';
import { cribOf, squarePocket } from '../../../test/shapes';
import { Motion } from '../../path/toolpath';

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

  it('a cutter that covers the block with its overlap takes it in one line, one that does not in as few as cover it', async () => {
    // the block is 50 wide
    const crib = cribOf({ wide: ['face', 63, 0, 8, 40, 50], less: ['face', 40, 0, 8, 30, 50] });
    for (const [id, lines] of [
      ['wide', 1],
      ['less', 2],
    ] as const) {
      const { path, next, figures } = await roughed(soup, id, {}, { above: 1, kind: 'facing', crib });
      const cut = new Set<number>();
      each(path, (_, y, __, kind, k) => {
        if (kind === Motion.cut && Math.abs(path.x[k]! - path.x[k - 1]!) > 20) cut.add(Math.round(y * 1000));
      });
      expect(cut.size).toBe(lines);
      expect(Math.max(...next.after.heights)).toBeLessThan(1e-3);
      expect(figures.findings).toEqual([]);
    }
  });

  it('takes a last level as thin as it is asked for, from equal or thinner ones before it', async () => {
    for (const [above, lastAp, want] of [
      [3.5, 0.2, [2.5, 1.5, 0.5, 0.2, 0]],
      [3.2, 0.2, [2.2, 1.2, 0.2, 0]],
      [0.15, 0.2, [0]],
    ] as const) {
      const { path, next, figures } = await roughed(soup, 't4', { ap: 1, lastAp }, { above, kind: 'facing' });
      const cut = new Set<number>();
      each(path, (_, __, z, kind) => {
        if (kind === Motion.cut) cut.add(Math.round(z * 1000) / 1000);
      });
      expect([...cut].map((z) => (z === 0 ? 0 : z))).toEqual(want);
      expect(Math.max(...next.after.heights)).toBeLessThan(0.02);
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
