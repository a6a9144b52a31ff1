import { describe, expect, it } from 'vitest';
import { cuts, finished, lengthOf } from '../../test/finishing';
import { mostly } from '../../test/mostly';
import { type EndMill, meshOf, revolved, type Soup, sheet, squarePocket } from '../../test/shapes';
import { gougesAlong } from '../check/gouge';
import { type ContactMesh, contactMesh } from '../geometry/contactMesh';
import { bestAngle } from '../passes/parallel';
import type { StepResult } from '../evaluate/result';
import { Motion } from '../path/toolpath';
import { roundProfile } from '../tool/profile';

const ball: EndMill = ['ball', 6, 3, 14, 5.6, 60];
const small: EndMill = ['ball', 2.4, 1.2, 10, 2, 60];
const bull: EndMill = ['bull', 8, 1, 16, 7.5, 60];

const gouges = (part: ContactMesh, [, DC, RE]: EndMill, { path }: StepResult) =>
  gougesAlong(part, roundProfile(DC, RE), path, [0, path.x.length], 0.01);

/** A saddle with a boss on it: bent both ways, up to 50°, with a sharp foot. */
const saddle: Soup = sheet([-20, -16, 20, 16], 0.4, -30, (x, y) => {
  const ground = -8 + x ** 2 / 60 - y ** 2 / 40;
  const r = Math.hypot(x - 4, y + 2);
  return r < 5 ? Math.max(ground, -4 - r * r * 0.02) : ground;
});
/** A bowl in steps: level rings, walls of 65° and a round bottom. */
const steppedBowl: Soup = sheet([-18, -18, 18, 18], 0.3, -25, (x, y) => {
  const r = Math.hypot(x, y);
  const wall = (from: number, top: number): number => top + Math.min(0, (r - from) * Math.tan((65 * Math.PI) / 180));
  return Math.min(0, Math.max(-11 + r * r * 0.02, wall(15, 0), Math.min(-5, wall(10, -5))));
});
/** A plate with two round bosses and a pocket, everything level or upright. */
const plate: Soup = sheet([-20, -15, 20, 15], 0.5, -20, (x, y) => {
  if (Math.hypot(x - 13, y) < 4) return 0;
  if (Math.abs(x + 9) < 8 && Math.abs(y) < 9) return -9;
  return -4;
});

describe('gaps between cuts', () => {
  it.each(mostly(2, ['parallel-passes', 'waterline', 'even-scallop', 'slope-split']))(
    '%s: with none allowed each gap is crossed above the steel, wide ones are crossed at depth; nothing is gouged or met',
    async (kind) => {
      const run = (gap: number | null) =>
        finished(steppedBowl, [{ kind, cutter: ball, values: { scallop: 0.05, tolerance: 0.01 } }], { gap });
      const lifts = ({ result }: Awaited<ReturnType<typeof run>>): number =>
        result.path.kind.reduce(
          (count, is, k, all) => count + (is === Motion.rapid && all[k - 1] !== Motion.rapid ? 1 : 0),
          0,
        );
      const [none, usual, wide] = [await run(0), await run(null), await run(30)];
      expect(lifts(none)).toBeGreaterThan(lifts(usual));
      expect(lifts(usual)).toBeGreaterThanOrEqual(lifts(wide));
      expect(gouges(wide.part, ball, wide.result)).toEqual([]);
      expect(wide.result.figures.findings).toEqual([]);
    },
  );
});

