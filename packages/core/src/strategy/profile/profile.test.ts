import fc from 'fast-check';
import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import { beforeAll, describe, expect, it } from 'vitest';
import { blockOf, hole, modeller, soupOf } from '../../../test/plates';
import { cribOf, crewHere, type EndMill, meshOf, testJob, workHere } from '../../../test/shapes';
import { Piece } from '../../evaluate/piece';
import { Session } from '../../evaluate/session';
import type { Step } from '../../job/job';
import { Motion, type Motions } from '../../path/toolpath';
import { postOf } from '../../post/definition';
import { postedSteps, proveText, release } from '../../release/release';
import { pickOfFace } from '../../survey/facePicks';
import { surfaceOf } from '../../survey/surface';
import { bridgePlaces } from './bridges';

const crib: Record<string, EndMill> = {
  f8: ['flat', 8, 0, 24, 8, 50],
  f4: ['flat', 4, 0, 20, 4, 40],
  b6: ['bull', 6, 0.5, 20, 6, 45],
};

/** From a place outside a rectangle of half widths to its border, mm; less than 0 inside. */
function awayFrom(halfX: number, halfY: number, x: number, y: number): number {
  const [dx, dy] = [Math.abs(x) - halfX, Math.abs(y) - halfY];
  return dx > 0 && dy > 0 ? Math.hypot(dx, dy) : Math.max(dx, dy);
}

