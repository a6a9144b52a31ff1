import { CutterDrop } from '../tool/drop';
import type { RoundPiece } from '../tool/profile';
import type { Box } from '../geometry/box';
import type { ContactMesh } from '../geometry/contactMesh';
import { sharedFloat32, sharedFloat64 } from '../base/shared';

/**
 * The tip surface of a cutter over a part with allowances: at (x, y) the lowest height its tip may go to, mm. The cutter
 * is grown by the side allowance about its corner centre; raising the answer by the floor allowance then leaves exactly
 * `side` on upright walls, `floor` on level floors, and side + (floor - side) nz in between.
 */
export interface TipSurfaceSpec {
  mesh: ContactMesh;
  piece: RoundPiece;
  side: number;
  floor: number;
}

export class TipSurface {
  readonly drop: CutterDrop;
  /** Radius of the cutter with its side allowance, mm. */
  readonly reach: number;
  /** Added to every contact height: the floor allowance, mm. */
  readonly lift: number;
  /** x, y, z of the part's summits, mm: every part of the tip surface above a height holds one that is above it. */
  readonly summits: Float64Array;

  constructor(spec: TipSurfaceSpec) {
    const corner = spec.piece.corner + spec.side;
    this.reach = spec.piece.flat + corner;
    this.drop = new CutterDrop(spec.mesh, { ...spec.piece, corner, radius: this.reach });
    this.lift = spec.floor;
    this.summits = spec.mesh.summits;
  }

  /** Lowest tip height at (x, y), mm; -Infinity where nothing of the part lies under the cutter. */
  at(x: number, y: number): number {
    return this.drop.at(x, y) + this.lift;
  }

  /** Whether the tip may not go down to z there. */
  forbids(x: number, y: number, z: number): boolean {
    return this.drop.exceeds(x, y, z - this.lift);
  }
}

/**
 * Nodes of a tip surface sampled over a plan: node (i, j) at x0 + i step, y0 + j step, moved by its shift along x or y (half a
 * step at most) on to a valley or crest beside it; `climbs` holds how fast the surface rises there along x and y, NaN where
 * that is unknown.
 */
export interface TipGrid {
  x0: number;
  y0: number;
  step: number;
  nx: number;
  ny: number;
  z: Float64Array;
  climbs: Float32Array;
  /** Along x and along y for each node, mm. */
  shifts: Float32Array;
  /** How far the axis must move to +x, -x, +y, -y until the cutter is off the edge it stands on, mm; 0: not known. */
  escapes: Float32Array;
}

/** The four ways along the axes. */
const WAY_X = [1, -1, 0, 0];
const WAY_Y = [0, 0, 1, -1];

/** Largest number of nodes; beyond it the step grows. */
const MOST_NODES = 1_500_000;

/** An empty grid that covers a part's plan and `margin` mm around it, so that its border lies free of the part. */
export function tipGridOver(box: Box, margin: number, step: number): TipGrid {
  const width = box.maxX - box.minX + 2 * margin;
  const depth = box.maxY - box.minY + 2 * margin;
  const s = Math.max(step, Math.sqrt((width * depth) / MOST_NODES));
  // an odd share of the step keeps nodes off symmetric and round coordinates, where roots would be ambiguous
  const x0 = box.minX - margin - 0.37 * s;
  const y0 = box.minY - margin - 0.41 * s;
  const nx = Math.ceil((width + s) / s) + 1;
  const ny = Math.ceil((depth + s) / s) + 1;
  return {
    x0,
    y0,
    step: s,
    nx,
    ny,
    z: sharedFloat64(nx * ny),
    climbs: sharedFloat32(2 * nx * ny),
    shifts: sharedFloat32(2 * nx * ny),
    escapes: sharedFloat32(4 * nx * ny),
  };
}

/** Where node (i, j) of a grid lies along x, and along y, mm. */
export const nodeX = (grid: TipGrid, i: number, j: number): number =>
  grid.x0 + i * grid.step + grid.shifts[2 * (j * grid.nx + i)]!;
export const nodeY = (grid: TipGrid, i: number, j: number): number =>
  grid.y0 + j * grid.step + grid.shifts[2 * (j * grid.nx + i) + 1]!;

/** Fills rows `from` to `to` (exclusive) of a grid whose nodes lie where they lie by themselves. */
export function fillTipGrid(grid: TipGrid, surface: TipSurface, from: number, to: number): void {
  for (let j = from; j < to; j++) {
    const y = grid.y0 + j * grid.step;
    for (let i = 0; i < grid.nx; i++) {
      const o = j * grid.nx + i;
      grid.z[o] = surface.at(grid.x0 + i * grid.step, y);
      grid.climbs[2 * o] = surface.drop.climb(1, 0);
      grid.climbs[2 * o + 1] = surface.drop.climb(0, 1);
      for (let k = 0; k < 4; k++) grid.escapes[4 * o + k] = surface.drop.escape(WAY_X[k]!, WAY_Y[k]!);
    }
  }
}
