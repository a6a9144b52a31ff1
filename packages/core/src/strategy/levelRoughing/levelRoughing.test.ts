import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { crewHere, meshOf, sheet, squarePocket, testCrib, testJob } from '../../../test/shapes';
import { areaOf, nearestOn, type Region } from '../../geometry/polygon';
import { Motion, type Toolpath } from '../../path/toolpath';
import type { Job } from '../../plan/job';
import { PlanSession, type StepResult } from '../../plan/session';
import { levelsOf, type FlatLevels } from './heights';
import { linesIn } from './lines';
import { betweenLevels, stairRun } from './stairs';

type Limits = Job['steps'][number]['limits'];

async function roughed(
  soup: number[],
  assemblyId: string,
  values: Record<string, unknown>,
  { above = 0, limits = [] as Limits, kind = 'level-roughing', crib = testCrib(), drilled = [] as Job['drilled'] } = {},
): Promise<StepResult> {
  const job = testJob([{ kind, assemblyId, values }], above, { cell: 0.2, crib, drilled });
  job.steps[0]!.limits = limits;
  const session = new PlanSession();
  session.prepare(job, meshOf(soup), 'part');
  await session.evaluate(job, crewHere(), () => undefined);
  return session.results.get('s1')!;
}

/** Highest steel above a height within a window. */
function highestOver({ after }: StepResult, inside: (x: number, y: number) => number | undefined): number {
  let most = -Infinity;
  for (let o = 0; o < after.heights.length; o++) {
    const floor = inside(
      after.x0 + ((o % after.nx) + 0.5) * after.cell,
      after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell,
    );
    if (floor !== undefined) most = Math.max(most, after.heights[o]! - floor);
  }
  return most;
}

function each(path: Toolpath, see: (x: number, y: number, z: number, kind: Motion, k: number) => void): void {
  for (let k = 1; k < path.x.length; k++) see(path.x[k]!, path.y[k]!, path.z[k]!, path.kind[k]! as Motion, k);
}

describe('heights of levels', () => {
  const flats = fc.array(fc.double({ min: -39, max: -1, noNaN: true }), { maxLength: 5 });
  const heights = (list: number[], ap: number, how: FlatLevels) =>
    levelsOf(
      0,
      -40,
      ap,
      list.map((z) => ({ z, flat: z - 0.3 })),
      how,
    );

  it('no level is deeper than ap below the one above it, and the last is at the bottom', () => {
    fc.assert(
      fc.property(
        flats,
        fc.double({ min: 0.3, max: 8, noNaN: true }),
        fc.constantFrom<FlatLevels>('even', 'added', 'over', 'none'),
        (list, ap, how) => {
          const levels = heights(list, ap, how);
          for (const { z, above } of levels) {
            expect(above - z).toBeLessThanOrEqual(ap + 2e-3);
            expect(above).toBeGreaterThan(z);
          }
          expect(levels[levels.length - 1]!.z).toBeCloseTo(-40, 3);
          for (let k = 1; k < levels.length; k++) expect(levels[k]!.z).toBeLessThan(levels[k - 1]!.z);
        },
      ),
    );
  });

  it('every flat gets a level, and a level over a flat alone moves no other', () => {
    fc.assert(
      fc.property(flats, fc.double({ min: 0.3, max: 8, noNaN: true }), (list, ap) => {
        for (const how of ['even', 'added', 'over'] as const)
          for (const flat of list)
            expect(Math.min(...heights(list, ap, how).map((l) => Math.abs(l.z - flat)))).toBeLessThan(3e-3);
        const plain = heights(list, ap, 'none').map((l) => l.z);
        const over = heights(list, ap, 'over').filter((l) => l.flat === undefined);
        expect(over.map((l) => l.z)).toEqual(plain);
      }),
    );
  });
});