describe('parallel passes on slopes', () => {
  it('a saddle with a boss: with passes between they hold the scallop on all slopes up to 60°, without them they do not', async () => {
    const scallop = 0.02;
    const run = (extra: string) =>
      finished(saddle, [{ kind: 'parallel-passes', cutter: ball, values: { scallop, extra, tolerance: 0.004 } }]);
    const [plain, closer] = [await run('none'), await run('between')];
    const worst = ({ result }: typeof plain): number =>
      Math.max(...result.figures.ridges!.bands.filter((b) => b.to <= 60 && b.count > 200).map((b) => b.p99));
    expect(worst(plain)).toBeGreaterThan(1.2 * scallop);
    expect(worst(closer)).toBeLessThan(1.1 * scallop);
    expect(gouges(closer.part, ball, closer.result)).toEqual([]);
    expect(closer.result.figures.findings).toEqual([]);
  });

  it('on a plane that rises across them they lie as far apart along it as on level ground, with passes only where wanted', async () => {
    const slope = Math.tan((58 * Math.PI) / 180);
    const ramp = sheet([-20, -15, 20, 15], 0.5, -20, (_, y) => Math.min(0, Math.max(-9, -9 + (y - 2) * slope)));
    const scallop = 0.03;
    const { result } = await finished(ramp, [
      { kind: 'parallel-passes', cutter: ball, values: { scallop, extra: 'between' } },
    ]);
    const lines = (from: number, to: number): number =>
      new Set(cuts(result).flatMap((c) => (c.y > from && c.y < to && Math.abs(c.x - c.ax) > 1 ? [c.y.toFixed(2)] : [])))
        .size;
    const step = 2 * Math.sqrt(2 * 3 * scallop - scallop ** 2);
    // on level ground one every step, on the slope one every step / 2, for 1 / cos 58° = 1.9
    expect(lines(-14, -4)).toBeLessThanOrEqual(10 / step + 2);
    expect(lines(2, 5)).toBeGreaterThanOrEqual((2 * 3) / step - 3);
  });

  it('upward only, every piece climbs; downward only, every piece falls', async () => {
    for (const [ways, sign] of [
      ['up', 1],
      ['down', -1],
    ] as const) {
      const { result } = await finished(saddle, [
        { kind: 'parallel-passes', cutter: ball, values: { scallop: 0.1, ways, extra: 'none' } },
      ]);
      // what falls on the way up is no more than the scallop at a time
      let against = 0;
      for (const c of cuts(result)) {
        against = sign * (c.z - c.az) < 0 ? against - sign * (c.z - c.az) : 0;
        expect(against).toBeLessThan(0.11);
      }
    }
  });

  it('a height band ends the passes at its heights', async () => {
    const { result } = await finished(saddle, [
      { kind: 'parallel-passes', cutter: ball, values: { scallop: 0.1, top: -7, bottom: -9, extension: 0 } },
    ]);
    const heights = cuts(result).map((c) => c.z);
    expect(Math.max(...heights)).toBeLessThan(-6.9);
    expect(Math.min(...heights)).toBeGreaterThan(-9.1);
    expect(heights.length).toBeGreaterThan(100);
  });

  it('the best angle runs square to ground that is bent one way only', () => {
    for (const deg of [0, 30, 90]) {
      const a = (deg * Math.PI) / 180;
      // a wave whose crests run at this angle to X
      const wave = contactMesh(
        meshOf(sheet([-10, -10, 10, 10], 0.5, -10, (x, y) => 2 * Math.sin(y * Math.cos(a) - x * Math.sin(a)))),
      );
      expect(bestAngle(wave, Math.PI / 2)).toBe((deg + 90) % 180);
    }
  });

  it('a slope band keeps the contact on its slopes', async () => {
    const { result } = await finished(steppedBowl, [
      { kind: 'parallel-passes', cutter: ball, values: { scallop: 0.05, toSlopeDeg: 30, extension: 0 } },
    ]);
    for (const { x, y, z } of cuts(result)) {
      // in the middle of the walls of 65° the tip stands at none of these heights
      if (Math.hypot(x, y) > 3) expect(z < -1.2 && z > -3.4).toBe(false);
    }
  });
});

describe('slope-split', () => {
  it.each(
    mostly<[string, Soup, string]>(2, [
      ['a saddle with a boss', saddle, 'parallel'],
      ['a stepped bowl', steppedBowl, 'even'],
      ['a stepped bowl', steppedBowl, 'parallel'],
    ]),
  )('%s: the scallop holds in every band of slopes, and nothing is gouged', async (_, soup, gentle) => {
    const scallop = 0.02;
    const { result, part } = await finished(soup, [
      { kind: 'slope-split', cutter: ball, values: { scallop, tolerance: 0.004, gentle } },
    ]);
    const { bands } = result.figures.ridges!;
    expect(bands.length).toBeGreaterThanOrEqual(2);
    for (const band of bands) if (band.count > 1000) expect(band.p99).toBeLessThan(1.1 * scallop);
    expect(gouges(part, ball, result)).toEqual([]);
    expect(result.figures.findings).toEqual([]);
  });

  it('ground without a wall is finished all the same', async () => {
    const dish = sheet([-15, -15, 15, 15], 0.5, -10, (x, y) => (x * x + y * y) / 200 - 3);
    const { result } = await finished(dish, [{ kind: 'slope-split', cutter: ball, values: { scallop: 0.05 } }]);
    expect(result.figures.ridges!.all.p99).toBeLessThan(1.1 * 0.05);
  });
});

