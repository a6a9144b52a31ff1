import { describe, expect, it } from 'vitest';
import { mostly } from '../../../test/mostly';
import { measuredLoad } from '../../../test/bitmapLoad';
import { pegs } from '../../../test/grounds';
import { each, highestOver, roughed } from '../../../test/roughing';
import { cribOf, sheet } from '../../../test/shapes';
import { Motion } from '../../path/toolpath';

const crib = cribOf({ mill: ['flat', 10, 0, 30, 9.6, 60] });
const DEPTH = 10;
const BOX = [-36, -26, 36, 26] as const;
const ae = (degrees: number): number => 5 * (1 - Math.cos((degrees * Math.PI) / 180));

/** Upright walls of a plan, `DEPTH` deep where the part is open. */
const plan =
  (isOpen: (x: number, y: number) => boolean) =>
  (x: number, y: number): number =>
    isOpen(x, y) ? -DEPTH : 0;
const star = (x: number, y: number): boolean => Math.hypot(x, 1.3 * y) < 22 + 8 * Math.cos(5 * Math.atan2(y, x));
const comb = (x: number, y: number): boolean =>
  (Math.abs(x) < 32 && y > -22 && y < -8) ||
  (y >= -8 && y < 22 && Math.abs(((x + 36) % 18) - 9) < 7.6 && Math.abs(x) < 35);
const SHAPES: Record<string, (x: number, y: number) => boolean> = {
  pocket: (x, y) => Math.abs(x) < 30 && Math.abs(y) < 20,
  islands: (x, y) => Math.abs(x) < 32 && Math.abs(y) < 22 && Math.hypot(x + 8, y) > 6 && Math.hypot(x - 9, y - 2) > 7,
  star,
  comb,
  core: (x, y) => Math.hypot(x, y) > 15,
  ring: (x, y) => Math.hypot(x, y) < 23.5 && Math.hypot(x, y) > 7,
};

const values = (degrees: number, more: Record<string, unknown> = {}) => ({
  sideAllowance: 0.3,
  floorAllowance: 0,
  ap: DEPTH,
  ae: ae(degrees),
  stairs: null,
  ...more,
});
const shape = (name: string) => sheet([...BOX], 0.5, -18, plan(SHAPES[name]!));