describe('stairs between levels', () => {
  it('heights in between rise, and no stair above the limit is left undivided', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 10, noNaN: true }),
        fc.double({ min: 0.2, max: 5, noNaN: true }),
        (height, limit) => {
          const between = betweenLevels(-7 - height, -7, limit);
          const all = [-7 - height, ...between.map((b) => b.z), -7];
          for (let k = 1; k < all.length; k++) {
            expect(all[k]!).toBeGreaterThan(all[k - 1]!);
            expect(all[k]! - all[k - 1]!).toBeLessThanOrEqual(limit + 1e-9);
          }
          // what a height divides is twice as high as what it leaves on either side when it is cut alone
          for (const { z, stair } of between) {
            const low = (z - (-7 - height)) / stair;
            expect(Math.abs(low - Math.round(low))).toBeCloseTo(0.5, 6);
          }
        },
      ),
    );
  });

  it('on a slope the stair is h cos(slope) thick', () => {
    for (const slope of [10, 30, 60, 85]) {
      const rad = (slope * Math.PI) / 180;
      expect(stairRun(2, 2 * Math.cos(rad))).toBeCloseTo(2 / Math.tan(rad), 9);
    }
  });

  it.each([25, 50, 70])(
    'a slope of %d degrees keeps stairs of h cos(slope), or the limit where that is less',
    async (deg) => {
      const rise = Math.tan((deg * Math.PI) / 180);
      // a ridge along Y whose flanks fall off to a level
      const ridge = (x: number): number => Math.max(-8, -Math.abs(x) * rise);
      const soup = sheet([-30, -12, 30, 12], 0.5, -20, ridge);
      const flank = (x: number, y: number): number | undefined =>
        Math.abs(y) < 8 && ridge(x) > -7.5 && ridge(x) < -0.5 ? ridge(x) : undefined;
      const cos = Math.cos((deg * Math.PI) / 180);
      // bull-nose corners make the stair smaller than that of a sharp one by at most their cusp
      const thickness = async (stairs: number | null): Promise<number> => {
        const values = { sideAllowance: 0, floorAllowance: 0, ap: 2, flats: 'none', stairs };
        const result = await roughed(soup, 't4', values);
        expect(result.figures.leftOut).toEqual([]);
        return highestOver(result, flank) * cos;
      };
      const cell = 0.2 * Math.sin((deg * Math.PI) / 180);
      const plain = await thickness(null);
      expect(plain).toBeLessThan(2 * cos + cell);
      expect(plain).toBeGreaterThan(2 * cos - 2 * cell - 0.1);
      const limited = await thickness(0.6);
      expect(limited).toBeLessThan(0.6 + cell);
      expect(limited).toBeLessThanOrEqual(plain + 1e-3);
    },
  );
});

describe('close to thin and steep places', () => {
  const pegs = [
    [-12, -7, 0, 2.4],
    [-3, 8, -4, 1.4],
    [7, -5, -2, 1.8],
    [14, 6, 0, 3],
  ] as const;
  const shapes: Record<string, (x: number, y: number) => number> = {
    pegs: (x, y) =>
      Math.max(-13 + 0.1 * x, ...pegs.map(([px, py, z, r]) => z - 9 * Math.max(0, Math.hypot(x - px, y - py) - r))),
    spiral: (x, y) => {
      const r = Math.hypot(x, y);
      const wave = Math.sin(3 * Math.atan2(y, x) + r / 4) * (r - 5);
      return -8 + 7 * Math.tanh(wave / 5) * (r < 12 ? 1 : Math.max(0, 1 - (r - 12) / 4));
    },
  };
  it.each(Object.keys(shapes))(
    'among %s neither levels nor stairs, nor ways in, touch the part with almost no allowance',
    async (name) => {
      for (const order of ['depth', 'level']) {
        const values = { sideAllowance: 0.02, floorAllowance: 0.02, tolerance: 0.01, ap: 1.5, stairs: 0.4, order };
        const { figures, path } = await roughed(sheet([-20, -15, 20, 15], 0.4, -24, shapes[name]!), 't4', values);
        expect(figures.findings).toEqual([]);
        expect(path.x.length).toBeGreaterThan(500);
      }
    },
  );
});

