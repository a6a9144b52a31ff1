import { boundsOf, type Polygon } from './polygon';

/** Buckets are at least this wide, mm. */
const NARROWEST_MM = 0.5;
const MOST_BUCKETS = 200_000;

/** Answers whether a place lies near closed lines: their pieces stand in square buckets as wide as what counts as near. */
export class SegmentIndex {
  private readonly buckets = new Map<number, number[]>();
  private readonly cell: number;
  private readonly x0: number;
  private readonly y0: number;
  private readonly nx: number;

  /**
   * @param near distance that counts as near, mm
   * @param closed whether the lines are closed
   */
  constructor(
    rings: readonly Polygon[],
    private readonly near: number,
    closed = true,
  ) {
    const boxes = rings.map(boundsOf);
    const [minX, minY] = [Math.min(...boxes.map((b) => b[0])), Math.min(...boxes.map((b) => b[1]))];
    const [maxX, maxY] = [Math.max(...boxes.map((b) => b[2])), Math.max(...boxes.map((b) => b[3]))];
    this.cell = Math.max(NARROWEST_MM, near, Math.sqrt(((maxX - minX) * (maxY - minY)) / MOST_BUCKETS) || 0);
    this.x0 = minX - this.cell;
    this.y0 = minY - this.cell;
    this.nx = Math.ceil((maxX - this.x0) / this.cell) + 2;
    for (const ring of rings)
      for (let k = 0; k < ring.length - (closed ? 0 : 2); k += 2) {
        const m = k + 2 < ring.length ? k + 2 : 0;
        this.put(ring[k]!, ring[k + 1]!, ring[m]!, ring[m + 1]!);
      }
  }

  private put(ax: number, ay: number, bx: number, by: number): void {
    const { cell, x0, y0, nx } = this;
    const i1 = Math.floor((Math.max(ax, bx) - x0) / cell);
    const j1 = Math.floor((Math.max(ay, by) - y0) / cell);
    for (let j = Math.floor((Math.min(ay, by) - y0) / cell); j <= j1; j++)
      for (let i = Math.floor((Math.min(ax, bx) - x0) / cell); i <= i1; i++) {
        const key = j * nx + i;
        const bucket = this.buckets.get(key);
        if (bucket) bucket.push(ax, ay, bx, by);
        else this.buckets.set(key, [ax, ay, bx, by]);
      }
  }

  /**
   * Whether any piece lies near (x, y).
   *
   * @param near distance up to what was given at first, mm
   */
  isNear(x: number, y: number, near = this.near): boolean {
    const { cell, x0, y0, nx } = this;
    const near2 = near * near;
    const i0 = Math.max(0, Math.floor((x - near - x0) / cell));
    const i1 = Math.min(nx - 1, Math.floor((x + near - x0) / cell));
    const j1 = Math.floor((y + near - y0) / cell);
    for (let j = Math.max(0, Math.floor((y - near - y0) / cell)); j <= j1; j++)
      for (let i = i0; i <= i1; i++) {
        const bucket = this.buckets.get(j * nx + i);
        if (!bucket) continue;
        for (let k = 0; k < bucket.length; k += 4) {
          const ax = bucket[k]! - x;
          const ay = bucket[k + 1]! - y;
          const dx = bucket[k + 2]! - x - ax;
          const dy = bucket[k + 3]! - y - ay;
          const length2 = dx * dx + dy * dy;
          const t = length2 > 0 ? Math.max(0, Math.min(1, -(ax * dx + ay * dy) / length2)) : 0;
          const px = ax + t * dx;
          const py = ay + t * dy;
          if (px * px + py * py <= near2) return true;
        }
      }
    return false;
  }
}