describe('rest finishing', () => {
  /** How far apart it is looked what is wanted, mm. */
  const LOOK_MM = 0.6;

  it('a waterline with DC 2.4 after DC 6 cuts the corners of a pocket only', async () => {
    const HALF = 14;
    const { results } = await finished(squarePocket(20, HALF, 6, -15), [
      { kind: 'waterline', cutter: ball, values: { scallop: 0.03 } },
      { kind: 'waterline', cutter: small, values: { scallop: 0.03, restOf: 'finish0', restOverlap: 0.2 } },
    ]);
    const [all, rest] = [cuts(results[0]!), cuts(results[1]!)];
    expect(rest.length).toBeGreaterThan(20);
    for (const { x, y, z } of rest) {
      // beyond where the ball of 6 touches the wall, and its overlap; at the floor its round leaves some along the walls as well
      if (z > -6 + 3 - 1.2) expect(Math.min(Math.abs(x), Math.abs(y))).toBeGreaterThan(HALF - 3 - 0.2 - LOOK_MM);
    }
    const high = (of: typeof all) => lengthOf(of.filter((c) => c.z > -1.5));
    expect(high(rest)).toBeLessThan(0.5 * high(all));
  });

  it('where an earlier cutter reached everything there is nothing to do', async () => {
    const dish = sheet([-15, -15, 15, 15], 0.5, -10, (x, y) => (x * x + y * y) / 200 - 3);
    await expect(
      finished(dish, [
        { kind: 'parallel-passes', cutter: ball },
        { kind: 'parallel-passes', cutter: small, values: { restOf: 'finish0' } },
      ]),
    ).rejects.toThrow(/No pass reaches the part/);
  });

  it('only steel thicker than a threshold: a skin that is thinner is left', async () => {
    await expect(
      finished(squarePocket(20, 14, 6, -15), [{ kind: 'waterline', cutter: ball, values: { leastSteel: 1.8 } }]),
    ).rejects.toThrow(/No wall steeper/);
  });
});

describe('flats', () => {
  it('every level face is cut at its own height, and walls are kept off by what is asked: outer and inner ones', async () => {
    const RING = 8;
    const HALF = 14;
    const off = 0.2;
    const values = { sideAllowance: off, smallestFlat: 20, tolerance: 0.004 };
    const boss = revolved(
      [
        [0, 0],
        [RING, 0],
        [RING, -6],
        [22, -6],
        [22, -15],
        [0, -15],
      ],
      240,
    );
    const around = await finished(boss, [{ kind: 'flats', cutter: bull, values }]);
    const low = cuts(around.result).filter((c) => c.z < -5);
    for (const c of low) expect(c.z).toBeCloseTo(-6, 3);
    const nearest = Math.min(...low.map((c) => Math.hypot(c.x, c.y)));
    expect(nearest).toBeGreaterThan(RING + 4 + off - 0.005);
    expect(nearest).toBeLessThan(RING + 4 + off + 0.01);

    const inside = await finished(squarePocket(20, HALF, 9, -15), [{ kind: 'flats', cutter: bull, values }]);
    const floor = cuts(inside.result).filter((c) => c.z < -8);
    for (const c of floor) expect(c.z).toBeCloseTo(-9, 3);
    const farthest = Math.max(...floor.map((c) => Math.max(Math.abs(c.x), Math.abs(c.y))));
    expect(farthest).toBeLessThan(HALF - 4 - off + 0.005);
    expect(farthest).toBeGreaterThan(HALF - 4 - off - 0.01);
    for (const { part, result } of [around, inside]) {
      expect(gouges(part, bull, result)).toEqual([]);
      expect(result.figures.findings).toEqual([]);
    }
  });

  it('steel that stands thicker than the limit is left and listed, also by the later of several cuts', async () => {
    const pocket = (mostSteel: number, count: number) =>
      finished(
        squarePocket(20, 14, 9, -15),
        [{ kind: 'flats', cutter: bull, values: { mostSteel, cuts: count, ap: 0.1 } }],
        { skin: 0.6 },
      );
    const { result } = await pocket(1, 2);
    expect(cuts(result).some((c) => c.z < -8)).toBe(true);
    await expect(pocket(0.3, 2)).rejects.toThrow(/finds nothing to cut/);
  });

  it('in several cuts the depths lie above one another', async () => {
    const { result } = await finished(
      plate,
      [{ kind: 'flats', cutter: bull, values: { cuts: 3, ap: 0.1, smallestFlat: 100 } }],
      { skin: 0.5 },
    );
    const heights = [...new Set(cuts(result).map((c) => c.z))].filter((z) => z < -3.5 && z > -5).sort((a, b) => b - a);
    expect(heights.map((z) => Math.round(1000 * z) / 1000)).toEqual([-3.8, -3.9, -4]);
  });

  it('a ball is refused, and a part without a flat says so', async () => {
    await expect(finished(plate, [{ kind: 'flats', cutter: ball }])).rejects.toThrow(/Flats want/);
    await expect(finished(saddle, [{ kind: 'flats', cutter: bull }])).rejects.toThrow(/No level face/);
  });
});

