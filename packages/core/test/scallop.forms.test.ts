import { describe, expect, it } from 'vitest';
import { type ProfilePiece, roundProfile } from '../src/tool/profile';
import { blockMap } from '../src/steel/heightMap';
import { Sweep } from '../src/steel/sweep';

type Round = ProfilePiece & { kind: 'round' };

/**
 * Highest ridge, normal to the surface, that level passes along X leave between them.
 *
 * @param tips where the tip stands at each pass: y, z
 * @param aside how far from the axis along Y the cutter touches the surface, mm
 * @param off distance of a point (y, z) from the surface, mm
 */
function ridge(
  piece: Round,
  tips: readonly (readonly [number, number])[],
  aside: number,
  off: (y: number, z: number) => number,
): number {
  const n = tips.length;
  // the ridges between the middle passes only: the outermost have no neighbour
  const block = blockMap(
    { minX: -0.03, maxX: 0.03, minY: tips[2]![0] + aside, maxY: tips[n - 3]![0] + aside, minZ: -90, maxZ: 90 },
    0.004,
  );
  const sweep = new Sweep(block, piece);
  const { map } = sweep;
  for (const [y, z] of tips) sweep.move(-20, y, z, 20, y, z);
  let highest = 0;
  for (let j = 0; j < map.ny; j++)
    highest = Math.max(highest, off(map.y0 + (j + 0.5) * map.cell, map.heights[j * map.nx]!));
  return highest;
}

describe('ridges between passes, as the stock shows them', () => {
  const ball = roundProfile(10, 5) as Round;

  it('check 2: on a plane inclined across the passes the step along the surface is the step in plan over cos θ', () => {
    for (const deg of [0, 20, 45, 60]) {
      const [sin, cos] = [Math.sin((deg * Math.PI) / 180), Math.cos((deg * Math.PI) / 180)];
      const step = 0.5;
      // ball centre R off the plane z = y tan θ, its tip R below
      const tips = Array.from({ length: 8 }, (_, k) => {
        const y = k * step;
        return [y, y * (sin / cos) + 5 / cos - 5] as const;
      });
      const s = step / cos;
      const wanted = 5 - Math.sqrt(25 - (s / 2) ** 2);
      const found = ridge(ball, tips, 5 * sin, (y, z) => z * cos - y * sin);
      expect(found).toBeGreaterThan(0.96 * wanted);
      expect(found).toBeLessThan(1.001 * wanted);
    }
  });

  it('check 3: on a curved surface s = sqrt(8 h R ρ / (ρ ± R)) (Lin & Koren 1996; Suresh & Yang 1994, from memory)', () => {
    const R = 5;
    const h = 0.01;
    for (const [rho, way] of [
      [20, 1],
      [60, 1],
      [20, -1],
      [60, -1],
    ] as const) {
      const s = Math.sqrt((8 * h * R * rho) / (rho + way * R));
      const tips = Array.from({ length: 9 }, (_, k) => {
        const a = ((k - 4) * s) / rho;
        // convex: centre outside a cylinder about the origin; concave: inside it, on its lower side
        const r = rho + way * R;
        return [r * Math.sin(a), way * r * Math.cos(a) - R] as const;
      });
      const found = ridge(ball, tips, 0, (y, z) => way * (Math.hypot(y, z) - rho));
      expect(found / h).toBeGreaterThan(0.95);
      expect(found / h).toBeLessThan(1.03);
    }
  });

  it('check 4: across the fall line of a slope a bull-nose leaves the ridge of a ball of (DC/2 - RE)/sin θ + RE, and along its level that of its corner (Choi & Jerard 1998, from memory)', () => {
    const bull = roundProfile(12, 2) as Round;
    for (const [deg, step] of [
      [15, 1],
      [30, 1],
      [60, 0.8],
    ] as const) {
      const [sin, cos] = [Math.sin((deg * Math.PI) / 180), Math.cos((deg * Math.PI) / 180)];
      const tan = sin / cos;
      const off = (y: number, z: number): number => z * cos - y * sin;
      // the corner's centre stands 4 mm uphill of the axis and 2 mm off the slope
      const tip = (y: number): number => (y + 4) * tan + 2 / cos - 2;
      const level = Array.from({ length: 8 }, (_, k) => [k * step * cos, tip(k * step * cos)] as const);
      const corner = 2 - Math.sqrt(4 - (step / 2) ** 2);
      const along = ridge(bull, level, 4 + 2 * sin, off);
      expect(along / corner).toBeGreaterThan(0.95);
      expect(along / corner).toBeLessThan(1.01);

      const block = blockMap(
        { minX: -1.5 * step, maxX: 1.5 * step, minY: -0.02, maxY: 0.02, minZ: -90, maxZ: 90 },
        0.005,
      );
      const sweep = new Sweep(block, bull);
      const row = sweep.map;
      for (let k = -3; k <= 3; k++) sweep.move(k * step, -30, tip(-30), k * step, 30, tip(30));
      let across = 0;
      for (let i = 0; i < row.nx; i++) across = Math.max(across, off(row.y0 + 0.5 * row.cell, row.heights[i]!));
      const radius = 4 / sin + 2;
      const wanted = radius - Math.sqrt(radius * radius - (step / 2) ** 2);
      // the section is an ellipse, whose tip that ball osculates
      expect(across / wanted).toBeGreaterThan(0.97);
      expect(across / wanted).toBeLessThan(1.05);
    }
  });
});
