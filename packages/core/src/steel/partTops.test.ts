import { describe, expect, it } from 'vitest';
import { meshOf, sheet, squarePocket } from '../../test/shapes';
import { CutterDrop } from '../tool/drop';
import { contactMesh } from '../geometry/contactMesh';
import { gridOver, type HeightMap } from './heightMap';
import { partTops } from './partTops';

describe('height of the part under each cell', () => {
  for (const [name, soup] of [
    ['a wavy sheet', sheet([-12, -9, 12, 9], 0.7, -5, (x, y) => Math.sin(x) * Math.cos(y / 2))],
    ['a pocket with upright walls', squarePocket(14, 6, 7, -12)],
  ] as const)
    it(`is where a vertical ray meets ${name} first`, () => {
      const part = contactMesh(meshOf([...soup]));
      const frame = gridOver({ ...part.box, minX: part.box.minX - 1.03, maxY: part.box.maxY + 0.9 }, 0.37);
      const map: HeightMap = { ...frame, floor: -99, heights: new Float32Array(frame.nx * frame.ny) };
      partTops(part, map);
      const ray = new CutterDrop(part, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
      let met = 0;
      for (let j = 0; j < map.ny; j++)
        for (let i = 0; i < map.nx; i++) {
          const z = ray.at(map.x0 + (i + 0.5) * map.cell, map.y0 + (j + 0.5) * map.cell);
          if (z > -Infinity) met++;
          expect(map.heights[j * map.nx + i]).toBe(Math.fround(z));
        }
      expect(met).toBeGreaterThan(1000);
    });
});