describe('corner tracing', () => {
  it('follows a groove of 90° as high above its bottom as a ball stands in it: R (√2 - 1)', async () => {
    const groove = sheet([-15, -20, 15, 20], 0.5, -15, (x, y) => Math.min(0, Math.abs(x - 0.1 * y) - 8) / 1);
    const { result, part } = await finished(groove, [
      { kind: 'corner-tracing', cutter: ball, values: { mostSteel: 6 } },
    ]);
    const all = cuts(result);
    expect(lengthOf(all)).toBeGreaterThan(36);
    const lean = Math.hypot(1, 0.1);
    for (const { x, y, z } of all) {
      expect(Math.abs(x - 0.1 * y)).toBeLessThan(0.01);
      // the sides rise by √(1 + 0.1²) square to the groove
      expect(z).toBeCloseTo(-8 + 3 * (Math.sqrt(1 + lean * lean) - 1), 2);
    }
    expect(gouges(part, ball, result)).toEqual([]);
  });

  it('goes round the foot of a wall at its radius from it, and round a boss on the outside', async () => {
    const RING = 9;
    const boss = revolved([
      [0, 0],
      [RING, 0],
      [RING, -6],
      [20, -6],
      [20, -15],
      [0, -15],
    ]);
    const { result, part } = await finished(boss, [{ kind: 'corner-tracing', cutter: ball, values: { mostSteel: 6 } }]);
    const low = cuts(result).filter((c) => c.z < -5.9);
    expect(lengthOf(low)).toBeGreaterThan(0.9 * 2 * Math.PI * (RING + 3));
    for (const { x, y, z } of low) {
      expect(z).toBeCloseTo(-6, 2);
      expect(Math.hypot(x, y)).toBeGreaterThan(RING + 3 - 0.01);
      expect(Math.hypot(x, y)).toBeLessThan(RING + 3 + 0.01);
    }
    expect(gouges(part, ball, result)).toEqual([]);
  });

  it('a narrow strip that is closed to it is not passed through', async () => {
    const groove = sheet([-15, -20, 15, 20], 0.5, -15, (x) => Math.min(0, Math.abs(x) - 8));
    const strip = (kind: string, values: Record<string, unknown>) =>
      finished(groove, [{ kind, cutter: ball, values: { mostSteel: 6, ...values } }], {
        limits: [
          [-30, 3],
          [3.8, 30],
        ].map(([from, to]) => ({
          kind: 'within' as const,
          source: 'strip',
          side: 'on' as const,
          offset: 0,
          points: [
            [-30, from!],
            [30, from!],
            [30, to!],
            [-30, to!],
          ],
        })),
      });
    for (const { result } of [
      await strip('corner-tracing', {}),
      await strip('parallel-passes', { angleDeg: 90, scallop: 0.1, leastSteel: 0.02 }),
      await strip('even-scallop', { scallop: 0.1 }),
    ])
      for (const c of cuts(result)) expect(c.ay > 3.4 === c.y > 3.4).toBe(true);
  });

  it('ground without valleys says so', async () => {
    const hill = sheet([-15, -15, 15, 15], 0.5, -10, (x, y) => -(x * x + y * y) / 200);
    await expect(finished(hill, [{ kind: 'corner-tracing', cutter: ball }])).rejects.toThrow(/no valley/);
  });
});