describe('ground that falls off at the border of the block', () => {
  const none = { sideAllowance: 0, floorAllowance: 0, ap: 2, stairs: null, flats: 'none', ae: 5 };

  it.each([
    ['t1', 30],
    ['t1', 75],
    ['t2', 50],
    ['t3', 60],
  ])('%s reaches the foot of a slope of %d degrees from outside, and goes no deeper', async (assemblyId, deg) => {
    const rise = Math.tan((deg * Math.PI) / 180);
    const ridge = (x: number): number => -Math.abs(x) * rise;
    const half = 16 / rise;
    const result = await roughed(sheet([-half, -14, half, 14], half / 20, -30, ridge), assemblyId, none);
    expect(result.figures.findings).toEqual([]);
    // a stair of ap, the grid on which the border is met, and one cell on the slope
    const most = highestOver(result, (x, y) => (Math.abs(y) < 13 && Math.abs(x) < half - 0.1 ? ridge(x) : undefined));
    expect(most).toBeLessThan(2 + 0.5 * rise);
    each(result.path, (_x, _y, z) => expect(z).toBeGreaterThan(-16 - 0.01));
  });

  it('an upright side is not milled round: the lowest level is the floor of the pocket', async () => {
    const { path } = await roughed(squarePocket(30, 14, 6, -20), 't2', none, { above: 1 });
    each(path, (_x, _y, z) => expect(z).toBeGreaterThan(-6 - 1e-3));
  });
});

describe('lines that fill an area', () => {
  const ring = (s: number): Float64Array => Float64Array.of(-s, -s, s, -s, s, s, -s, s);
  const hole = Float64Array.of(-5, -5, -5, 5, 5, 5, 5, -5);

  it('no place of the area is farther than half the spacing from a line, and no line leaves the area', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1.5, max: 1.5, noNaN: true }),
        fc.double({ min: 1, max: 6, noNaN: true }),
        fc.double({ min: -18, max: 18, noNaN: true }),
        fc.double({ min: -18, max: 18, noNaN: true }),
        (angle, spacing, x, y) => {
          const region: Region = { outer: ring(20), holes: [hole] };
          fc.pre(Math.max(Math.abs(x), Math.abs(y)) > 8);
          const lines = linesIn(region, angle, spacing, 'climb', (l) => [l]).flatMap((n) => n.loops);
          const near = Math.min(...lines.map((l) => nearestOn(l.points, x, y, false).distance));
          expect(near).toBeLessThanOrEqual(spacing / 2 + spacing);
          for (const { points } of lines)
            for (let t = 0.01; t < 1; t += 0.07) {
              const px = points[0]! + t * (points[2]! - points[0]!);
              const py = points[1]! + t * (points[3]! - points[1]!);
              expect(Math.max(Math.abs(px), Math.abs(py))).toBeLessThan(20 + 1e-6);
              expect(Math.max(Math.abs(px), Math.abs(py))).toBeGreaterThan(5 - 1e-6);
            }
        },
      ),
    );
  });

  it('in climb milling the next line lies on the right of the one before, otherwise on its left', () => {
    for (const direction of ['climb', 'conventional'] as const) {
      const [nest] = linesIn({ outer: ring(10), holes: [] }, 0.4, 2, direction, (l) => [l]);
      const [a, b] = nest!.loops;
      const side =
        (a!.points[2]! - a!.points[0]!) * (b!.points[1]! - a!.points[1]!) -
        (a!.points[3]! - a!.points[1]!) * (b!.points[0]! - a!.points[0]!);
      expect(Math.sign(side)).toBe(direction === 'climb' ? -1 : 1);
    }
  });
});

