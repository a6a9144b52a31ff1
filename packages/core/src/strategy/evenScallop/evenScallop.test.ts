import { describe, expect, it } from 'vitest';
import { cuts, finished, lengthOf } from '../../../test/finishing';
import { mostly } from '../../../test/mostly';
import { dome, DOME, saddle, sole, steppedBowl } from '../../../test/grounds';
import { type EndMill, sheet, type Soup, squarePocket } from '../../../test/shapes';
import { gougesAlong } from '../../check/gouge';
import { ridgePlaces } from '../../check/ridges';
import { sideStepFor } from '../../passes/scallop';
import { Motion } from '../../path/toolpath';
import { roundProfile, type RoundPiece } from '../../tool/profile';

const ball: EndMill = ['ball', 6, 3, 14, 5.6, 60];
const piece = roundProfile(6, 3) as RoundPiece;
const SCALLOP = 0.02;
const even = (soup: Soup, values: object = {}, cutter = ball) =>
  finished(soup, [{ kind: 'even-scallop', cutter, values: { scallop: SCALLOP, tolerance: 0.004, ...values } }]);
type Finished = Awaited<ReturnType<typeof even>>;

/** Shares of the scallop under which 50, 99 and 99.9 % of the ridges lie, over ground that is not the block's side. */
function ridges({ result, part }: Finished, slopes: [number, number] = [0, 80]) {
  const { values } = ridgePlaces(
    { part, path: result.path, piece, samples: 40_000, slopes, lowest: -100, highest: 100, closed: [], allowance: 0 },
    [0, 40_000],
  );
  const heights = values.filter((v, o) => o % 5 === 0 && Number.isFinite(v)).sort();
  const notCut = values.filter((v, o) => o % 5 === 0 && v === Infinity).length;
  const at = (share: number): number => heights[Math.floor(share * (heights.length - 1))]! / SCALLOP;
  return { p50: at(0.5), p99: at(0.99), p999: at(0.999), notCut: notCut / heights.length };
}
const gouges = ({ result, part }: Finished) => gougesAlong(part, piece, result.path, [0, result.path.x.length], 0.006);

