import { describe, expect, it } from 'vitest';
import { roundProfile, type ProfilePiece } from '../cutter/profile';
import { contactMesh } from '../geometry/contactMesh';
import { areaOf, type Polygon } from '../geometry/polygon';
import { meshOf, squarePocket } from '../../test/shapes';
import { LevelCurves } from './levelCurves';
import { fillTipGrid, tipGridOver, TipSurface } from './tipSurface';

type Round = ProfilePiece & { kind: 'round' };

function curves(soup: number[], piece: Round, side: number, floor: number, z: number): Polygon[] {
  const mesh = contactMesh(meshOf(soup));
  const surface = new TipSurface({ mesh, piece, side, floor });
  const grid = tipGridOver(mesh.box, surface.reach + 1, 0.5);
  fillTipGrid(grid, surface, 0, grid.ny);
  return new LevelCurves(grid, surface).at(z);
}

/** A cone of many facets: apex at height H over the origin, base radius H / slope. */
function cone(height: number, slope: number): number[] {
  const r = height / slope;
  const n = 720;
  const soup: number[] = [];
  for (let k = 0; k < n; k++) {
    const a = (2 * Math.PI * k) / n;
    const b = (2 * Math.PI * (k + 1)) / n;
    const p = [r * Math.cos(a), r * Math.sin(a), 0];
    const q = [r * Math.cos(b), r * Math.sin(b), 0];
    soup.push(...p, ...q, 0, 0, height, ...q, ...p, 0, 0, 0);
  }
  return soup;
}

describe('level curves of the tip surface', () => {
  it('around a cone they are circles at the cone radius plus the bull-nose offset, within 0.01 mm', () => {
    const piece = roundProfile(10, 2) as Round;
    const slope = 2;
    for (const z of [3, 7.3, 12]) {
      const [ring, ...others] = curves(cone(20, slope), piece, 0, 0, z);
      expect(others).toHaveLength(0);
      // contact with a flank of slope m: corner centre stands r sqrt(1 + m²) / m off the flank, the axis Rf further
      const wanted = (20 - (z + 2)) / slope + (2 * Math.sqrt(1 + slope * slope)) / slope + 3;
      for (let k = 0; k < ring!.length; k += 2) {
        const r = Math.hypot(ring![k]!, ring![k + 1]!);
        // 720 facets stand inside the cone by up to R (1 - cos(π/720)) < 1e-4; points lie on the allowed side
        expect(r).toBeGreaterThan(wanted - 1e-3);
        expect(r).toBeLessThan(wanted + 0.01);
      }
    }
  });

  it('in a square pocket they are the square shrunk by the radius and the allowance, with upright walls exact', () => {
    const rings = curves(squarePocket(30, 20, 10, -20), roundProfile(8, 1) as Round, 0.3, 0.2, -5);
    const pocket = rings.map((r) => Math.abs(areaOf(r))).sort((a, b) => a - b)[0]!;
    expect(Math.abs(pocket - 31.4 * 31.4)).toBeLessThan(31.4 * 4 * 0.01);
  });

  it('the allowance left on floors is the floor allowance, whatever the side allowance', () => {
    const mesh = contactMesh(meshOf(squarePocket(30, 20, 10, -20)));
    for (const [side, floor] of [
      [0.5, 0.1],
      [0.1, 0.5],
      [0.3, 0.3],
    ] as const) {
      const surface = new TipSurface({ mesh, piece: roundProfile(8, 1) as Round, side, floor });
      expect(surface.at(0, 0)).toBeCloseTo(-10 + floor, 9);
      expect(surface.forbids(16 - side - 0.001, 0, -9)).toBe(false);
      expect(surface.forbids(16 - side + 0.001, 0, -9)).toBe(true);
    }
  });
});