describe('ways to rough a pocket with an island', () => {
  // a square pocket with a dome in its middle
  const height = (x: number, y: number): number => {
    const wall = Math.max(Math.abs(x), Math.abs(y)) > 22 ? 0 : -10;
    return Math.max(wall, -3 - (x * x + y * y) / 12);
  };
  const soup = sheet([-30, -30, 30, 30], 1, -20, height);
  const values = { ap: 2.5, stairs: null };

  it('all patterns and directions leave the same steel, without a gouge or a plunge', async () => {
    const plain = await roughed(soup, 't4', values);
    for (const change of [
      { pattern: 'inside-out' },
      { pattern: 'outside-in' },
      { pattern: 'lines', angleDeg: 30 },
      { pattern: 'lines', angleDeg: -70, direction: 'shortest' },
      { direction: 'conventional', order: 'level' },
      { entry: 'ramp' },
      { leadRadius: 0, lift: 0, cornerRadius: 2.4 },
    ]) {
      const result = await roughed(soup, 't4', { ...values, ...change });
      expect(result.figures.findings, JSON.stringify(change)).toEqual([]);
      let differ = 0;
      for (let o = 0; o < result.after.heights.length; o++)
        if (Math.abs(result.after.heights[o]! - plain.after.heights[o]!) > 0.2) differ++;
      // ridges between lines of a cutter with a corner radius differ; nothing else may
      expect(differ / result.after.heights.length, JSON.stringify(change)).toBeLessThan(0.01);
    }
  }, 240_000);

  it.each([
    ['t4', 4.6, 'auto'],
    ['t4', 3.4, 'outside-in'],
    ['t2', 10.5, 'auto'],
    ['t2', 8, 'inside-out'],
  ])(
    '%s with lines %d mm apart, more than its radius, leaves no post in the middle',
    async (assemblyId, ae, pattern) => {
      for (const half of [13, 15.3, 17.7]) {
        const wide = { ...values, ap: 4, ae, pattern, cornerLoadDeg: null, smallestOpening: 9, entry: 'ramp' };
        const result = await roughed(squarePocket(30, half, 8, -20), assemblyId, wide);
        expect(result.figures.findings).toEqual([]);
        // ridges of the corner radius between lines apart
        const inside = (x: number, y: number): number | undefined =>
          Math.max(Math.abs(x), Math.abs(y)) < half - 7 ? -8 + 0.3 : undefined;
        expect(highestOver(result, inside)).toBeLessThan(1.6);
      }
    },
  );

  it('a ramp is never steeper than its angle, and a cutter that does not cut over its centre is not driven straight down', async () => {
    const { path } = await roughed(soup, 't4', { ...values, entry: 'ramp', rampAngleDeg: 3 });
    let steepest = 0;
    each(path, (x, y, z, kind, k) => {
      const flat = Math.hypot(x - path.x[k - 1]!, y - path.y[k - 1]!);
      if (kind === Motion.entry && flat > 1e-6) steepest = Math.max(steepest, (path.z[k - 1]! - z) / flat);
    });
    expect(steepest).toBeGreaterThan(0.01);
    expect(steepest).toBeLessThanOrEqual(Math.tan((3 * Math.PI) / 180) + 1e-9);
    await expect(roughed(soup, 't4', { ...values, entry: 'plunge' })).rejects.toThrow(/over its centre/);
    const crib = testCrib();
    for (const cutter of crib.cutters) cutter.centreCutting = true;
    const { figures } = await roughed(soup, 't4', { ...values, entry: 'plunge' }, { crib });
    expect(figures.findings).toEqual([]);
  });

  it('an opening that is too narrow is left out and told with the volume that the cutter would have taken', async () => {
    const none = { sideAllowance: 0, floorAllowance: 0, stairs: null, ap: 2, ae: 2 };
    const { figures } = await roughed(
      squarePocket(20, 4, 10, -20),
      't4',
      { ...none, smallestOpening: 9 },
      { above: 1 },
    );
    expect(figures.leftOut[0]!.why).toMatch(/narrower than 9.0 mm/);
    const volume = figures.leftOut.reduce((sum, l) => sum + l.volume!, 0);
    // the square less its corners, which a radius of 2.5 mm does not reach, 10 mm deep; cells of the coarse map are 0.4 mm
    const wanted = (8 * 8 - (4 - Math.PI) * 2.5 ** 2) * 10;
    expect(Math.abs(volume - wanted)).toBeLessThan(0.12 * wanted);
  });

  it('a helix has the radius that is asked for, where there is room for it', async () => {
    for (const helixRadius of [0.6, 1.5]) {
      const { path } = await roughed(squarePocket(30, 14, 10, -20), 't4', { ...values, entry: 'helix', helixRadius });
      const turns: [number, number][] = [];
      each(path, (x, y, z, kind, k) => {
        const flat = Math.hypot(x - path.x[k - 1]!, y - path.y[k - 1]!);
        if (kind === Motion.entry && flat > 1e-6 && z < path.z[k - 1]! - 1e-9) turns.push([x, y]);
      });
      expect(turns.length).toBeGreaterThan(36);
      const middle = [0, 1].map((c) => turns.slice(0, 36).reduce((sum, p) => sum + p[c]!, 0) / 36);
      for (const [x, y] of turns.slice(0, 36))
        expect(Math.hypot(x - middle[0]!, y - middle[1]!)).toBeCloseTo(helixRadius, 2);
    }
  });

  it.each(['t2', 't3', 't4'])(
    '%s: in a closed pocket the cutter goes down from the floor that it has cleared, in a helix, and is not lifted',
    async (assemblyId) => {
      const deep = squarePocket(24, 10, 18, -24);
      const result = await roughed(deep, assemblyId, { ...values, ap: 1.5, smallestOpening: 9 });
      const { path, figures } = result;
      expect(figures.findings).toEqual([]);
      let rapidsUp = 0;
      let steepest = 0;
      each(path, (x, y, z, kind, k) => {
        const flat = Math.hypot(x - path.x[k - 1]!, y - path.y[k - 1]!);
        const fall = path.z[k - 1]! - z;
        if (kind === Motion.rapid && fall < -1e-6 && Math.abs(x) < 10 && Math.abs(y) < 10) rapidsUp++;
        if (kind === Motion.entry && fall > 1e-6) steepest = Math.max(steepest, flat > 1e-6 ? fall / flat : Infinity);
      });
      // twelve levels: up at the end alone
      expect(rapidsUp).toBe(1);
      expect(steepest).toBeLessThanOrEqual(Math.tan((2 * Math.PI) / 180) * 1.005);
      const inside = (x: number, y: number): number | undefined =>
        Math.max(Math.abs(x), Math.abs(y)) < 5 ? -18 + 0.3 : undefined;
      // ridges between lines of a ball 8 are the highest
      expect(highestOver(result, inside)).toBeLessThan(1);
    },
  );

  it('a hole drilled before is the way in: nothing is ramped or plunged, even where no helix has room', async () => {
    const closed = squarePocket(30, 14, 10, -20);
    const drilled = [{ x: 3, y: -2, diameter: 8, bottom: -10 }];
    const { path, figures } = await roughed(closed, 't4', values, { drilled });
    expect(figures.findings).toEqual([]);
    each(path, (x, y, z, kind, k) => {
      if (kind !== Motion.entry || z > path.z[k - 1]! - 1e-9) return;
      // whatever goes down at feed goes down in the hole, or where a line beside is cut already
      expect(Math.hypot(x - path.x[k - 1]!, y - path.y[k - 1]!)).toBeLessThan(1e-9);
    });
    // the axis has 1.5 mm of room in the hole
    const entered = Array.from(path.x).some(
      (x, k) => path.kind[k] === Motion.entry && Math.hypot(x - 3, path.y[k]! + 2) < 1.6 && path.z[k]! < -5,
    );
    expect(entered).toBe(true);
  });

  it('a hole drilled before that would cut the part is refused with its depth', async () => {
    const drilled = [{ x: 0, y: 0, diameter: 8, bottom: -11.5 }];
    await expect(roughed(squarePocket(30, 14, 10, -20), 't4', values, { drilled })).rejects.toThrow(
      /1\.50 mm into the part/,
    );
  });

  it('two pockets are each cut to their floor before the other, or both level by level', async () => {
    const two = sheet([-40, -16, 40, 16], 1, -20, (x, y) =>
      Math.abs(Math.abs(x) - 20) < 14 && Math.abs(y) < 11 ? -9 : 0,
    );
    const changes = async (order: string): Promise<number> => {
      const { path, figures } = await roughed(two, 't4', { ...values, order });
      expect(figures.findings).toEqual([]);
      let count = 0;
      let side = 0;
      each(path, (x, _y, z, kind) => {
        if (kind !== Motion.cut || z > -0.5) return;
        if (side !== 0 && Math.sign(x) !== side) count++;
        side = Math.sign(x);
      });
      return count;
    };
    expect(await changes('depth')).toBe(1);
    expect(await changes('level')).toBeGreaterThanOrEqual(3);
  });
});