describe('passes of steady load', () => {
  it.each(
    mostly<[string, number, string]>(3, [
      ['islands', 45, 'climb'],
      ['star', 60, 'conventional'],
      ['core', 60, 'shortest'],
      ['pocket', 60, 'climb'],
      ['comb', 60, 'climb'],
      ['ring', 50, 'climb'],
    ]),
  )(
    'in a %s at %d°, %s: nearly nowhere more than asked for, links in air, the walls reached',
    async (name, degrees, direction) => {
      const { path, figures, ...result } = await roughed(shape(name), 'mill', values(degrees, { direction }), {
        crib,
        kind: 'steady-roughing',
      });
      expect(figures.findings).toEqual([]);
      const load = measuredLoad(path, 5, 0, BOX);
      const asked = (degrees * Math.PI) / 180;
      expect(load.inSteel).toBeGreaterThan(200);
      expect(load.above(1.1 * asked)).toBeLessThan(0.005 * load.inSteel);
      expect(load.above(1.5 * asked)).toBe(0);
      // ways are fed fast: what takes steel is told as a cut
      expect(load.linksInSteel).toBeLessThan(0.3);
      // what a circle of 0.1 DC within the walls reaches is cleared: away from inward corners nothing stands
      const isWide = (x: number, y: number): boolean => {
        for (let a = 0; a < 2 * Math.PI; a += 0.3)
          if (!SHAPES[name]!(x + 7 * Math.cos(a), y + 7 * Math.sin(a))) return false;
        return SHAPES[name]!(x, y);
      };
      const left = highestOver({ path, figures, ...result }, (x, y) => (isWide(x, y) ? -DEPTH : undefined));
      expect(left).toBeLessThan(0.05);
    },
  );

  it('steel is on the right in climb milling and on the left otherwise', async () => {
    for (const [direction, way] of [
      ['climb', 1],
      ['conventional', -1],
    ] as const) {
      const { path } = await roughed(shape('core'), 'mill', values(60, { direction }), {
        crib,
        kind: 'steady-roughing',
      });
      // around a core clockwise in climb milling: the part is on the right
      let turned = 0;
      each(path, (x, y, _, kind, k) => {
        if (kind === Motion.cut) turned += path.x[k - 1]! * y - path.y[k - 1]! * x;
      });
      expect(Math.sign(turned)).toBe(-way);
    }
  });

  it('a helix turns as the pass goes on from it: counter-clockwise in climb milling, clockwise otherwise', async () => {
    for (const [direction, way] of [
      ['climb', 1],
      ['conventional', -1],
    ] as const) {
      const { path } = await roughed(shape('pocket'), 'mill', values(60, { direction }), {
        crib,
        kind: 'steady-roughing',
      });
      let [turned, before] = [0, NaN];
      each(path, (x, y, _, kind, k) => {
        if (kind !== Motion.entry) return;
        const heading = Math.atan2(y - path.y[k - 1]!, x - path.x[k - 1]!);
        if (Number.isFinite(before) && path.kind[k - 1] === Motion.entry)
          turned += Math.atan2(Math.sin(heading - before), Math.cos(heading - before));
        before = heading;
      });
      expect(way * turned).toBeGreaterThan(4 * Math.PI);
    }
  });

  it('a pocket between the levels that is too narrow for a way in is told with its volume', async () => {
    // beside a deep pocket a slot whose floor lies between the level and the block's top
    const twoFloors = (x: number, y: number): number =>
      x < 0 && Math.abs(x + 17) < 14 && Math.abs(y) < 18 ? -14 : Math.abs(x - 15) < 6.25 && Math.abs(y) < 15 ? -6 : 0;
    const { figures } = await roughed(
      sheet([...BOX], 0.5, -20, twoFloors),
      'mill',
      { ...values(60), sideAllowance: 0, ap: 14, stairs: 1 },
      { crib, kind: 'steady-roughing' },
    );
    expect(figures.findings).toEqual([]);
    const told = figures.leftOut.filter(({ x }) => x > 5);
    expect(told).toHaveLength(1);
    expect(Math.hypot(told[0]!.x - 15, told[0]!.y)).toBeLessThan(1);
    // 12 to 12.5 mm wide at its floor and its top, its ends round for the cutter
    const whole = (12.25 * 30 - (4 - Math.PI) * 25) * 6;
    expect(Math.abs(told[0]!.volume! / whole - 1)).toBeLessThan(0.1);
    expect(figures.leftOut.filter(({ x }) => x < 0)).toEqual([]);
  });

  it('a slot narrower than its helix is left out and told with its volume, one that is wide enough is cleared', async () => {
    for (const [width, isCut] of [
      [12.5, false],
      [20, true],
    ] as const) {
      const slot = sheet(
        [...BOX],
        0.5,
        -18,
        plan((x, y) => Math.abs(x) < 28 && Math.abs(y) < width / 2),
      );
      const { figures, ...result } = await roughed(
        slot,
        'mill',
        values(60, { smallestOpening: 14, sideAllowance: 0.1 }),
        {
          crib,
          kind: 'steady-roughing',
          above: 1,
        },
      );
      expect(figures.findings).toEqual([]);
      const left = highestOver({ figures, ...result }, (x, y) => (Math.hypot(x, y) < 3 ? -DEPTH : undefined));
      if (isCut) expect(left).toBeLessThan(0.05);
      else {
        expect(left).toBeGreaterThan(9);
        const told = figures.leftOut.reduce((sum, l) => sum + (l.volume ?? 0), 0);
        // the ends of the slot are round for the cutter
        const whole = (56 * 12.5 - (4 - Math.PI) * 25) * DEPTH;
        expect(Math.abs(told / whole - 1)).toBeLessThan(0.1);
      }
    }
  });

  it('what stands on slopes above a level is cut on the way up, to the stairs that are allowed', async () => {
    // bent outward: nowhere does the flat end stand off a hollow
    const dome = sheet([...BOX], 0.5, -34, (x, y) => -0.014 * (x * x + 1.4 * y * y));
    const wanted = { ...values(60), sideAllowance: 0, ap: 12 };
    const coarse = await roughed(dome, 'mill', wanted, { crib, kind: 'steady-roughing' });
    expect(coarse.figures.leftover!.p99).toBeGreaterThan(3);
    const stairs = 0.8;
    const { figures, path } = await roughed(dome, 'mill', { ...wanted, stairs }, { crib, kind: 'steady-roughing' });
    expect(figures.findings).toEqual([]);
    // nodes of the tip surface are half a millimetre apart: so much of a slope lies between them
    expect(figures.leftover!.p99).toBeLessThan(stairs + 0.15);
    const load = measuredLoad(path, 5, 0, BOX, 0.25);
    expect(load.above(Math.PI / 2)).toBe(0);
    expect(load.above((1.1 * Math.PI) / 3)).toBeLessThan(0.005 * load.inSteel);
  });

  it('the way is hardly longer than the area over the width', async () => {
    const first = await roughed(shape('pocket'), 'mill', values(60), { crib, kind: 'steady-roughing' });
    const { path } = first;
    expect(measuredLoad(path, 5, 0, BOX).inSteel).toBeLessThan((1.25 * 60 * 40) / ae(60));
  });

  it('on the way up among pegs neither passes nor ways between them touch the part with almost no allowance', async () => {
    const close = { sideAllowance: 0.02, floorAllowance: 0.02, tolerance: 0.01, ap: 10, ae: 1.2, stairs: 0.6 };
    const { figures, path } = await roughed(sheet([-20, -15, 20, 15], 0.4, -24, pegs), 't2', close, {
      kind: 'steady-roughing',
    });
    expect(figures.findings).toEqual([]);
    expect(path.x.length).toBeGreaterThan(1000);
  });

  it('stays within an outline and keeps clear of another, to the walls of a box of steel', async () => {
    const box = sheet([...BOX], 0.5, -20, () => -DEPTH);
    const ring = (x: number, y: number): [number, number][] => [
      [-x, -y],
      [x, -y],
      [x, y],
      [-x, y],
    ];
    const limits = [
      { kind: 'within' as const, source: 'frame', side: 'inside' as const, offset: 0, points: ring(24, 16) },
      { kind: 'clear' as const, source: 'boss', distance: 1, points: ring(5, 4) },
    ];
    const more = { crib, kind: 'steady-roughing', above: DEPTH, limits };
    const { figures, next } = await roughed(box, 'mill', { ...values(60), sideAllowance: 0 }, more);
    expect(figures.findings).toEqual([]);
    const { x0, y0, cell, nx, heights } = next.after;
    let [isWide, beyond, near] = [true, -Infinity, Infinity];
    heights.forEach((h, o) => {
      const x = Math.abs(x0 + ((o % nx) + 0.5) * cell);
      const y = Math.abs(y0 + (Math.floor(o / nx) + 0.5) * cell);
      if (h > DEPTH - 0.01) {
        if (x > 8 && x < 22 && y < 10) isWide = false;
        return;
      }
      beyond = Math.max(beyond, x - 24, y - 16);
      near = Math.min(near, Math.hypot(Math.max(0, x - 5), Math.max(0, y - 4)));
    });
    expect(isWide).toBe(true);
    expect(beyond).toBeLessThanOrEqual(0);
    expect(near).toBeGreaterThanOrEqual(1 - 1e-6);
  });

  it('refuses a depth beyond the edges and a width beyond the axis, at their fields', async () => {
    const kind = 'steady-roughing';
    await expect(roughed(shape('pocket'), 'mill', values(60, { ap: 31 }), { crib, kind })).rejects.toMatchObject({
      place: 'ap',
    });
    await expect(roughed(shape('pocket'), 'mill', values(60, { ae: 5.5 }), { crib, kind })).rejects.toMatchObject({
      place: 'ae',
    });
  });
});
