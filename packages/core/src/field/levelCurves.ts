import type { Cancel } from '../base/cancel';
import { areaOf, contains, type Polygon, simplifyRing, thinnedRing } from '../geometry/polygon';
import { allowedRoot } from './curveRoot';
import { type Below, LevelTracer, type Walls } from './levelTracer';
import { type Matters, NEAR_STEPS } from './matters';
import { refineRing } from './refineRing';
import { Stretches } from './stretches';
import type { TipGrid, TipSurface } from './tipSurface';

/** Largest distance of the true curve from the line that is given for it, mm, where nothing else is asked for. */
export const CURVE_MM = 0.008;
/**
 * Share of the tolerance that curves are made with: bends that are judged by their neighbours, roots and rounded words may take a
 * quarter more (measured: 0.0025 mm at 0.008 mm, on two motions of 40,000).
 */
const MADE_SHARE = 0.75;
/** What chords may take of that; the rest is for points that are left out. */
const REFINE_SHARE = 0.5;
/** Directions in which the border of an island within one cell is looked for. */
const ISLAND_RAYS = 24;
/**
 * Finds the closed curves where a tip surface crosses one height after another. What is learnt about walls at one height
 * serves at the next.
 */
export class LevelCurves {
  private readonly walls: Walls = { jumps: new Map(), roots: new Map() };
  private readonly stretches: Stretches;
  private readonly tolerance: number;

  constructor(
    private readonly grid: TipGrid,
    private readonly surface: TipSurface,
    private readonly cancel?: Cancel,
    tolerance = CURVE_MM,
  ) {
    this.tolerance = MADE_SHARE * tolerance;
    this.stretches = new Stretches(grid);
  }

  /**
   * The curves at height z. The forbidden side (tip surface above z) lies on the left, so its outer borders run
   * counter-clockwise and the openings in it clockwise. Points lie on the allowed side, to {@link ROOT_MM}; chords and
   * left-out points add the tolerance at most. Forbidden islands are found however small, since
   * each holds a summit of the part; openings narrower than the grid's step may be missed.
   */
  at(z: number): Polygon[] {
    return this.rings(this.trace(z));
  }

  /**
   * How the curves at height z run through the grid.
   *
   * @param below the trace of a lower height whose points will do where the curve is near to them
   */
  trace(z: number, matters: Matters = () => true, below?: Below): LevelTracer {
    return new LevelTracer(this.grid, this.stretches, this.surface, z, matters, this.walls, below, this.cancel);
  }

  /** Whether curves go farther from those of the height below than they may, at a place that matters. */
  leavesBelow(trace: LevelTracer, counts: (x: number, y: number) => boolean): boolean {
    return trace.leavesBelow(counts) || this.hidden(trace).length > 0;
  }

  /** The curves of a trace, as {@link at} tells. */
  rings(trace: LevelTracer): Polygon[] {
    const { surface, tolerance } = this;
    const { z, matters, below } = trace;
    const exact: Matters = below ? (x, y, room) => matters(x, y, room) && !below.covers(x, y, room) : matters;
    const rings = trace.rings();
    this.addIslands(rings, trace);
    const { step } = this.grid;
    // where nothing is cut a line is as rough as the nodes that it is drawn through
    const isExact = (x: number, y: number): boolean => matters(x, y, NEAR_STEPS * step);
    return rings
      .map((ring) => {
        const isLower = trace.lower.has(ring);
        const refined = isLower ? ring : refineRing(ring, surface, z, exact, REFINE_SHARE * tolerance, this.cancel);
        return simplifyRing(thinnedRing(refined, step, isExact), (1 - REFINE_SHARE) * tolerance);
      })
      .filter((ring) => ring.length >= 6);
  }

  /** Summits of the part above a height that lie between the nodes of a cell, one a cell, x and y in turn. */
  private hidden({ z, matters }: LevelTracer): number[] {
    const { grid, surface } = this;
    const { summits } = surface;
    const cells = new Set<number>();
    const found: number[] = [];
    for (let k = 0; k < summits.length; k += 3) {
      if (summits[k + 2]! + surface.lift <= z) continue;
      const x = summits[k]!;
      const y = summits[k + 1]!;
      const i = Math.floor((x - grid.x0) / grid.step);
      const j = Math.floor((y - grid.y0) / grid.step);
      const o = j * grid.nx + i;
      if (cells.has(o)) continue;
      const nodes = [grid.z[o]!, grid.z[o + 1]!, grid.z[o + grid.nx]!, grid.z[o + grid.nx + 1]!];
      if (nodes.some((tip) => tip > z) || !matters(x, y, NEAR_STEPS * grid.step)) continue;
      cells.add(o);
      found.push(x, y);
    }
    return found;
  }

  /** Adds islands around hidden summits, as seen from the summit all round. */
  private addIslands(rings: Polygon[], trace: LevelTracer): void {
    const { grid, surface } = this;
    const { z } = trace;
    const hidden = this.hidden(trace);
    for (let k = 0; k < hidden.length; k += 2) {
      const x = hidden[k]!;
      const y = hidden[k + 1]!;
      if (windingAt(rings, x, y) > 0) continue;
      const top = surface.at(x, y);
      const ring: number[] = [];
      for (let n = 0; n < ISLAND_RAYS && top > z; n++) {
        const angle = (-2 * Math.PI * n) / ISLAND_RAYS;
        let reach = grid.step / 8;
        let ex = x;
        let ey = y;
        let tip = top;
        for (; tip > z && reach < 4 * grid.step; reach *= 2) {
          ex = x + reach * Math.cos(angle);
          ey = y + reach * Math.sin(angle);
          tip = surface.at(ex, ey);
        }
        if (tip > z) break;
        const stretch = { ax: ex, ay: ey, za: tip, bx: x, by: y, zb: top, ca: NaN, cb: NaN };
        ring.unshift(...allowedRoot(surface, z, stretch).at);
      }
      if (ring.length === 2 * ISLAND_RAYS) rings.push(Float64Array.from(ring));
    }
  }
}

/** How many forbidden areas less openings of given curves hold a place. */
function windingAt(rings: readonly Polygon[], x: number, y: number): number {
  let count = 0;
  for (const ring of rings) if (contains(ring, x, y)) count += areaOf(ring) > 0 ? 1 : -1;
  return count;
}