describe('limits in plan', () => {
  const soup = squarePocket(30, 22, 8, -20);
  const square = (s: number): [number, number][] => [
    [-s, -s],
    [s, -s],
    [s, s],
    [-s, s],
  ];

  it.each([
    ['inside', 12 - 2.5],
    ['on', 12],
    ['outside', 12 + 2.5],
  ] as const)(
    'with a 5 mm cutter kept %s a square of half width 12 the axis stays within %d mm',
    async (side, most) => {
      const { path } = await roughed(
        soup,
        't4',
        {},
        {
          limits: [{ kind: 'within', source: 'sketch', points: square(12), side, offset: 0 }],
        },
      );
      let farthest = 0;
      each(path, (x, y, _z, kind) => {
        if (kind !== Motion.rapid) farthest = Math.max(farthest, Math.abs(x), Math.abs(y));
      });
      expect(farthest).toBeLessThan(most + 0.02);
      expect(farthest).toBeGreaterThan(most - 0.05);
    },
  );

  it('faces kept clear of are not come near, and everything else is cut', async () => {
    const free = await roughed(soup, 't4', {});
    const { path, after, figures } = await roughed(
      soup,
      't4',
      {},
      {
        limits: [{ kind: 'clear', source: 'boss', points: square(3), distance: 2 }],
      },
    );
    expect(figures.findings).toEqual([]);
    each(path, (x, y, _z, kind) => {
      const away = Math.hypot(Math.max(0, Math.abs(x) - 3), Math.max(0, Math.abs(y) - 3));
      if (kind !== Motion.rapid) expect(away).toBeGreaterThan(2 + 2.5 - 0.03);
    });
    let more = 0;
    for (let o = 0; o < after.heights.length; o++) if (after.heights[o]! - free.after.heights[o]! > 0.5) more++;
    // a rounded square 2 mm around one of 6 mm stays, since the 5 mm cutter can go all round it
    const stays = areaOf(Float64Array.from(square(3).flat())) + 4 * 6 * 2 + Math.PI * 4;
    expect(Math.abs(more * after.cell ** 2 - stays)).toBeLessThan(0.1 * stays);
  });
});

describe('facing', () => {
  const soup = squarePocket(25, 15, 6, -20);

  it('leaves the block level at the part’s top, and nothing below it is touched', async () => {
    for (const change of [{}, { pattern: 'auto', direction: 'climb' }, { angleDeg: 45, allowance: 0.2 }]) {
      const { after, figures } = await roughed(soup, 't4', change, { above: 3.5, kind: 'facing' });
      const want = 'allowance' in change ? 0.2 : 0;
      for (const h of after.heights) {
        expect(h).toBeGreaterThan(want - 1e-3);
        // ridges between lines of a cutter with a corner radius
        expect(h).toBeLessThan(want + 0.02);
      }
      expect(figures.findings).toEqual([]);
    }
  });

  it('a face below the part’s top, or where no steel stands, is refused with the figure', async () => {
    await expect(roughed(soup, 't4', { face: -1.5 }, { above: 3.5, kind: 'facing' })).rejects.toThrow(
      /1\.500 mm higher/,
    );
    await expect(roughed(soup, 't4', {}, { kind: 'facing' })).rejects.toThrow(/nothing to face/);
  });
});
