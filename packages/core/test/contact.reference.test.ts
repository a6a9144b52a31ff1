import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, it } from 'vitest';
import { CutterDrop } from '../src/tool/drop';
import { ClosestPoint } from '../src/geometry/closest';
import { contactMesh } from '../src/geometry/contactMesh';
import { PACKAGED } from './packaged';
import { meshOf, sheet } from './shapes';

const SHEET = sheet([-20, -15, 20, 15], 0.7, -10, (x, y) => 3 * Math.sin(x / 3) * Math.cos(y / 4) + (x > 6 ? 4 : 0));

/** Reference: rays and closest points of the package three-mesh-bvh (check 20). */
describe.each([['a made-up sheet', SHEET], ...PACKAGED] as const)('%s against three-mesh-bvh', (_, shape) => {
  const soup = [...shape];
  const mesh = contactMesh(meshOf(soup));
  const { box } = mesh;
  const middle = [(box.minX + box.maxX) / 2, (box.minY + box.maxY) / 2, (box.minZ + box.maxZ) / 2] as const;
  const wide = [box.maxX - box.minX, box.maxY - box.minY, box.maxZ - box.minZ] as const;
  /** The k-th of points spread evenly over the box and a little around it. */
  const spread = (k: number): Vector3 =>
    new Vector3(
      middle[0] + (((k * 0.6180339887) % 1) - 0.5) * wide[0] * 1.1,
      middle[1] + (((k * 0.7548776662) % 1) - 0.5) * wide[1] * 1.1,
      middle[2] + (((k * 0.5698402909) % 1) - 0.5) * wide[2] * 1.3,
    );
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(new Float64Array(soup), 3));
  const bvh = new MeshBVH(geometry);

  it('a cutter of radius 0 rests where a ray from above first meets the part', () => {
    const drop = new CutterDrop(mesh, { kind: 'round', z: 0, flat: 0, corner: 0, radius: 0 });
    for (let k = 0; k < 3000; k++) {
      const { x, y } = spread(k);
      const hit = bvh.raycastFirst(new Ray(new Vector3(x, y, box.maxZ + 10), new Vector3(0, 0, -1)), DoubleSide);
      const z = drop.at(x, y);
      if (!hit) expect(z).toBe(-Infinity);
      else expect(z).toBeCloseTo(hit.point.z, 6);
    }
  });

  it('the nearest point of the part is as far as the reference finds it', () => {
    const closest = new ClosestPoint(mesh);
    for (let k = 0; k < 1500; k++) {
      const p = spread(k);
      const { distance, point } = bvh.closestPointToPoint(p)!;
      expect(closest.distance(p.x, p.y, p.z)).toBeCloseTo(distance, 6);
      // beside the part too, as near as steel is when most has been taken off
      const q = point.clone().lerp(p, 0.03);
      expect(closest.distance(q.x, q.y, q.z)).toBeCloseTo(bvh.closestPointToPoint(q)!.distance, 6);
    }
  });
});
