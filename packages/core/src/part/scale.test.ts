import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dome } from '../../test/grounds';
import { meshOf, squarePocket, testJob } from '../../test/shapes';
import { volumeOf } from '../geometry/mesh';
import { followFaces } from '../job/followFaces';
import { followFacePicks } from '../job/followPicks';
import { withScale } from '../job/scaled';
import { facesPicked, pickOfFace } from '../survey/facePicks';
import { compareScaled } from '../survey/revision';
import { middleOf } from '../survey/surface';
import { type Scale, scaledMesh } from './scale';

const factor = fc.oneof(
  fc.double({ min: 0.3, max: 3, noNaN: true }),
  fc.double({ min: 0.3, max: 3, noNaN: true }).map((s) => -s),
);
const scales = fc.tuple(factor, factor, factor);
const meshes = [meshOf(squarePocket(30, 20, 10, -25)), meshOf(dome)];

describe('a part that is scaled or mirrored', () => {
  it('holds as many times more as the product of its factors, looks out of itself, and back again is what it was', () => {
    fc.assert(
      fc.property(fc.constantFrom(...meshes), scales, (mesh, scale) => {
        const scaled = scaledMesh(mesh, scale);
        const product = Math.abs(scale[0] * scale[1] * scale[2]);
        // a volume is positive where all triangles look outward
        expect(volumeOf(scaled) / volumeOf(mesh)).toBeCloseTo(product, 9);
        const back = scaledMesh(scaled, scale.map((s) => 1 / s) as Scale);
        expect(back.indices.every((v, k) => v === mesh.indices[k])).toBe(true);
        expect(back.positions.every((v, k) => Math.abs(v - mesh.positions[k]!) < 1e-9)).toBe(true);
        expect(scaledMesh(mesh, scale)).toBe(scaled);
      }),
      { numRuns: 40 },
    );
  });

  it('takes heights, picked faces and a picked work zero along, though a mirrored face lies where another was', () => {
    fc.assert(
      fc.property(scales, (scale) => {
        const [mesh] = meshes as [(typeof meshes)[0]];
        const scaled = scaledMesh(mesh, scale);
        const left = [...Array(mesh.indices.length / 3).keys()].find((t) => middleOf(mesh, t)[0] < -29.99)!;
        const job = testJob([{ kind: 'parallel-passes', assemblyId: 't3', values: { bottom: -10 } }], 0);
        job.steps[0]!.limits = [{ kind: 'off-faces', faces: [pickOfFace(mesh, left)], distance: 1 }];
        job.setup.workZero = { ...job.setup.workZero, of: 'picked', at: [4, 5, 6] };
        const { report, pairs } = compareScaled(mesh, scaled);
        const next = followFacePicks(withScale(job, scale), mesh, scaled, pairs).job;
        const limit = next.steps[0]!.limits[0]!;
        const { marks, lost } = facesPicked(scaled, 'faces' in limit ? limit.faces : []);
        expect(lost).toBe(0);
        marks.forEach((mark, t) => {
          if (mark) expect(middleOf(scaled, t)[0]).toBeCloseTo(-30 * scale[0], 6);
        });
        expect(marks.includes(1)).toBe(true);
        next.setup.workZero.at.forEach((v, k) => expect(v).toBeCloseTo([4, 5, 6][k]! * scale[k]!, 9));
        // upside down a floor is no floor any more
        if (scale[2] < 0) return;
        const { job: moved } = followFaces(next, report.levels, 0, 0);
        expect(moved.steps[0]!.values['bottom']).toBeCloseTo(-10 * scale[2], 3);
      }),
      { numRuns: 40 },
    );
  });
});
