import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { meshOf, sheet, squarePocket } from '../../test/shapes';
import { outlineArea } from '../geometry/outline';
import { outlinesUnder } from './planOutline';

const all = (count: number): number[] => Array.from({ length: count }, (_, t) => t);

describe('outlines in plan of what is lit', () => {
  it('a whole body has its plan as one outline, however its surface runs', () => {
    fc.assert(
      fc.property(fc.double({ min: 5, max: 40, noNaN: true }), numberIn(0, 2), (x, bend) => {
        const mesh = meshOf(sheet([0, 0, x, 10], 2.5, -9, (u, v) => bend * Math.sin(u + v)));
        const outlines = outlinesUnder(mesh, all(mesh.indices.length / 3));
        expect(outlines.length).toBe(1);
        expect(Math.abs(outlineArea(outlines[0]!))).toBeCloseTo((x + 0.02) * 10.02, 1);
      }),
    );
  });

  it('the floor of a pocket has the pocket’s plan, its upright walls a narrow strip along them', () => {
    const mesh = meshOf(squarePocket(30, 20, 8, -20));
    const height = (t: number, c: number): number => mesh.positions[3 * mesh.indices[3 * t + c]! + 2]!;
    const triangles = all(mesh.indices.length / 3);
    const floor = triangles.filter((t) => [0, 1, 2].every((c) => height(t, c) === -8));
    expect(Math.abs(outlineArea(outlinesUnder(mesh, floor)[0]!))).toBeCloseTo(1600, 3);
    const inside = (t: number): boolean =>
      [0, 1, 2].every(
        (c) => Math.max(...[0, 1].map((a) => Math.abs(mesh.positions[3 * mesh.indices[3 * t + c]! + a]!))) < 21,
      );
    const walls = triangles.filter((t) => inside(t) && !floor.includes(t));
    const [outer] = outlinesUnder(mesh, walls);
    expect(Math.abs(outlineArea(outer!))).toBeCloseTo(40.02 ** 2, 1);
  });

  it('nothing lit encloses nothing', () => {
    expect(outlinesUnder(meshOf(squarePocket(30, 20, 8, -20)), [])).toEqual([]);
  });
});
