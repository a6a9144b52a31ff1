import { describe, expect, it } from 'vitest';
import { calculated, cribOf, type EndMill, sheet, squarePocket, testJob } from '../../../test/shapes';
import { gougesAlong } from '../../check/gouge';
import { CutterDrop } from '../../tool/drop';
import { roundProfile } from '../../tool/profile';
import { sideStepFor } from '../../passes/scallop';
import { Motion } from '../../path/toolpath';
import type { StepResult } from '../../evaluate/result';

const ball: EndMill = ['ball', 6, 3, 14, 5.6, 40];
const bull: EndMill = ['bull', 8, 1, 16, 7.5, 40];
const rough: EndMill = ['bull', 8, 1, 22, 7.6, 40];

/** Roughed, and then its walls finished: what the last step came to, and the part in the frame of the work zero. */
async function finished(soup: number[], cutter: EndMill, values: Record<string, unknown>, skin = 0.3) {
  const job = testJob(
    [
      {
        kind: 'level-roughing',
        assemblyId: 'rough',
        values: { sideAllowance: skin, floorAllowance: skin, stairs: 0.4 },
      },
      { kind: 'waterline', assemblyId: 'finish', values: { mostSteel: 3, rampDeg: null, ...values } },
    ],
    0,
    { cell: 0.2, crib: cribOf({ rough, finish: cutter }) },
  );
  const session = await calculated(job, soup);
  return { result: session.results.get('s2')!, part: session.snapshot.piece.part };
}

interface Cut {
  readonly ax: number;
  readonly ay: number;
  readonly x: number;
  readonly y: number;
  readonly z: number;
}
const cuts = ({ path: { x, y, z, kind } }: StepResult): Cut[] =>
  [...x].flatMap((_, k) =>
    kind[k] === Motion.cut ? [{ ax: x[k - 1]!, ay: y[k - 1]!, x: x[k]!, y: y[k]!, z: z[k]! }] : [],
  );

/** A cone that rises from the middle of a basin whose wall leans by `deg` from level. */
const basin = (deg: number): number[] => {
  const tan = Math.tan((deg * Math.PI) / 180);
  return sheet([-26, -26, 26, 26], 0.5, -30, (x, y) => {
    const r = Math.hypot(x, y);
    return Math.max(-12, Math.min(0, (r - 16) * tan), Math.min(-2, -3 - (r - 2) * tan));
  });
};