describe('even scallop', () => {
  it.each(
    mostly<[string, Soup]>(2, [
      ['a saddle with a boss', saddle],
      ['a stepped bowl', steppedBowl],
      ['the half of a sole', sole],
    ]),
  )('%s: the ridges are of one height, nothing is left and nothing is gouged', async (_, soup) => {
    const run = await even(soup);
    const { p50, p99, p999, notCut } = ridges(run);
    // evenly spread over a parabola between passes: half of them below a quarter, 99 % below 0.98
    expect(p50).toBeGreaterThan(0.2);
    expect(p50).toBeLessThan(0.27);
    expect(p99).toBeLessThan(1.07);
    expect(p999).toBeLessThan(1.5);
    expect(notCut).toBe(0);
    expect(gouges(run)).toEqual([]);
    expect(run.result.figures.findings).toEqual([]);
  });

  it('on a half ball they hold on every slope, in no more length than the area wants', async () => {
    const run = await even(dome);
    for (const band of [0, 15, 30, 45, 60, 75]) expect(ridges(run, [band, band + 15]).p99).toBeLessThan(1.03);
    // outside a ball of radius r passes lie apart by w √(r / (r + R)); level ground round it from r + R outward
    const w = sideStepFor(3, SCALLOP);
    const round = (2 * Math.PI * DOME ** 2) / (w * Math.sqrt(DOME / (DOME + 3)));
    const level = (Math.PI * (20 ** 2 - DOME ** 2)) / w;
    expect(lengthOf(cuts(run.result))).toBeLessThan(1.12 * (round + level));
    expect(run.result.figures.retracts).toBeLessThan(12);
  });

  it('climb milling has the steel that is still to be cut on its right, conventional milling on its left', async () => {
    for (const [direction, side] of [
      ['climb', 1],
      ['conventional', -1],
    ] as const) {
      const { result } = await even(squarePocket(20, 14, 5, -12), { direction, scallop: 0.05 });
      let [right, wrong] = [0, 0];
      // on the floor: passes come nearer and nearer to its middle
      for (const c of cuts(result)) {
        if (Math.abs(c.z + 5) > 0.01 || Math.abs(c.az + 5) > 0.01) continue;
        const [dx, dy] = [c.x - c.ax, c.y - c.ay];
        const length = Math.hypot(dx, dy);
        // the middle lies to the right of a way clockwise round it
        const turn = (c.ax * dy - c.ay * dx) * side;
        if (Math.hypot(c.x, c.y) < 2 || length < 0.5) continue;
        if (turn < 0) right += length;
        else wrong += length;
      }
      expect(right).toBeGreaterThan(250);
      expect(wrong / (right + wrong)).toBeLessThan(0.15);
    }
  });

  it('inward it begins at the borders and corners, outward it ends there', async () => {
    const places = async (order: string) => {
      const { result } = await even(squarePocket(20, 14, 5, -12), { order, scallop: 0.05, toSlopeDeg: 10, top: -4 });
      const way = cuts(result).map((c) => Math.max(Math.abs(c.x), Math.abs(c.y)));
      const share = Math.floor(way.length / 4);
      const mean = (list: number[]): number => list.reduce((a, b) => a + b, 0) / list.length;
      return mean(way.slice(0, share)) - mean(way.slice(-share));
    };
    expect(await places('inward')).toBeGreaterThan(3);
    expect(await places('outward')).toBeLessThan(-3);
  });

  it('a slope band keeps the contact on its slopes, up to its border', async () => {
    const run = await even(dome, { fromSlopeDeg: 20, toSlopeDeg: 50 });
    const { path } = run.result;
    let [least, most] = [90, 0];
    for (let k = 1; k < path.x.length; k++) {
      if (path.kind[k] !== Motion.cut) continue;
      // the middle lies over the ball's own, on the normal
      const slope = (Math.atan2(Math.hypot(path.x[k]!, path.y[k]!), path.z[k]! + 3 + DOME) * 180) / Math.PI;
      least = Math.min(least, slope);
      most = Math.max(most, slope);
    }
    // facets of 1°
    expect(least).toBeGreaterThan(19);
    expect(least).toBeLessThan(21.5);
    expect(most).toBeGreaterThan(48.5);
    expect(most).toBeLessThan(51);
  });

  it('an outline holds the axis within, up to its edge, and passes go round what stands clear', async () => {
    const square = (half: number): [number, number][] => [
      [-half, -half],
      [half, -half],
      [half, half],
      [-half, half],
    ];
    const { result } = await finished(
      saddle,
      [{ kind: 'even-scallop', cutter: ball, values: { scallop: 0.05, tolerance: 0.004 } }],
      {
        limits: [
          { kind: 'within', source: 'outline', side: 'on', offset: 0, points: square(11) },
          { kind: 'clear', source: 'boss', points: square(2), distance: 1 },
        ],
      },
    );
    let [out, near] = [0, Infinity];
    for (const { x, y } of cuts(result)) {
      out = Math.max(out, Math.abs(x), Math.abs(y));
      near = Math.min(near, Math.hypot(Math.max(0, Math.abs(x) - 2), Math.max(0, Math.abs(y) - 2)));
    }
    expect(out).toBeLessThan(11.002);
    expect(out).toBeGreaterThan(10.95);
    // the cutter itself keeps 1 mm off a square of 2 mm
    expect(near).toBeGreaterThan(1 + 3 - 0.01);
    expect(near).toBeLessThan(1 + 3 + 0.3);
  });

  it('steel thicker than the limit is left and told', async () => {
    const { result } = await finished(
      sheet([-20, -16, 20, 16], 0.5, -20, (x, y) => (x < -14 ? 0 : Math.hypot(x, y) < 1.2 ? -10 : -3)),
      [{ kind: 'even-scallop', cutter: ['ball', 2, 1, 14, 1.8, 40], values: { scallop: SCALLOP, mostSteel: 0.5 } }],
    );
    expect(result.leftOut.map(({ why }) => why)).toContain('More steel than this cutter may take');
  });

  it('a bull-nose is refused in words', async () => {
    await expect(even(dome, {}, ['bull', 8, 1, 16, 7.5, 60])).rejects.toThrow('Even scallop wants a ball cutter.');
  });
});
