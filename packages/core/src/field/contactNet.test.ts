import { describe, expect, it } from 'vitest';
import { crewHere, meshOf, revolved, sheet, type Soup, squarePocket } from '../../test/shapes';
import { ClosestPoint } from '../geometry/closest';
import { contactMesh } from '../geometry/contactMesh';
import { roundProfile, type RoundPiece } from '../tool/profile';
import { netOver } from './contactNet';
import { projectNet } from './projectNet';
import { sampleNodes } from './sampling';
import { tipGridOver, TipSurface } from './tipSurface';
import { valleysOf } from './valleys';

const STEP = 0.4;

/** The net of a ball over a part, and what it was made from. */
async function netOf(soup: Soup, DC = 6, allowance = { side: 0, floor: 0 }) {
  const mesh = contactMesh(meshOf(soup));
  const spec = { mesh, piece: roundProfile(DC, DC / 2) as RoundPiece, ...allowance };
  const grid = tipGridOver(mesh.box, DC / 2 + allowance.side, STEP);
  await sampleNodes(grid, spec, crewHere(), () => undefined);
  const net = netOver(grid, DC / 2);
  await projectNet(net, spec, crewHere(), () => undefined);
  return { mesh, spec, net, step: grid.step };
}
const at = (of: Float64Array, v: number): [number, number, number] => [of[3 * v]!, of[3 * v + 1]!, of[3 * v + 2]!];

const hills = sheet([-14, -12, 14, 12], 0.5, -15, (x, y) => 2 * Math.sin(x / 3) + 1.5 * Math.cos(y / 2.5));

describe('the net of a ball’s middle', () => {
  it.each([
    ['hills', hills, { side: 0, floor: 0 }],
    ['hills with an allowance', hills, { side: 0.3, floor: 0.3 }],
    ['a pocket with upright walls', squarePocket(20, 14, 9, -15), { side: 0, floor: 0 }],
  ])(
    '%s: every vertex lies as far from the part as the ball is large, and the ball may stand there',
    async (_, soup, allowance) => {
      const { mesh, spec, net } = await netOf(soup, 6, allowance);
      const nearest = new ClosestPoint(mesh);
      const surface = new TipSurface(spec);
      let held = 0;
      for (let v = 0; v < net.count; v++) {
        if (!net.holds[v]) continue;
        held++;
        const [x, y, z] = at(net.centres, v);
        expect(Math.abs(nearest.distance(x, y, z) - 3 - allowance.side)).toBeLessThan(3e-3);
        expect(Math.hypot(...at(net.normals, v))).toBeCloseTo(1, 6);
        // a hair off upright walls
        const [nx, ny] = at(net.normals, v);
        expect(surface.at(x + 2e-3 * nx, y + 2e-3 * ny)).toBeLessThan(z - 3 + 0.02);
      }
      expect(held / net.count).toBeGreaterThan(0.99);
    },
  );

  it('over a half ball on a plate it is a larger one: its triangles add up to that area, and turn the same way', async () => {
    const r = 10;
    const arc = Array.from({ length: 61 }, (_, k): [number, number] => {
      const a = (k * Math.PI) / 120;
      return [r * Math.sin(a), r * Math.cos(a)];
    });
    const { net } = await netOf(revolved([...arc, [20, 0], [20, -3], [0, -3]], 180));
    let area = 0;
    for (let t = 0; t < net.triangles.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => at(net.centres, net.triangles[t + k]!));
      if (!a || !b || !c) throw new RangeError('three corners');
      const u = b.map((q, k) => q - a[k]!);
      const w = c.map((q, k) => q - a[k]!);
      const n = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!];
      const out = at(net.normals, net.triangles[t]!);
      if (Math.min(a[2], b[2], c[2]) < 4) continue;
      expect(n[0]! * out[0] + n[1]! * out[1] + n[2]! * out[2]).toBeGreaterThan(-1e-9);
      area += Math.hypot(...n) / 2;
    }
    // a zone of a ball of radius R from height 4 up: 2 π R (R - 4)
    const large = r + 3;
    expect(area / (2 * Math.PI * large * (large - 4))).toBeGreaterThan(0.95);
    expect(area / (2 * Math.PI * large * (large - 4))).toBeLessThan(1.01);
  });
});

describe('valleys', () => {
  it('of a square pocket: its four upright corners and its floor’s border, each place at the radius from both sides', async () => {
    const { mesh, spec, net, step } = await netOf(squarePocket(20, 14, 9, -15));
    const valleys = valleysOf(net, spec, step, 0.005);
    const nearest = new ClosestPoint(mesh);
    let [upright, along] = [0, 0];
    for (const { points: p } of valleys)
      for (let k = 0; k < p.length; k += 3) {
        const [x, y, z] = [p[k]!, p[k + 1]!, p[k + 2]!];
        if (z > -1) continue;
        expect(nearest.distance(x, y, z)).toBeGreaterThan(3 - 1e-3);
        // two of the three sides are just as far as the radius
        const off = [14 - Math.abs(x), 14 - Math.abs(y), z + 9].filter((d) => Math.abs(d - 3) < 2e-3);
        expect(off.length).toBeGreaterThanOrEqual(2);
        if (k === 0) continue;
        const way = Math.hypot(x - p[k - 3]!, y - p[k - 2]!, z - p[k - 1]!);
        if (Math.abs(z - p[k - 1]!) > 0.5 * way) upright += way;
        else along += way;
      }
    // from the floor to 1 mm below the top, at four corners; round the floor once
    expect(upright).toBeGreaterThan(0.9 * 4 * 5);
    expect(along).toBeGreaterThan(0.9 * 8 * 11);
    expect(along).toBeLessThan(1.05 * 8 * 11);
  });

  it('a fillet larger than the ball is none, and neither is a sharp edge outside', async () => {
    const round = Array.from({ length: 31 }, (_, k): [number, number] => {
      const a = (k * Math.PI) / 60;
      return [14 - 6 * Math.cos(a), -6 * Math.sin(a)];
    });
    // a boss whose foot is rounded with 6 mm
    const boss = revolved([[0, 4], [8, 4], ...round, [20, -6], [20, -12], [0, -12]], 90);
    const { spec, net, step } = await netOf(boss);
    expect(valleysOf(net, spec, step, 0.005)).toEqual([]);
  });
});