describe('waterline', () => {
  it.each([
    ['ball', ball],
    ['bull-nose', bull],
  ] as const)(
    '%s: rounds an upright pocket as far from its wall as its radius, heights as close as the scallop wants',
    async (_, cutter) => {
      const HALF = 14;
      const scallop = 0.02;
      const { result } = await finished(squarePocket(20, HALF, 9, -15), cutter, { scallop });
      const [, DC, RE] = cutter;
      const all = cuts(result);
      expect(all.length).toBeGreaterThan(50);
      for (const { x, y, z } of all) {
        // higher up the round of the cutter runs along the pocket's upper edge
        const over = Math.max(0, RE + z);
        const aside = HALF - DC / 2 + RE - Math.sqrt(RE * RE - over * over);
        expect(Math.max(Math.abs(x), Math.abs(y))).toBeLessThanOrEqual(aside + 0.001);
        expect(Math.max(Math.abs(x), Math.abs(y))).toBeGreaterThan(aside - 0.01);
      }
      const heights = [...new Set(all.map((c) => c.z))].sort((a, b) => b - a);
      const step = sideStepFor(RE, scallop);
      heights.slice(1).forEach((z, k) => expect(heights[k]! - z).toBeLessThanOrEqual(step + 1e-9));
      // on the wall itself no height is cut that is not needed; along the upper edge, which leans, there are some between
      const count = Math.ceil(9 / step - 1e-6);
      const needed = Array.from({ length: count }, (_, k) => (-9 * (k + 1)) / count).filter((z) => z < -RE);
      expect(heights.filter((z) => z < -RE)).toHaveLength(needed.length);
      expect(heights.at(-1)).toBeCloseTo(-9, 3);
      // climb: the wall lies on the right, so a pocket is gone round counter-clockwise (ISO 3002: down milling)
      let turn = 0;
      for (const c of all) turn += c.ax * c.y - c.x * c.ay;
      expect(turn).toBeGreaterThan(0);
      expect(result.figures.findings).toEqual([]);
      // one way down, wall by wall: it crosses above the work but once
      expect(result.figures.retracts).toBeLessThanOrEqual(3);
    },
  );

  it.each([50, 70])(
    'on walls that lean by %i° heights lie closer, so that along the wall passes are as far apart as on an upright one',
    async (deg) => {
      const scallop = 0.03;
      const { result, part } = await finished(basin(deg), ball, { scallop, fromSlopeDeg: 30 });
      const exact = new CutterDrop(part, roundProfile(6, 3));
      const rad = (deg * Math.PI) / 180;
      const onWall = new Set<number>();
      for (const { x, y, z } of cuts(result)) {
        expect(exact.at(x, y)).toBeLessThanOrEqual(z + 0.012);
        const r = Math.hypot(x, y);
        // never on the floor, the top or the tip of the cone
        expect(r).toBeGreaterThan(1);
        expect(z).toBeLessThan(0);
        if (r > 8 && z < -4 && z > -8) onWall.add(z);
      }
      const heights = [...onWall].sort((a, b) => b - a);
      const apart = Math.max(...heights.slice(1).map((z, k) => heights[k]! - z));
      expect(apart).toBeLessThanOrEqual(1.05 * sideStepFor(3, scallop) * Math.sin(rad) + 1e-6);
      expect(gougesAlong(part, roundProfile(6, 3), result.path, [0, result.path.x.length], 0.01)).toEqual([]);
      expect(result.figures.findings).toEqual([]);
    },
  );

  it.each([
    ['an upright pocket', squarePocket(20, 14, 9, -15)],
    ['a basin of 70°', basin(70)],
  ])('%s: closed passes go over into the next height along the wall, no steeper than the angle', async (_, soup) => {
    /** The steepest fall over at least a millimetre in plan, or at one place, degrees: facets make less of a way uneven. */
    const down = (result: StepResult): number => {
      const { x, y, z, kind } = result.path;
      let steepest = 0;
      for (let k = 1; k < x.length; k++) {
        let [fall, way] = [0, 0];
        for (let m = k; m < x.length && way < 1; m++) {
          if (kind[m] === Motion.rapid || kind[m] === Motion.entry || !(z[m - 1]! < -4 && z[m]! > -8)) break;
          fall += z[m - 1]! - z[m]!;
          way += Math.hypot(x[m]! - x[m - 1]!, y[m]! - y[m - 1]!);
          if (way >= 1 || fall > 0.25) steepest = Math.max(steepest, Math.atan2(fall, Math.max(way, 1e-9)));
        }
      }
      return (steepest * 180) / Math.PI;
    };
    const values = { scallop: 0.03, fromSlopeDeg: 60 };
    const [ramped, straight] = [
      await finished(soup, ball, { ...values, rampDeg: 15 }),
      await finished(soup, ball, { ...values, rampDeg: null }),
    ];
    expect(down(ramped.result)).toBeLessThan(16);
    expect(down(straight.result)).toBeGreaterThan(50);
    // every height is still cut all round
    const [a, b] = [ramped, straight].map(({ result }) => result.figures.ridges!.bands.at(-1)!);
    expect(a!.p99).toBeLessThan(1.05 * b!.p99 + 1e-4);
    expect(ramped.result.figures.findings).toEqual([]);
    expect(
      gougesAlong(ramped.part, roundProfile(6, 3), ramped.result.path, [0, ramped.result.path.x.length], 0.01),
    ).toEqual([]);
  });

  it('flat ground and gentle slopes are left to others, and nothing is told as unfinished there', async () => {
    const hill = sheet([-22, -22, 22, 22], 0.5, -20, (x, y) => -8 + 5 * Math.exp(-(x * x + y * y) / 120));
    await expect(finished(hill, ball, { fromSlopeDeg: 60 })).rejects.toThrow(/No wall steeper than 60°/);
    const { result } = await finished(squarePocket(20, 14, 9, -15), ball, { scallop: 0.02 });
    for (const band of result.figures.unfinished?.bands ?? []) expect(band.from).toBeGreaterThanOrEqual(30);
  });

  it('sides in which part and blank end together are left; where the blank is wider they are walls like others', async () => {
    const outer = async (beside: number) => {
      const job = testJob([{ kind: 'waterline', assemblyId: 'finish', values: { mostSteel: 50, scallop: 0.1 } }], 0, {
        cell: 0.23,
        crib: cribOf({ rough, finish: ball }),
        blank: { kind: 'offset', minX: beside, maxX: beside, minY: beside, maxY: beside, minZ: 0, maxZ: 0 },
      });
      const session = await calculated(job, squarePocket(20, 14, 4, -15));
      return cuts(session.results.get('s1')!).filter((c) => Math.max(Math.abs(c.x), Math.abs(c.y)) > 20).length;
    };
    expect(await outer(0)).toBe(0);
    expect(await outer(0.5)).toBeGreaterThan(20);
  });

  it('where steel stands thicker than it may meet nothing is cut, and the place is listed', async () => {
    const { result } = await finished(squarePocket(20, 14, 9, -15), ball, { scallop: 0.05, mostSteel: 0.5 }, 0.2);
    const all = cuts(result);
    // the corners of a roughing cutter of 8 mm hold more than half a millimetre for a ball of 6
    expect(result.leftOut.length).toBeGreaterThanOrEqual(1);
    for (const { x, y, z } of all) if (z < -3) expect(Math.min(Math.abs(x), Math.abs(y))).toBeLessThan(10.9);
    expect(result.figures.findings).toEqual([]);
  });

  it('a limit keeps it in its place, and its border is no wall', async () => {
    const job = testJob([{ kind: 'waterline', assemblyId: 'finish', values: { mostSteel: 50, scallop: 0.05 } }], 0, {
      cell: 0.2,
      crib: cribOf({ rough, finish: ball }),
    });
    job.steps[0]!.limits = [
      {
        kind: 'within',
        source: 'x',
        side: 'on',
        offset: 0,
        points: [
          [-30, -30],
          [4, -30],
          [4, 30],
          [-30, 30],
        ],
      },
    ];
    const session = await calculated(job, squarePocket(20, 14, 4, -15));
    const all = cuts(session.results.get('s1')!);
    for (const { x, y } of all) {
      expect(x).toBeLessThanOrEqual(4.03);
      expect(Math.max(-x, Math.abs(y))).toBeGreaterThan(10.9);
    }
    expect(Math.min(...all.filter((c) => c.z < -3).map((c) => c.x))).toBeCloseTo(-11, 1);
  });

  it('an open wall is cut to and fro when both ways are allowed, and only along it', async () => {
    const step = sheet([-20, -15, 20, 15], 0.5, -20, (x) => (x > 0 ? 0 : x < -1 ? -8 : 8 * x));
    const { result } = await finished(step, ball, { scallop: 0.05, direction: 'shortest', fromSlopeDeg: 60 });
    const ways = new Set(cuts(result).flatMap(({ ay, y }) => (Math.abs(y - ay) > 1 ? [Math.sign(y - ay)] : [])));
    expect(ways).toEqual(new Set([1, -1]));
    for (const { x } of cuts(result)) expect(x).toBeLessThan(0.1);
    expect(result.figures.findings).toEqual([]);
  });
});
