import type { Valley } from '../../field/valleys';

/** Segments of lines by the cells of space that lie within a reach of them. */
export class NearLines {
  private readonly cells = new Map<number, number[]>();
  private readonly ends: number[] = [];
  private readonly lineOf: number[] = [];
  private readonly size: number;

  /** @param reach how far from a line it is told, mm */
  constructor(
    lines: readonly Pick<Valley, 'points'>[],
    private readonly reach: number,
  ) {
    this.size = 2 * reach;
    lines.forEach(({ points }, line) => {
      for (let o = 3; o < points.length; o += 3) this.put(line, points.subarray(o - 3, o + 3));
    });
  }

  /** The nearest line within reach of a place, and how far it is, mm. */
  nearest(x: number, y: number, z: number): { line: number; distance: number } | undefined {
    const list = this.cells.get(this.key(x, y, z));
    if (!list) return undefined;
    let best: { line: number; distance: number } | undefined;
    for (const s of list) {
      const o = 6 * s;
      const e = this.ends;
      const [ax, ay, az] = [e[o]!, e[o + 1]!, e[o + 2]!];
      const [dx, dy, dz] = [e[o + 3]! - ax, e[o + 4]! - ay, e[o + 5]! - az];
      const square = dx * dx + dy * dy + dz * dz;
      const t = square > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / square)) : 0;
      const distance = Math.hypot(ax + t * dx - x, ay + t * dy - y, az + t * dz - z);
      if (distance <= this.reach && (!best || distance < best.distance)) best = { line: this.lineOf[s]!, distance };
    }
    return best;
  }

  private put(line: number, ends: Float64Array): void {
    const s = this.lineOf.length;
    this.lineOf.push(line);
    this.ends.push(...ends);
    const from = (axis: number): number =>
      Math.floor((Math.min(ends[axis]!, ends[axis + 3]!) - this.reach) / this.size);
    const to = (axis: number): number => Math.floor((Math.max(ends[axis]!, ends[axis + 3]!) + this.reach) / this.size);
    for (let i = from(0); i <= to(0); i++)
      for (let j = from(1); j <= to(1); j++)
        for (let k = from(2); k <= to(2); k++) {
          const key = cellKey(i, j, k);
          const list = this.cells.get(key);
          if (list) list.push(s);
          else this.cells.set(key, [s]);
        }
  }

  private key(x: number, y: number, z: number): number {
    return cellKey(Math.floor(x / this.size), Math.floor(y / this.size), Math.floor(z / this.size));
  }
}

/** A hash of a cell's numbers: two that share one are both looked at. */
const cellKey = (i: number, j: number, k: number): number =>
  Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791);
