import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Stretches } from './stretches';
import { tipGridOver } from './tipSurface';

describe('stretches of a grid', () => {
  it('leave out no cell that a height crosses, give none twice, and none of a row that it does not come to', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60 }),
        fc.integer({ min: 1, max: 6 }),
        fc.infiniteStream(fc.constantFrom(-Infinity, -3, -2, -1, 0)),
        fc.constantFrom(-3.5, -3, -2.5, -1, 0),
        (wide, deep, heights, z) => {
          const grid = tipGridOver({ minX: 0, minY: 0, minZ: 0, maxX: wide, maxY: deep, maxZ: 0 }, 0, 1);
          const { nx, ny } = grid;
          for (let o = 0; o < nx * ny; o++) grid.z[o] = heights.next().value as number;
          const stretches = new Stretches(grid);
          for (let j = 0; j + 1 < ny; j++) {
            const looked: number[] = [];
            stretches.crossedIn(j, z, (from, to) => {
              for (let i = from; i < to; i++) looked.push(i);
            });
            expect(new Set(looked).size).toBe(looked.length);
            let isCrossed = false;
            for (let i = 0; i + 1 < nx; i++) {
              const above = [0, 1, nx, nx + 1].filter((step) => grid.z[j * nx + i + step]! > z).length;
              if (above === 0 || above === 4) continue;
              isCrossed = true;
              expect(looked).toContain(i);
            }
            if (!isCrossed && [...grid.z.subarray(j * nx, (j + 2) * nx)].every((h) => h > z))
              expect(looked).toEqual([]);
          }
        },
      ),
      { numRuns: 100 },
    );
  });
});
