import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshOf, squarePocket } from '../../test/shapes';
import { dome } from '../../test/grounds';
import { ClosestPoint } from './closest';
import { contactMesh } from './contactMesh';
import { thickened } from './thickened';

const meshes = [meshOf(squarePocket(20, 10, 6, -15)), meshOf(dome)];

describe('a mesh that is thicker on some triangles', () => {
  it('keeps a place at least that far from each of them, and just that far over plain ones', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...meshes),
        fc.double({ min: 0.01, max: 0.5, noNaN: true }),
        fc.array(fc.nat(), { minLength: 1, maxLength: 12 }),
        (mesh, by, chosen) => {
          const count = mesh.indices.length / 3;
          const marks = new Uint8Array(count);
          for (const k of chosen) marks[k % count] = 1;
          const { mesh: made, source } = thickened(mesh, [{ marks, by }]);
          expect(source).toEqual([...marks.keys()].filter((t) => marks[t]));
          const nearest = new ClosestPoint(contactMesh(mesh));
          source.forEach((t, k) => {
            const corner = (of: typeof mesh, tri: number, c: number): number[] => {
              const v = 3 * of.indices[3 * tri + c]!;
              return [of.positions[v]!, of.positions[v + 1]!, of.positions[v + 2]!];
            };
            const own = [0, 1, 2].map((c) => corner(mesh, t, c));
            const over = [0, 1, 2].map((c) => corner(made, count + k, c));
            // the layer is parallel to its triangle, that far out
            const [u, v] = [1, 2].map((c) => own[c]!.map((x, a) => x - own[0]![a]!)) as [number[], number[]];
            const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
            const l = Math.hypot(...n);
            const out = over.map((p, c) => p.reduce((sum, x, a) => sum + ((x - own[c]![a]!) * n[a]!) / l, 0));
            for (const d of out) expect(d).toBeGreaterThan(by * (1 - 1e-6));
            // and no farther than the mitre of a sharp corner
            for (const p of over) expect(nearest.distance(p[0]!, p[1]!, p[2]!)).toBeLessThan(3 * by + 1e-9);
          });
        },
      ),
      { numRuns: 60 },
    );
  });
});
