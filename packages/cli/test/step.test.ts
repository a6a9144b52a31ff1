import { boxOf, readPart, volumeOf } from '@esquisse/core';
import * as cad from 'replicad';
import init from 'replicad-opencascadejs';
import { describe, expect, it } from 'vitest';
import { readStepFile } from '../src/stepReader';

/** Reference: a general solid modeller from the package registry (check 23). */
describe('STEP in', () => {
  it('a rounded and drilled block has the volume and box that the modeller that wrote it measures, and its faces', async () => {
    cad.setOC(await init());
    const block = cad.makeBaseBox(60, 40, 20).fillet(3, (e) => e.inDirection('Z')) as cad.Shape3D;
    const solid = block.cut(cad.makeCylinder(6, 40, [10, 5, -10]) as cad.Shape3D) as cad.Shape3D;
    const text = await cad.exportSTEP([{ shape: solid, name: 'block' }]).text();
    const { mesh, report } = await readPart('block.step', new TextEncoder().encode(text), 'mm', readStepFile);
    expect(report.openEdges).toBe(0);
    // facets of 0.01 mm on 12 mm of radii: well below a thousandth of the volume
    expect(Math.abs(volumeOf(mesh) / cad.measureVolume(solid) - 1)).toBeLessThan(2e-4);
    const box = boxOf(mesh);
    const [low, high] = solid.boundingBox.bounds;
    expect(box.minX).toBeCloseTo(low[0], 2);
    expect(box.maxY).toBeCloseTo(high[1], 2);
    expect(box.maxZ - box.minZ).toBeCloseTo(20, 6);
    expect(new Set(mesh.faceOf).size).toBe(solid.faces.length);
  });
});
