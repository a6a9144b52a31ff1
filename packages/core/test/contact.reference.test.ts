import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, it } from 'vitest';
import { CutterDrop } from '../src/cutter/drop';
import { ClosestPoint } from '../src/geometry/closest';
import { contactMesh } from '../src/geometry/contactMesh';
import { meshOf, sheet } from './shapes';

/** Reference: rays and closest points of the package three-mesh-bvh (check 20). */
describe('contact against three-mesh-bvh', () => {
  const soup = sheet([-20, -15, 20, 15], 0.7, -10, (x, y) => 3 * Math.sin(x / 3) * Math.cos(y / 4) + (x > 6 ? 4 : 0));
  const mesh = contactMesh(meshOf(soup));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float64Array(soup), 3));
  const bvh = new MeshBVH(geometry);

  it('a cutter of radius 0 rests where a ray from above first meets the part', () => {
    const drop = new CutterDrop(mesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    for (let k = 0; k < 3000; k++) {
      const x = ((k * 0.6180339887) % 1) * 44 - 22;
      const y = ((k * 0.7548776662) % 1) * 34 - 17;
      const hit = bvh.raycastFirst(new Ray(new Vector3(x, y, 100), new Vector3(0, 0, -1)), DoubleSide);
      const z = drop.at(x, y);
      if (!hit) expect(z).toBe(-Infinity);
      else expect(z).toBeCloseTo(hit.point.z, 6);
    }
  });

  it('the nearest point of the part is as far as the reference finds it', () => {
    const closest = new ClosestPoint(mesh);
    for (let k = 0; k < 1500; k++) {
      const p = new Vector3(
        ((k * 0.6180339887) % 1) * 44 - 22,
        ((k * 0.7548776662) % 1) * 34 - 17,
        ((k * 0.5698402909) % 1) * 20 - 8,
      );
      expect(closest.distance(p.x, p.y, p.z)).toBeCloseTo(bvh.closestPointToPoint(p)!.distance, 6);
    }
  });
});