describe('profiles', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  /** A part out of a blank of another shape. */
  async function milled(
    part: Manifold,
    blank: Manifold,
    cutter: string,
    values: Record<string, unknown>,
    limits: Step['limits'] = [],
  ) {
    const job = testJob([{ kind: 'profile', assemblyId: cutter, values }], 0, {
      cell: 0.1,
      crib: cribOf(crib),
      blank: { kind: 'body', allowance: 0 },
      others: [{ file: 'b.stl', role: 'blank' }],
    } as object);
    job.steps[0]!.limits = limits;
    const session = new Session();
    session.take(job, Piece.of(job, { part: meshOf(soupOf(part)), blank: meshOf(soupOf(blank)), key: 'part' }));
    await session.calculate(workHere);
    const result = session.results.get('s1')!;
    return { session, result, cuts: cutsOf(result.path) };
  }

  function cutsOf({ x, y, z, kind }: Motions): { x: number; y: number; z: number; from: [number, number] }[] {
    return [...kind.keys()]
      .filter((k) => k > 0 && kind[k] === Motion.cut)
      .map((k) => ({ x: x[k]!, y: y[k]!, z: z[k]!, from: [x[k - 1]!, y[k - 1]!] }));
  }

  const box = (x: number, y: number, low: number, high = 0): Manifold => blockOf(solids, [-x, -y, low], [x, y, high]);

  it('goes round a block a radius beside its walls, in equal depths of ap at most, past its underside, climbing', async () => {
    const { result, session, cuts } = await milled(box(20, 12, -15), box(20.6, 12.6, -15), 'f8', {
      ap: 6,
      beyond: 0.5,
    });
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    const depths = new Set(cuts.map(({ z }) => Math.round(1000 * z) / 1000));
    expect([...depths]).toEqual([-5.167, -10.333, -15.5]);
    for (const { x, y, from } of cuts) {
      expect(awayFrom(20, 12, x, y)).toBeCloseTo(4, 2);
      // with the wall on its right hand round the part: clockwise
      expect(from[0] * y - from[1] * x).toBeLessThan(0);
    }
    // the skin of 0.6 mm all round, past which nothing stands
    const skin = 41.2 * 25.2 - 40 * 24;
    expect(result.figures.removed / (skin * 15)).toBeGreaterThan(0.99);
    expect(result.figures.removed / (skin * 15)).toBeLessThan(1.015);
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
  });

  it('finishes outer walls, those of pockets and of islands to their own feet, and leaves floors alone', async () => {
    const part = (skin: number): Manifold =>
      box(30 + skin, 20 + skin, -16)
        // a ledge along one side, a pocket with an island, and a deeper opening
        .subtract(blockOf(solids, [20 + skin, -30, -9], [40, 30, 1]))
        .subtract(
          blockOf(solids, [-24 + skin, -14 + skin, -6], [0 - skin, 14 - skin, 1]).subtract(
            blockOf(solids, [-15 - skin, -4 - skin, -6], [-9 + skin, 4 + skin, 1]),
          ),
        )
        .subtract(hole(solids, 11, 0, 7 - skin, -60));
    const { result, session, cuts } = await milled(part(0), part(0.3), 'f4', { which: 'all', holes: 'milled', ap: 20 });
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    const { after, leftover } = result.next;
    let worst = 0;
    let on = 0;
    after.heights.forEach((_, o) => {
      if (Number.isNaN(leftover[o])) return;
      const [x, y] = [
        after.x0 + ((o % after.nx) + 0.5) * after.cell,
        after.y0 + (Math.floor(o / after.nx) + 0.5) * after.cell,
      ];
      // where floors meet two walls the round of the cutter stays
      const inCorner = [-24, 0].some((c) => Math.abs(x - c) < 2.1) && Math.abs(Math.abs(y) - 14) < 2.1;
      if (inCorner) return;
      on++;
      worst = Math.max(worst, Math.abs(leftover[o]!));
    });
    expect(on).toBeGreaterThan(100_000);
    expect(worst).toBeLessThan(0.02);
    // each wall in one depth, at its foot
    expect(new Set(cuts.map(({ z }) => Math.round(100 * z) / 100))).toEqual(new Set([-6, -9, -16.5]));
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);

    const outer = await milled(part(0), part(0.3), 'f4', { which: 'outer', ap: 20 });
    for (const { x, y } of outer.cuts) expect(awayFrom(20, 20, x, y)).toBeGreaterThan(1.99);
    const inner = await milled(part(0), part(0.3), 'f4', { which: 'inner', holes: 'milled', ap: 20 });
    for (const { x, y } of inner.cuts) expect(awayFrom(30, 20, x, y)).toBeLessThan(-1);
    expect(outer.cuts.length + inner.cuts.length).toBe(cuts.length);
    const besides = await milled(part(0), part(0.3), 'f4', { which: 'inner', ap: 20 });
    expect(besides.cuts.some(({ x, y }) => Math.hypot(x - 11, y) < 7)).toBe(false);
    expect(besides.cuts.length).toBeLessThan(inner.cuts.length);
  });

  it('side passes come nearer by ae, the last one repeated, and what they take off counts for the stock limit', async () => {
    const values = { passes: 3, ae: 0.8, lastAe: null, springs: 2, mostSteel: 1.8, ap: 20, allowance: 0.2 };
    const { result, cuts } = await milled(box(15, 15, -10), box(17.5, 17.5, -10), 'f8', values);
    const away = cuts.map(({ x, y }) => Math.round(100 * awayFrom(15, 15, x, y)) / 100);
    const rounds = away.filter((a, k) => a !== away[k - 1]);
    expect(rounds).toEqual([5.8, 5, 4.2]);
    const lengthAt = (a: number): number =>
      cuts
        .filter((_, k) => away[k] === a)
        .reduce((sum, { x, y, from }) => sum + Math.hypot(x - from[0], y - from[1]), 0);
    expect(lengthAt(4.2) / lengthAt(5)).toBeGreaterThan(2.8);
    expect(result.leftOut).toEqual([]);
    // the last one thinner
    const { cuts: thin } = await milled(box(15, 15, -10), box(17.5, 17.5, -10), 'f8', { ...values, lastAe: 0.3 });
    expect(new Set(thin.map(({ x, y }) => Math.round(100 * awayFrom(15, 15, x, y)) / 100))).toEqual(
      new Set([5.3, 4.5, 4.2]),
    );
    // as many as the steel wants: 2.3 mm, and more over the corners
    const { cuts: wanted } = await milled(box(15, 15, -10), box(17.5, 17.5, -10), 'f8', { ...values, passes: null });
    expect(new Set(wanted.map(({ x, y }) => Math.round(100 * awayFrom(15, 15, x, y)) / 100))).toEqual(
      new Set([5.8, 5, 4.2]),
    );
    await expect(milled(box(15, 15, -10), box(17.5, 17.5, -10), 'f8', { ...values, passes: 1 })).rejects.toThrow(
      'thicker than the stock limit',
    );
  });

  it('passes sharp outer corners straight on both sides where that is asked for, and leaves round ones', async () => {
    for (const direction of ['climb', 'conventional'] as const) {
      const { cuts, result } = await milled(box(20, 12, -10), box(20.4, 12.4, -10), 'f8', {
        corners: 'sharp',
        direction,
      });
      expect(result.figures.findings).toEqual([]);
      for (const [x, y] of [
        [24, 16],
        [-24, 16],
        [24, -16],
        [-24, -16],
      ] as const)
        expect(Math.min(...cuts.map((c) => Math.hypot(c.x - x, c.y - y)))).toBeLessThan(0.01);
      // straight from corner to corner
      for (const { x, y } of cuts) expect(Math.abs(Math.max(Math.abs(x) - 24, Math.abs(y) - 16))).toBeLessThan(0.01);
    }
    const round = solids.Manifold.cylinder(10, 15, 15, 96).translate([0, 0, -10]);
    const skin = solids.Manifold.cylinder(10, 15.4, 15.4, 96).translate([0, 0, -10]);
    const rolled = await milled(round, skin, 'f8', {});
    const sharp = await milled(round, skin, 'f8', { corners: 'sharp' });
    expect(sharp.cuts).toEqual(rolled.cuts);
  });

  it('a wall that leans a little is no single wall, however many heights it is looked at: its stairs stay as thin as ap wants', async () => {
    // 0.3° over 16 mm: 0.084 mm from foot to top, 0.005 mm a depth
    const lean = (skin: number): Manifold => {
      const by = 16 * Math.tan((0.3 * Math.PI) / 180);
      return solids.Manifold.hull([
        box(20 + skin, 12 + skin, -16, -15.999),
        box(20 - by + skin, 12 - by + skin, -0.001),
      ]);
    };
    const { result, cuts } = await milled(lean(0), lean(0.3), 'f8', { ap: 1, mostSteel: 3, passes: 1 });
    expect(result.figures.findings).toEqual([]);
    const away = (high: boolean): number =>
      Math.max(...cuts.filter(({ y, z }) => Math.abs(y) < 8 && z > -2 === high).map(({ x }) => Math.abs(x)));
    // the axis comes nearer higher up, by what the wall leans
    expect(away(false) - away(true)).toBeGreaterThan(0.06);
  });

  it('walls of other areas inside a round recess are none of its own', async () => {
    const recess = (skin: number): Manifold =>
      box(30, 30, -20)
        .subtract(hole(solids, 0, 0, 24 - skin, -5))
        .subtract(blockOf(solids, [-9 + skin, -7 + skin, -12], [9 - skin, 7 - skin, 1]));
    const { cuts, result } = await milled(recess(0), recess(0.3), 'f4', { which: 'inner' });
    expect(result.figures.findings).toEqual([]);
    expect(result.leftOut).toEqual([]);
    expect(Math.min(...cuts.map(({ z }) => z))).toBeCloseTo(-12, 3);
    // the recess itself is a hole, and left to other steps
    for (const { x, y } of cuts) expect(Math.hypot(x, y)).toBeLessThan(14);
  });

  it('walls that are not asked for are not told of', async () => {
    const part = box(20, 16, -10).subtract(blockOf(solids, [-9, -7, -6], [9, 7, 1]));
    const { result } = await milled(part, box(20.3, 16.3, -10), 'f8', { which: 'outer' });
    expect(result.leftOut).toEqual([]);
    await expect(milled(part, box(20.3, 16.3, -10), 'f8', { which: 'inner' })).rejects.toThrow('stock limit');
  });

  it('held to picked walls it cuts those alone, past both their ends and met by arcs', async () => {
    const part = box(20, 12, -10);
    const mesh = meshOf(soupOf(part));
    const surface = surfaceOf(mesh);
    const side = Array.from({ length: surface.count }, (_, k) => k).find((k) => surface.normals[3 * k]! > 0.99)!;
    const limit = { kind: 'faces', faces: [pickOfFace(mesh, side)], relations: {} } as Step['limits'][number];
    const { cuts, result } = await milled(part, box(20.4, 12.4, -10), 'f8', { overlap: 1 }, [limit]);
    expect(result.figures.findings).toEqual([]);
    expect(cuts.length).toBeGreaterThan(0);
    for (const { x, y } of cuts) {
      expect(x).toBeCloseTo(24, 2);
      expect(Math.abs(y)).toBeLessThan(13.1);
    }
    expect(Math.max(...cuts.map(({ y }) => Math.abs(y)))).toBeGreaterThan(12.5);
    // the skin before that side is gone, the others are there
    const { after } = result.next;
    const heightAt = (x: number, y: number): number =>
      after.heights[Math.floor((y - after.y0) / after.cell) * after.nx + Math.floor((x - after.x0) / after.cell)]!;
    for (const y of [-11, 0, 11]) expect(heightAt(20.2, y)).toBeLessThan(-9.9);
    for (const y of [-11, 0, 11]) expect(heightAt(-20.2, y)).toBeGreaterThan(-0.1);
  });

  it('stays inside an outline with side passes and leads, and cuts what lies in it', async () => {
    const points = [
      [-60, -60],
      [5, -60],
      [5, 60],
      [-60, 60],
    ];
    const limit = { kind: 'within', source: '', points, side: 'inside', offset: 0, relations: {} } as never;
    const { cuts, result } = await milled(
      box(20, 12, -10),
      box(23, 15, -10),
      'f8',
      { passes: 3, ae: 1.2, leadRadius: 6, leadLength: 3 },
      [limit],
    );
    expect(result.figures.findings).toEqual([]);
    const { x, z } = result.path;
    for (let k = 0; k < x.length; k++) if (z[k]! < 0) expect(x[k]!).toBeLessThan(5 - 4 + 0.02);
    expect(Math.min(...cuts.map((c) => c.x))).toBeCloseTo(-24 - 0.16 - 1.2, 2);
    expect(Math.max(...cuts.map((c) => c.x))).toBeGreaterThan(0.2);
  });

  it('goes below a wall for a press fit, by a cutter that is told to be slimmer', async () => {
    const { cuts, result } = await milled(box(15, 15, -10), box(15.3, 15.3, -10), 'f8', { allowance: -0.05 });
    for (const { x, y } of cuts) expect(awayFrom(15, 15, x, y)).toBeCloseTo(3.95, 2);
    expect(result.figures.findings).toEqual([]);
  });

  it('meets a wall along a tangent from air, by a smaller arc where there is less room, and along the wall where there is none', async () => {
    const slot = (half: number, skin: number): Manifold =>
      box(30, 20, -12).subtract(blockOf(solids, [-20 + skin, -half + skin, -8], [20 - skin, half - skin, 1]));
    for (const [half, kind] of [
      [8, 'arc'],
      [3.5, 'arc'],
      [2.3, 'ramp'],
    ] as const) {
      const { result } = await milled(slot(half, 0), slot(half, 0.2), 'f4', { which: 'inner', leadRadius: 3, ap: 4 });
      expect(result.figures.findings).toEqual([]);
      const { x, y, z, kind: kinds } = result.path;
      const first = kinds.indexOf(Motion.cut);
      if (kind === 'arc') {
        expect(kinds[first - 1]).toBe(Motion.entry);
        const [ux, uy] = [x[first]! - x[first - 1]!, y[first]! - y[first - 1]!];
        const [vx, vy] = [x[first - 1]! - x[first - 2]!, y[first - 1]! - y[first - 2]!];
        const turn = (ux * vx + uy * vy) / Math.hypot(ux, uy) / Math.hypot(vx, vy);
        expect(turn).toBeGreaterThan(Math.cos(0.15));
      } else
        // no deeper than the ramp lets it
        for (let k = 1; k < x.length; k++) {
          const run = Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!);
          if (kinds[k] === Motion.cut)
            expect(z[k - 1]! - z[k]!).toBeLessThan(run * Math.tan((2.01 * Math.PI) / 180) + 1e-6);
        }
    }
  });

  it('goes down along a wall by ap a round at most, and once round at its foot', async () => {
    const { result, cuts } = await milled(box(15, 10, -12), box(15.3, 10.3, -12), 'b6', { rampDeg: 3, ap: 4 });
    expect(result.figures.findings).toEqual([]);
    const foot = cuts.at(-1)!.z;
    for (let k = 1; k < cuts.length; k++) expect(cuts[k]!.z).toBeLessThanOrEqual(cuts[k - 1]!.z + 1e-9);
    let round = 0;
    for (const { x, y, z, from } of cuts) if (z === foot) round += Math.hypot(x - from[0], y - from[1]);
    expect(round).toBeGreaterThan(2 * 50 + 2 * Math.PI * 3);
    // all the way is as long as the slope wants
    const way = cuts.reduce((sum, { x, y, from }) => sum + Math.hypot(x - from[0], y - from[1]), 0);
    expect(way - round).toBeGreaterThan((12 / Math.tan((3 * Math.PI) / 180)) * 0.95);
  });

  it('leaves bridges of their width and height at all side passes, and cuts through everywhere else', async () => {
    const values = { tabs: 4, tabWidth: 3, tabHeight: 1.2, passes: 2, ae: 0.5, lastAe: null, ap: 6, mostSteel: 30 };
    const part = box(20, 14, -10);
    const { result, session, cuts } = await milled(part, box(32, 26, -10.6), 'f8', values);
    expect(result.leftOut.filter((l) => l.why.includes('bridge'))).toHaveLength(4);
    expect(result.figures.findings).toEqual([]);
    // along the middle of the slot that the cutter leaves
    const { after } = result.next;
    const heightAt = (x: number, y: number): number =>
      after.heights[Math.floor((y - after.y0) / after.cell) * after.nx + Math.floor((x - after.x0) / after.cell)]!;
    const raised: number[] = [];
    for (let s = -19; s <= 19; s += 0.1) for (const y of [-18, 18]) raised.push(heightAt(s, y));
    for (let s = -13; s <= 13; s += 0.1) for (const x of [-24, 24]) raised.push(heightAt(x, s));
    for (const h of raised) expect(h < -10.59 || Math.abs(h + 8.8) < 0.01 || (h > -10.6 && h < -8.79)).toBe(true);
    // 4 bridges, as wide as the cutter leaves them
    const wide = raised.filter((h) => h > -8.81).length * 0.1;
    expect(wide / 4).toBeGreaterThan(2.7);
    expect(wide / 4).toBeLessThan(3.4);
    expect(Math.min(...cuts.map(({ z }) => z))).toBeCloseTo(-10.5, 3);
    const { verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
  });

  it('bridges stand evenly round any ring, in its straights where it has some', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 8, max: 20, noNaN: true }), { minLength: 5, maxLength: 40 }),
        fc.integer({ min: 1, max: 6 }),
        (radii, count) => {
          const ring = Float64Array.from(
            radii.flatMap((r, k) => {
              const a = (2 * Math.PI * k) / radii.length;
              return [r * Math.cos(a), r * Math.sin(a)];
            }),
          );
          const closed = [...ring, ring[0]!, ring[1]!];
          const at: number[] = [];
          let whole = 0;
          const places = bridgePlaces(ring, count);
          for (let k = 2; k < closed.length; k += 2) {
            const [ax, ay, bx, by] = closed.slice(k - 2, k + 2) as [number, number, number, number];
            const length = Math.hypot(bx - ax, by - ay);
            for (const [x, y] of places) {
              const t = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length ** 2;
              if (t >= 0 && t < 1 && Math.hypot(ax + t * (bx - ax) - x, ay + t * (by - ay) - y) < 1e-6)
                at.push(whole + t * length);
            }
            whole += length;
          }
          expect(at).toHaveLength(count);
          at.sort((a, b) => a - b).forEach((s, i) => {
            expect(s).toBeGreaterThanOrEqual(((i + 0.25) / count) * whole - 1e-6);
            expect(s).toBeLessThanOrEqual(((i + 0.75) / count) * whole + 1e-6);
          });
        },
      ),
    );
  });

  it('leaves wear to the control on straights beside its leads, proven word by word', async () => {
    const skin = (by: number): Manifold =>
      box(20 + by, 14 + by, -9).subtract(blockOf(solids, [-12 + by, -8 + by, -5], [12 - by, 8 - by, 1]));
    for (const [direction, word] of [
      ['climb', 'G41 D1'],
      ['conventional', 'G42 D1'],
    ] as const) {
      const values = { which: 'all', wear: 'control', leadLength: 1.5, ap: 4, direction };
      const { session, result } = await milled(skin(0), skin(0.3), 'f8', values);
      const { text, verdicts } = await release(session, crewHere());
      expect(verdicts.filter((v) => !v.ok)).toEqual([]);
      // outer walls in three depths, the pocket's in two: each begun and ended once
      expect(text.split(word).length - 1).toBe(5);
      expect(text.match(/^(?!G21).*G40/gm)).toHaveLength(5);
      const { x, y, z, wear } = result.path;
      for (const { first, end } of wear!)
        for (const k of [first, end - 1]) {
          expect(Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!)).toBeCloseTo(1.5, 6);
          expect(z[k]).toBe(z[k - 1]);
        }
      const prove = async (changed: string): Promise<string[]> => {
        expect(changed).not.toBe(text);
        const post = postOf('word-address');
        const proven = await proveText(
          changed,
          session.snapshot,
          postedSteps(session, session.snapshot),
          post,
          crewHere(),
        );
        return proven.filter((v) => !v.ok).map((v) => v.id);
      };
      expect(await prove(text.replace(word, ''))).not.toEqual([]);
      expect(await prove(text.replace(word, direction === 'climb' ? 'G42 D1' : 'G41 D1'))).not.toEqual([]);
      expect(await prove(text.replace(word, word.replace('D1', 'D2')))).not.toEqual([]);
      expect(await prove(text.replace(/G40 (?=[XY])/, ''))).not.toEqual([]);
    }
    await expect(milled(skin(0), skin(0.3), 'f8', { wear: 'control' })).rejects.toThrow('give it a length');
  });

  it('says in words what cannot be: heights the wrong way round, no wall, a bridge with nothing to hold, a face mill', async () => {
    const [part, blank] = [box(15, 10, -12), box(15.3, 10.3, -12)];
    await expect(milled(part, blank, 'f8', { top: -9, bottom: -3 })).rejects.toThrow('lower height lies above');
    await expect(milled(part, blank, 'f8', { which: 'inner' })).rejects.toThrow('No wall of a closed area');
    await expect(milled(part, blank, 'f8', { ap: 25 })).rejects.toThrow('flutes are 24 mm long');
    await expect(milled(part, blank, 'f8', { tabs: 2, bottom: -6 })).rejects.toThrow('No outer wall is cut through');
  });
});
