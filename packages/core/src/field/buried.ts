import type { HeightMap } from '../steel/heightMap';
import { heightAt, type RoundPiece } from '../tool/profile';

/** Tells where steel reaches deeper into a cutter than it may, by the cutter slimmed by that on all sides. */
export class Buried {
  private readonly core: RoundPiece | undefined;

  /** @param most thickest steel that the cutter may meet, mm */
  constructor(
    private readonly steel: HeightMap,
    piece: RoundPiece,
    private readonly most: number,
  ) {
    const radius = piece.radius - most;
    const corner = Math.max(0, piece.corner - most);
    this.core = radius > 0 ? { kind: 'round', z: most, corner, flat: radius - corner, radius } : undefined;
  }

  /** With the tip at (x, y, z). */
  at(x: number, y: number, z: number): boolean {
    const { core, steel, most } = this;
    if (!core) return false;
    const { x0, y0, cell, nx, ny, heights } = steel;
    const r = core.radius;
    const i0 = Math.max(0, Math.ceil((x - r - x0) / cell - 0.5));
    const i1 = Math.min(nx - 1, Math.floor((x + r - x0) / cell - 0.5));
    const j0 = Math.max(0, Math.ceil((y - r - y0) / cell - 0.5));
    const j1 = Math.min(ny - 1, Math.floor((y + r - y0) / cell - 0.5));
    for (let j = j0; j <= j1; j++)
      for (let i = i0; i <= i1; i++) {
        const h = heights[j * nx + i]!;
        if (h <= z + most) continue;
        const d = Math.hypot(x0 + (i + 0.5) * cell - x, y0 + (j + 0.5) * cell - y);
        if (h > z + heightAt(core, d)) return true;
      }
    return false;
  }
}
