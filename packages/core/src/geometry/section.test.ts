import { describe, expect, it } from 'vitest';
import { blockOf, hole, modeller, soupOf } from '../../test/plates';
import { meshOf, revolved } from '../../test/shapes';
import { contactMesh } from './contactMesh';
import { areaOf } from './polygon';
import { sectionAt } from './section';

describe('section of a mesh', () => {
  it('of a cone of radius r at its height is a circle of r: counter-clockwise, its area to the facets', () => {
    const cone = contactMesh(
      meshOf(
        revolved(
          [
            [0, 0],
            [10, -10],
            [0, -10],
          ],
          200,
        ),
      ),
    );
    for (const depth of [1.234, 5.5, 9.9]) {
      const [ring, ...others] = sectionAt(cone, -depth);
      expect(others).toEqual([]);
      expect(areaOf(ring!) / (100 * depth ** 2 * Math.sin(Math.PI / 100))).toBeCloseTo(1, 6);
    }
  });

  it('has an opening for each hole, the other way round, and all areas together are what a solid library says', async () => {
    const solids = await modeller();
    const plate = blockOf(solids, [-20, -15, -10], [20, 15, 0])
      .subtract(hole(solids, -8, 0, 3, -5, 118))
      .subtract(hole(solids, 9, 2, 4, -60));
    const mesh = contactMesh(meshOf(soupOf(plate)));
    for (const z of [-2.5, -5.7, -8.1]) {
      const rings = sectionAt(mesh, z);
      const areas = rings.map(areaOf).sort((a, b) => a - b);
      expect(areas.filter((a) => a < 0)).toHaveLength(z > -6.8 ? 2 : 1);
      expect(areas.reduce((sum, a) => sum + a, 0)).toBeCloseTo(plate.slice(z).area(), 3);
    }
  });
});
