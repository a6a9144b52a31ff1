import type { Cancel } from '../base/cancel';
import { type Bounds, BoundsTest } from '../field/bounds';
import { LevelCurves } from '../field/levelCurves';
import type { Below, LevelTracer } from '../field/levelTracer';
import type { Matters } from '../field/matters';
import { type TipGrid, TipSurface, type TipSurfaceSpec } from '../field/tipSurface';
import { type Polygon, united } from '../geometry/polygon';

/** What walls follow from: the part as the tip meets it, and where a step is held. */
export interface WallsInput {
  readonly grid: TipGrid;
  readonly spec: TipSurfaceSpec;
  readonly bounds: Bounds;
  /** How far lines may be off, mm. */
  readonly tolerance: number;
}

/** What is closed to the axis at one height after another: the part, and what holds the step. */
export class Walls {
  private readonly surface: TipSurface;
  private readonly curves: LevelCurves;
  private readonly bounds: BoundsTest;

  constructor({ grid, spec, bounds, tolerance }: WallsInput, cancel?: Cancel) {
    this.surface = new TipSurface(spec);
    this.curves = new LevelCurves(grid, this.surface, cancel, tolerance);
    this.bounds = new BoundsTest(bounds, cancel);
  }

  /** How the part's curves run at height z, exact where it matters. */
  trace(z: number, matters?: Matters, below?: Below): LevelTracer {
    return this.curves.trace(z, matters, below);
  }

  /** Whether curves go farther from those of the height below than they may, at a place that counts. */
  leavesBelow(trace: LevelTracer, counts: (x: number, y: number) => boolean): boolean {
    return this.curves.leavesBelow(trace, counts);
  }

  /** Borders of what is closed, with that on their left. */
  of(trace: LevelTracer): Polygon[] {
    const wall = this.curves.rings(trace);
    const closed = this.bounds.none ? [] : this.bounds.closedAt(trace.z);
    return closed.length > 0 ? united([...wall, ...closed]) : wall;
  }

  /** Whether the axis may be at a place of a height. */
  isFree(x: number, y: number, z: number): boolean {
    return !this.surface.forbids(x, y, z) && !this.bounds.forbids(x, y, z);
  }
}
