import { describe, expect, it } from 'vitest';
import { pegs } from '../../../test/grounds';
import { each, highestOver, roughed } from '../../../test/roughing';
import { sheet, squarePocket, testCrib } from '../../../test/shapes';
import { areaOf } from '../../geometry/polygon';
import { placesLeftOut } from '../../evaluate/findings';
import { Motion } from '../../path/toolpath';

describe('close to thin and steep places', () => {
  const shapes: Record<string, (x: number, y: number) => number> = {
    pegs,
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
      for (let o = 0; o < result.next.after.heights.length; o++)
        if (Math.abs(result.next.after.heights[o]! - plain.next.after.heights[o]!) > 0.2) differ++;
      // ridges between lines of a cutter with a corner radius differ; nothing else may
      expect(differ / result.next.after.heights.length, JSON.stringify(change)).toBeLessThan(0.01);
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

  it('closed areas can be left on purpose: they are told as one place with all their steel, and what is open is cut', async () => {
    const none = { sideAllowance: 0, floorAllowance: 0, stairs: null, ap: 2, ae: 2, entry: 'none' };
    const { figures, next } = await roughed(squarePocket(20, 9, 10, -20), 't4', none, { above: 1.5 });
    expect(Math.max(...next.after.heights)).toBeLessThan(1e-3);
    expect(Math.min(...next.after.heights)).toBeGreaterThan(-1e-3);
    const [place, ...others] = placesLeftOut(figures.leftOut, 40);
    expect(others).toEqual([]);
    expect(place!.why).toBe('Closed area, left on purpose');
    const wanted = (18 * 18 - (4 - Math.PI) * 2.5 ** 2) * 10;
    expect(Math.abs(place!.volume! - wanted)).toBeLessThan(0.12 * wanted);
  });

  it('a helix has the radius that is asked for, where there is room for it', async () => {
    for (const helixRadius of [0.6, 1.5]) {
      const tolerance = 0.02;
      const wanted = { ...values, tolerance, entry: 'helix', helixRadius };
      const { path } = await roughed(squarePocket(30, 14, 10, -20), 't4', wanted);
      const turns: [number, number][] = [];
      each(path, (x, y, z, kind, k) => {
        const flat = Math.hypot(x - path.x[k - 1]!, y - path.y[k - 1]!);
        if (kind === Motion.entry && flat > 1e-6 && z < path.z[k - 1]! - 1e-9) turns.push([x, y]);
      });
      // one turn: as many points as lie between two on the same side of the first
      const [fx, fy] = turns[0]!;
      const round = turns.findIndex(([x, y], k) => k > 0 && Math.hypot(x - fx, y - fy) < 1e-6);
      expect(round).toBeGreaterThanOrEqual(12);
      const middle = [0, 1].map((c) => turns.slice(0, round).reduce((sum, p) => sum + p[c]!, 0) / round);
      for (let k = 1; k <= round; k++) {
        const [[ax, ay], [bx, by]] = [turns[k - 1]!, turns[k]!];
        expect(Math.hypot(bx - middle[0]!, by - middle[1]!)).toBeCloseTo(helixRadius, 6);
        // chords leave the circle by half the path's tolerance at most
        const inside = Math.hypot((ax + bx) / 2 - middle[0]!, (ay + by) / 2 - middle[1]!);
        expect(helixRadius - inside).toBeLessThan(tolerance / 2 + 1e-6);
      }
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
      expect(farthest).toBeLessThanOrEqual(most);
      expect(farthest).toBeGreaterThan(most - 0.05);
    },
  );

  it('faces kept clear of are not come near, and everything else is cut', async () => {
    const free = await roughed(soup, 't4', {});
    const {
      path,
      next: { after },
      figures,
    } = await roughed(
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
      if (kind !== Motion.rapid) expect(away).toBeGreaterThanOrEqual(2 + 2.5);
    });
    let more = 0;
    for (let o = 0; o < after.heights.length; o++) if (after.heights[o]! - free.next.after.heights[o]! > 0.5) more++;
    // a rounded square 2 mm around one of 6 mm stays, since the 5 mm cutter can go all round it
    const stays = areaOf(Float64Array.from(square(3).flat())) + 4 * 6 * 2 + Math.PI * 4;
    expect(Math.abs(more * after.cell ** 2 - stays)).toBeLessThan(0.1 * stays);
  });
});

describe('loops along the wall alone', () => {
  // a pocket of 60 by 44 mm with upright walls and an island
  const pocket = sheet([-36, -28, 36, 28], 1, -14, (x, y) =>
    Math.max(Math.abs(x) - 30, Math.abs(y) - 22) > 0 || Math.hypot(x, y) < 6 ? 0 : -6,
  );
  const values = {
    ap: 3,
    ae: 2,
    stairs: null,
    sideAllowance: 0,
    floorAllowance: 0,
    cornerRadius: 0,
    cornerLoadDeg: null,
    leadRadius: 0,
  };

  it.each([1, 2])(
    '%i of them: the cutter keeps as near to the walls, which are cut, and the middle stays',
    async (count) => {
      const { figures, path, next } = await roughed(pocket, 't4', { ...values, wallLoops: count });
      expect(figures.findings).toEqual([]);
      const R = 2.5;
      each(path, (x, y, z, kind) => {
        if (kind !== Motion.cut || z > -1) return;
        const fromWall = Math.min(30 - Math.abs(x), 22 - Math.abs(y));
        // its wall leans over a facet of the sheet
        const fromIsland = Math.hypot(x, y) - 7;
        expect(Math.min(fromWall, fromIsland)).toBeLessThan(R + (count - 1) * values.ae + 0.6);
      });
      // beside the walls all is gone but for their round corners, and where no loop comes nothing is
      const reach = 2 * R + (count - 1) * values.ae;
      const near = (x: number, y: number): boolean =>
        Math.abs(x) < 20 ? Math.abs(22 - Math.abs(y)) < reach - 0.3 && Math.abs(y) < 21.7 : false;
      expect(highestOver({ figures, path, next } as never, (x, y) => (near(x, y) ? -6 : undefined))).toBeLessThan(0.05);
      expect(next.after.heights[indexAt(next.after, 15, 8)]).toBeCloseTo(0, 5);
    },
  );

  it('a level without a wall is left as it is', async () => {
    const plate = sheet([-20, -20, 20, 20], 4, -20, () => -4);
    const rough = (wallLoops: number | null) => roughed(plate, 't4', { ...values, ap: 2, wallLoops }, { above: 3 });
    expect((await rough(null)).figures.removed).toBeGreaterThan(40 * 40 * 2.9);
    await expect(rough(1)).rejects.toThrow('finds nothing to cut');
  });
});

function indexAt(
  { x0, y0, cell, nx }: { x0: number; y0: number; cell: number; nx: number },
  x: number,
  y: number,
): number {
  return Math.floor((y - y0) / cell) * nx + Math.floor((x - x0) / cell);
}
