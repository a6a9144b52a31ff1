import type { Polyline } from '../geometry/polygon';
import type { Begin } from './clearing';
import { type PlanGrid, valueAt } from './planGrid';

/** A point that the curve's tolerance let come too near is moved off the wall in such steps, so many times, mm. */
const OFF_MM = 0.004;
const OFF_TIMES = 60;
/** How often it is asked along a chord whether the axis may be there, mm. */
const CHORD_MM = 0.5;
/** Places farther from the wall than so many steps of the grid are off it. */
const NEAR_STEPS = 2;

/** Keeps what was planned on fields off the walls exactly. */
export class OffWall {
  /**
   * @param axis signed distance of where the axis may be, mm
   * @param isFree whether it may be there, exactly
   */
  constructor(
    private readonly grid: PlanGrid,
    private readonly axis: Float32Array,
    private readonly isFree: (x: number, y: number) => boolean,
  ) {}

  /** A line whose points and chords keep off the wall, up to where it cannot be moved off it: there it ends, and the place is told. */
  line(line: Polyline): [Float64Array, { x: number; y: number }?] {
    const near = NEAR_STEPS * this.grid.step;
    const out: number[] = [];
    for (let k = 0; k < line.length; k += 2) {
      const [x, y] = [line[k]!, line[k + 1]!];
      const [ax, ay] = k > 0 ? [line[k - 2]!, line[k - 1]!] : [x, y];
      const n = Math.max(1, Math.ceil(Math.hypot(x - ax, y - ay) / CHORD_MM));
      for (let s = 1; s <= n; s++) {
        const [px, py] = s < n ? [ax + ((x - ax) * s) / n, ay + ((y - ay) * s) / n] : [x, y];
        const free = this.valueAt(px, py) < near ? this.moved(px, py) : ([px, py] as const);
        if (!free) return [Float64Array.from(out), { x: px, y: py }];
        // between the line's own points one is needed only where it had to be moved
        if (s === n || free[0] !== px || free[1] !== py) out.push(...free);
      }
    }
    return [Float64Array.from(out)];
  }

  /** How a run begins: from above where its way cannot be moved off the wall. */
  begin(begin: Begin): Begin {
    if (begin.by === 'air') return begin;
    if (begin.by === 'helix') return { ...begin, radius: this.radius(begin) };
    const [points, rest] = this.line(begin.points);
    return rest ? { by: 'air' } : { ...begin, points };
  }

  /** The radius of a helix, less what the curve's tolerance let it come too near the wall. */
  private radius({ x, y, radius }: { x: number; y: number; radius: number }): number {
    const n = Math.ceil((2 * Math.PI * radius) / CHORD_MM);
    let r = radius;
    for (let k = 0; k < n; k++) {
      const [cos, sin] = [Math.cos((2 * Math.PI * k) / n), Math.sin((2 * Math.PI * k) / n)];
      for (let m = 0; m < OFF_TIMES && !this.isFree(x + r * cos, y + r * sin); m++) r -= OFF_MM;
    }
    return r;
  }

  /** The nearest place off the wall where the axis may be, as the fields lead away from it; undefined when none is near. */
  private moved(x: number, y: number): readonly [number, number] | undefined {
    const { step } = this.grid;
    let [px, py] = [x, y];
    for (let n = 0; n < OFF_TIMES; n++) {
      if (this.isFree(px, py)) return [px, py];
      const gx = this.valueAt(px + step, py) - this.valueAt(px - step, py);
      const gy = this.valueAt(px, py + step) - this.valueAt(px, py - step);
      const length = Math.hypot(gx, gy) || 1;
      px += (OFF_MM * gx) / length;
      py += (OFF_MM * gy) / length;
    }
    return undefined;
  }

  private valueAt(x: number, y: number): number {
    return valueAt(this.grid, this.axis, x, y, 0);
  }
}
