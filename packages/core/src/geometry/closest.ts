import { type ContactMesh, FAN, LEAF, NODE } from './contactMesh';

const STACK = 1024;

/**
 * Distance from points to the nearest place on a mesh, by descending the tree of boxes. Starts at the last answer, so
 * neighbouring queries are fast. Closest point on a triangle after Ericson, Real-Time Collision Detection, 2004 (from
 * memory).
 */
export class ClosestPoint {
  /** Triangle of the mesh that the last answer lies on, -1 before the first. */
  last = -1;
  /** The place of the last answer, mm. */
  x = 0;
  y = 0;
  z = 0;
  private best2 = Infinity;
  private px = 0;
  private py = 0;
  private pz = 0;
  private readonly stack = new Int32Array(STACK);

  constructor(private readonly mesh: ContactMesh) {}

  /**
   * Distance (mm) from (x, y, z) to the mesh.
   *
   * @param atMost an upper bound known beforehand; returned when nothing is nearer
   */
  distance(x: number, y: number, z: number, atMost = Infinity): number {
    this.px = x;
    this.py = y;
    this.pz = z;
    this.best2 = atMost * atMost;
    const { nodes, levels, count } = this.mesh;
    if (this.last >= 0) this.triangle(this.last);
    const stack = this.stack;
    const top = levels.length - 2;
    let size = 0;
    stack[size++] = levels[top]!;
    stack[size++] = top;
    while (size > 0) {
      const level = stack[--size]!;
      const node = stack[--size]!;
      if (this.boxDistance2(nodes, node * NODE) >= this.best2) continue;
      if (level === 0) {
        const end = Math.min(count, (node + 1) * LEAF);
        for (let i = node * LEAF; i < end; i++) this.triangle(i);
        continue;
      }
      const first = levels[level - 1]! + Math.imul(node - levels[level]!, FAN);
      const end = Math.min(levels[level]!, first + FAN);
      for (let child = first; child < end; child++)
        if (this.boxDistance2(nodes, child * NODE) < this.best2) {
          stack[size++] = child;
          stack[size++] = level - 1;
        }
    }
    return Math.sqrt(this.best2);
  }

  private boxDistance2(b: Float32Array, o: number): number {
    const x = this.px;
    const y = this.py;
    const z = this.pz;
    const dx = x < b[o]! ? b[o]! - x : x > b[o + 2]! ? x - b[o + 2]! : 0;
    const dy = y < b[o + 1]! ? b[o + 1]! - y : y > b[o + 3]! ? y - b[o + 3]! : 0;
    const dz = z < b[o + 4]! ? b[o + 4]! - z : z > b[o + 5]! ? z - b[o + 5]! : 0;
    return dx * dx + dy * dy + dz * dz;
  }

  private triangle(i: number): void {
    const t = this.mesh.triangles;
    const o = 9 * i;
    const ax = t[o]!;
    const ay = t[o + 1]!;
    const az = t[o + 2]!;
    const abx = t[o + 3]! - ax;
    const aby = t[o + 4]! - ay;
    const abz = t[o + 5]! - az;
    const acx = t[o + 6]! - ax;
    const acy = t[o + 7]! - ay;
    const acz = t[o + 8]! - az;
    const apx = this.px - ax;
    const apy = this.py - ay;
    const apz = this.pz - az;
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    let v = 0;
    let w = 0;
    if (d1 > 0 || d2 > 0) {
      const abab = abx * abx + aby * aby + abz * abz;
      const abac = abx * acx + aby * acy + abz * acz;
      const acac = acx * acx + acy * acy + acz * acz;
      const d3 = d1 - abab;
      const d4 = d2 - abac;
      const d5 = d1 - abac;
      const d6 = d2 - acac;
      const vc = d1 * d4 - d3 * d2;
      const vb = d5 * d2 - d1 * d6;
      const va = d3 * d6 - d5 * d4;
      if (d3 >= 0 && d4 <= d3) v = 1;
      else if (d6 >= 0 && d5 <= d6) w = 1;
      else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 / (d1 - d3);
      else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 / (d2 - d6);
      else if (va <= 0 && d4 >= d3 && d5 >= d6) {
        w = (d4 - d3) / (d4 - d3 + (d5 - d6));
        v = 1 - w;
      } else {
        const whole = 1 / (va + vb + vc);
        v = vb * whole;
        w = vc * whole;
      }
    }
    const dx = apx - v * abx - w * acx;
    const dy = apy - v * aby - w * acy;
    const dz = apz - v * abz - w * acz;
    const distance2 = dx * dx + dy * dy + dz * dz;
    if (distance2 < this.best2) {
      this.best2 = distance2;
      this.last = i;
      this.x = this.px - dx;
      this.y = this.py - dy;
      this.z = this.pz - dz;
    }
  }
}
