import type { ContactMesh } from './contactMesh';
import { meshKernel } from './kernel';

/**
 * Distance from points to the nearest place on a mesh, by descending the tree of boxes, the nearest first. Starts at the last
 * answer, so neighbouring queries are fast. Closest point on a triangle after Ericson, Real-Time Collision Detection, 2004
 * (from memory).
 */
export class ClosestPoint {
  /** Triangle of the mesh that the last answer lies on, -1 before the first. */
  last = -1;
  /** The place of the last answer, mm. */
  x = 0;
  y = 0;
  z = 0;
  private readonly kernel = meshKernel();

  constructor(private readonly mesh: ContactMesh) {}

  /**
   * Distance (mm) from (x, y, z) to the mesh.
   *
   * @param atMost an upper bound known beforehand; returned when nothing is nearer
   */
  distance(x: number, y: number, z: number, atMost = Infinity): number {
    const { kernel } = this;
    kernel.use(this.mesh);
    const best2 = kernel.closest(x, y, z, atMost * atMost, this.last);
    const triangle = kernel.found[0]!;
    if (triangle >= 0) {
      this.last = triangle;
      this.x = kernel.numbers[0]!;
      this.y = kernel.numbers[1]!;
      this.z = kernel.numbers[2]!;
    }
    return Math.sqrt(best2);
  }
}
