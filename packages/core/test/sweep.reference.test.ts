import Module, { type Manifold as Solid, type ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { pointedProfile, type ProfilePiece, roundProfile } from '../src/tool/profile';
import { blockMap, volumeOfMap } from '../src/steel/heightMap';
import { Sweep } from '../src/steel/sweep';

type Place = readonly [number, number, number];

/** Facets around a turned solid: its volume is short by a share of (2π/n)²/6 = 1.6e-5. */
const AROUND = 640;
const CELL = 0.05;

/**
 * Reference (check 21): booleans of the package manifold-3d. A cutter up to any height is convex, so what it sweeps along a
 * straight move is the hull of its first and last place.
 */
describe('material removed against manifold-3d', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await Module();
    solids.setup();
  });

  function cutter(piece: ProfilePiece): Solid {
    const outline: [number, number][] = [
      [0, 0],
      [piece.flat, 0],
    ];
    const corner = piece.kind === 'round' ? piece.corner : 0;
    const steps = corner > 0 ? 160 : 0;
    for (let k = 1; k <= steps; k++) {
      const a = (k / steps) * (Math.PI / 2);
      outline.push([piece.flat + corner * Math.sin(a), corner * (1 - Math.cos(a))]);
    }
    if (piece.kind === 'cone') outline.push([piece.radius, piece.slope * (piece.radius - piece.flat)]);
    outline.push([piece.radius, 40], [0, 40]);
    return solids.Manifold.revolve([outline], AROUND);
  }

  const moves: [string, Place, Place][] = [
    ['a level move', [-6, -2, -2], [5, 3, -2]],
    ['a climbing move', [-5, 1, -4], [6, -2, -1]],
    ['a steep way down', [-1, 0.3, 1], [1.2, -0.4, -4]],
    ['a plunge', [0.3, 0.2, 2], [0.3, 0.2, -5]],
  ];
  for (const [name, piece] of [
    ['flat cutter', roundProfile(6, 0)],
    ['ball cutter', roundProfile(6, 3)],
    ['bull-nose cutter', roundProfile(8, 1.5)],
    ['drill of 118°', pointedProfile(0, 4, 118)[0]!],
    ['chamfer cutter with a tip', pointedProfile(1, 4, 90)[0]!],
  ] as const)
    for (const [what, a, b] of moves)
      it(`${what} of a ${name} takes off what the solids say, to the stock's cells`, () => {
        const map = blockMap({ minX: -12, minY: -9, minZ: -12, maxX: 12, maxY: 9, maxZ: 0 }, CELL);
        const sweep = new Sweep(map, piece);
        sweep.move(...a, ...b);
        const tool = cutter(piece);
        const swept = solids.Manifold.hull([tool.translate([...a]), tool.translate([...b])]);
        const block = solids.Manifold.cube([24, 18, 12]).translate([-12, -9, -12]);
        const wanted = block.intersect(swept).volume();
        // a cell on the border is wholly in or out: along a border of length l this evens out to about cell² sqrt(l / cell)
        const border = 60;
        const depth = Math.max(-a[2], -b[2]);
        const room = 3 * CELL * CELL * Math.sqrt(border / CELL) * depth + 3e-4 * wanted;
        expect(Math.abs(sweep.removed - wanted)).toBeLessThan(room);
        expect(24 * 18 * 12 - volumeOfMap(sweep.map)).toBeCloseTo(sweep.removed, 1);
      });
});
