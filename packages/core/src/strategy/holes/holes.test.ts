import type { Manifold, ManifoldToplevel } from 'manifold-3d';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { numberIn } from '../../../test/numberIn';
import { AROUND, blockOf, hole, modeller, soupOf } from '../../../test/plates';
import { calculated, cribOf, crewHere, type EndMill, meshOf, sessionOf, testJob, workHere } from '../../../test/shapes';
import { Piece } from '../../evaluate/piece';
import { Session } from '../../evaluate/session';
import { evenSchema } from '../../load/stepCutting';
import { edgesOf } from '../../check/brokenEdge';
import { gougesAlong } from '../../check/gouge';
import { Motion } from '../../path/toolpath';
import { release } from '../../release/release';
import { cuttingPiece } from '../../tool/shape';
import { holeOrder } from './order';

const drill = (DC: number, SIG = 118, flutes = 60): EndMill => ['drill', DC, 0, flutes, DC, 80, { SIG }];
const point = (d: number, angle: number): number => d / 2 / Math.tan((angle * Math.PI) / 360);

describe('holes', () => {
  let solids: ManifoldToplevel;
  beforeAll(async () => {
    solids = await modeller();
  });

  /** A leaning slab, 20 to 26 thick, and what is cut out of it. */
  const slab = (...cut: Manifold[]): Manifold => {
    const whole = blockOf(solids, [-30, -20, -20], [30, 20, 6]);
    const roof = blockOf(solids, [-60, -60, 0], [60, 60, 40]).rotate([0, -5, 0]).translate([0, 0, 3]);
    return cut.reduce((body, c) => body.subtract(c), whole.subtract(roof));
  };

  /** A part's holes made in its block by cutters one after another; heights under the block's top. */
  async function made(
    part: Manifold,
    cutters: Record<string, EndMill>,
    steps: { cutter: string; values?: Record<string, unknown> }[],
    kind = 'holes',
  ) {
    const job = testJob(
      steps.map(({ cutter, values }) => ({ kind, assemblyId: cutter, ...(values && { values }) })),
      0,
      { cell: 0.1, crib: cribOf(cutters) },
    );
    const session = await calculated(job, soupOf(part));
    const results = steps.map((_, k) => session.results.get(`s${k + 1}`)!);
    const { part: mesh } = session.snapshot.piece;
    return { session, results, top: mesh.box.maxZ, low: mesh.box.minZ };
  }

  it('a drill stops where its point fits the hole, passes through holes by what is asked, and stops on a level floor', async () => {
    const part = slab(
      hole(solids, -20, 0, 4, -9, 118),
      hole(solids, 0, 0, 4, -60),
      hole(solids, 20, 0, 4, -7),
      hole(solids, 10, 12, 2, -60),
    );
    const { results, low } = await made(part, { d: drill(8) }, [{ cutter: 'd', values: { beyond: 1.5 } }]);
    const [result] = results;
    expect(result!.figures.findings).toEqual([]);
    const ends = result!.motions.cycles!.map(({ to, first }) => [result!.path.x[first], to - (low + 20)]);
    const deepest = Object.fromEntries(ends.map(([x, to]) => [Math.round(x!), to]));
    expect(deepest[-20]).toBeCloseTo(-9 - point(8, 118), 2);
    expect(deepest[0]).toBeCloseTo(-20 - 1.5 - point(8, 118), 2);
    expect(deepest[20]).toBeCloseTo(-7, 2);
    expect(ends).toHaveLength(3);
  });

  it('what it takes out of the block is the holes, cylinder and point (check 29: the point is DC / 2 / tan(SIG / 2) long)', async () => {
    // a drill of the hole's own angle in a plate whose top is level
    const part = blockOf(solids, [-30, -20, -20], [30, 20, 0])
      .subtract(hole(solids, -12, 3, 5, -11, 140))
      .subtract(hole(solids, 14, -5, 5, -7, 140));
    const { results } = await made(part, { d: drill(10, 140) }, [{ cutter: 'd' }]);
    const tip = point(10, 140);
    const volume = Math.PI * 25 * (11 + 7 + (2 * tip) / 3);
    expect(results[0]!.figures.removed / volume).toBeGreaterThan(0.995);
    expect(results[0]!.figures.removed / volume).toBeLessThan(1.005);
  });

  it('never goes into the part: neither by a blunter point, nor by a depth that is too large, nor by a facet of the wall', async () => {
    const part = slab(hole(solids, -14, 0, 3, -8, 140), hole(solids, 8, 3, 3, -4));
    const steps = [{ cutter: 'sharp' }, { cutter: 'sharp', values: { depth: 40 } }];
    const { results, session } = await made(part, { sharp: drill(6, 90) }, steps);
    for (const { figures } of results) expect(figures.findings).toEqual([]);
    const wide = await made(part, { wide: drill(6.04), sharp: drill(6, 90) }, [
      { cutter: 'sharp', values: { diameterTo: 6.05 } },
    ]);
    expect(wide.results[0]!.leftOut).toEqual([]);
    await expect(made(part, { wide: drill(6.04) }, [{ cutter: 'wide', values: { diameterFrom: 5 } }])).rejects.toThrow(
      'which is wider',
    );
    const { ok, verdicts } = await release(session, crewHere());
    expect(verdicts.filter((v) => !v.ok)).toEqual([]);
    expect(ok).toBe(true);
  });

  it('the same path in a part whose wall or floor stands a twentieth nearer goes into it, however coarse its facets are', async () => {
    const round = (r: number, bottom: number): Manifold =>
      solids.Manifold.cylinder(60, r, r, 20).translate([0, 0, bottom]);
    const { results, session } = await made(
      slab(round(4, -9)),
      { f: ['flat', 6, 0, 30, 6, 40, {}] },
      [{ cutter: 'f' }],
      'hole-milling',
    );
    const [{ motions, facetDepth, figures }] = results as [(typeof results)[number]];
    expect(figures.findings).toEqual([]);
    expect(facetDepth).toBeGreaterThan(0.04);
    const { shape } = session.snapshot.steps[0]!;
    const [edges] = edgesOf(cuttingPiece(shape), { facetDepth });
    const found = (part: Manifold): number => {
      const mesh = sessionOf(session.snapshot.job, soupOf(part)).snapshot.piece.part;
      return gougesAlong(mesh, edges!, motions, [0, motions.x.length], 0.01).length;
    };
    expect(found(slab(round(4, -9)))).toBe(0);
    expect(found(slab(round(3.95, -9)))).toBeGreaterThan(0);
    expect(found(slab(round(4, -8.95)))).toBeGreaterThan(0);
  });

  it('spot, drill, ream and tap: each in what the one before left, released from the posted text', async () => {
    const part = slab(
      hole(solids, -20, -8, 2.5, -12, 118),
      hole(solids, -5, 9, 2.5, -9, 118),
      hole(solids, 12, -6, 4, -60),
      hole(solids, 12, -6, 7, 0),
    );
    const { results, session } = await made(
      part,
      {
        spot: ['spot', 12, 0, 15, 12, 40, { SIG: 90 }],
        d5: drill(5),
        d78: drill(7.8),
        r8: ['reamer', 8, 0, 30, 8, 50, {}],
        m6: ['tap', 6, 0, 30, 6, 50, { TP: 1, ZEFP: 3 }],
      },
      [
        { cutter: 'spot' },
        { cutter: 'd5', values: { peck: 'full', peckDepth: 2 } },
        { cutter: 'd78', values: { peck: 'break', peckDepth: 3.3 } },
        { cutter: 'r8' },
        { cutter: 'm6' },
      ],
    );
    for (const { figures } of results) expect(figures.findings).toEqual([]);
    // a spot's mark is as wide as the hole: half its diameter deep at 90°, under the rim's highest place
    const spots = results[0]!.motions.cycles!;
    expect(spots).toHaveLength(3);
    for (const { first, to } of spots) {
      const at = session.snapshot.piece.holes.find((h) => Math.abs(h.x - results[0]!.path.x[first]!) < 1e-6)!;
      expect(at.top - to).toBeCloseTo(at.diameter / 2, 2);
    }
    // a thread is cut at its pitch in a turn (check 30), in and out at feed
    const { path, motions } = results[4]!;
    const { n } = session.snapshot.steps[4]!.cutting;
    for (const { first, end } of motions.cycles!)
      for (let k = first; k < end; k++) {
        expect(path.kind[k]).not.toBe(Motion.rapid);
        expect(path.feed[k]).toBeCloseTo(n, 2);
      }
    const released = await release(session, crewHere());
    expect(released.verdicts.filter((v) => !v.ok)).toEqual([]);
    expect(released.text).toMatch(/G99 G83 .*Q2\.000/);
    expect(released.text).toMatch(/G99 G73 .*Q3\.300/);
    expect(released.text).toMatch(/G99 G84 /);
  });

  it('says no to a spot under much steel, to a drill that is too short, and to reaming what is not drilled', async () => {
    const part = slab(hole(solids, 0, 0, 2.5, -14, 118));
    await expect(made(part, { d: drill(5, 118, 10) }, [{ cutter: 'd' }])).rejects.toThrow('flutes are 10 mm long');
    await expect(made(part, { r: ['reamer', 5, 0, 30, 5, 50, {}] }, [{ cutter: 'r' }])).rejects.toThrow(
      'not drilled yet',
    );
    // on a level floor a drill's point leaves a ring: the reamer stops over it
    const level = slab(hole(solids, 0, 0, 4, -12));
    const { results, low } = await made(level, { d: drill(7.8, 140), r: ['reamer', 8, 0, 30, 8, 50, {}] }, [
      { cutter: 'd' },
      { cutter: 'r', values: { short: 0 } },
    ]);
    expect(results[1]!.figures.findings).toEqual([]);
    expect(results[1]!.motions.cycles![0]!.to - (low + 20)).toBeGreaterThan(-12 + 0.7 * point(7.8, 140));
    const job = testJob([{ kind: 'holes', assemblyId: 's' }], 20, {
      crib: cribOf({ s: ['spot', 6, 0, 15, 6, 40, { SIG: 90 }] }),
    });
    await expect(calculated(job, soupOf(part))).rejects.toThrow('flutes are 15 mm long');
  });

  it('a feed that follows the load is not for what makes holes: it is as without', async () => {
    const job = testJob([{ kind: 'holes', assemblyId: 'd' }], 0, { cell: 0.2, crib: cribOf({ d: drill(8) }) });
    const soup = soupOf(slab(hole(solids, 0, 0, 4, -9, 118)));
    const plain = (await calculated(job, soup)).results.get('s1')!;
    job.steps[0]!.cutting.even = evenSchema.parse({ by: 'chip', fastest: 3 });
    const even = (await calculated(job, soup)).results.get('s1')!;
    expect(even.path.feed).toEqual(plain.path.feed);
  });

  it('facets of a coarse hole stand in for its round wall, however few they are', async () => {
    for (const sectors of [16, AROUND]) {
      const round = solids.Manifold.cylinder(60, 5, 5, sectors).translate([0, 0, -40]);
      const { results } = await made(slab(round), { d: drill(10) }, [{ cutter: 'd' }]);
      expect(results[0]!.figures.findings).toEqual([]);
      expect(results[0]!.facetDepth).toBeCloseTo(5 * (1 - Math.cos(Math.PI / sectors)), 3);
    }
  });

  it('says where a drill may run off: steel that leans by more than 6° where it begins, and a wall that another hole crosses', async () => {
    const roof = (degrees: number): Manifold =>
      blockOf(solids, [-30, -20, -20], [30, 20, 12]).subtract(
        blockOf(solids, [-90, -60, 0], [90, 60, 60]).rotate([0, -degrees, 0]),
      );
    const bored = (body: Manifold): Manifold => body.subtract(hole(solids, 5, 3, 4, -15, 118));
    const cutters = { d: drill(8), f: ['flat', 12, 0, 30, 12, 50] as EndMill };
    for (const [degrees, told] of [
      [4, false],
      [12, true],
    ] as const) {
      // the block stands over a roof: only milled to it the steel leans
      const milled = bored(roof(degrees));
      const job = testJob([{ kind: 'holes', assemblyId: 'd' }], 0, {
        cell: 0.1,
        crib: cribOf(cutters),
        blank: { kind: 'body', allowance: 0 },
        others: [{ file: 'b.stl', role: 'blank' }],
      } as object);
      const session = new Session();
      const bodies = { part: meshOf(soupOf(milled)), blank: meshOf(soupOf(roof(degrees))) };
      session.take(job, Piece.of(job, { ...bodies, key: 'part' }));
      await session.calculate(workHere);
      const { notes } = session.results.get('s1')!.figures;
      expect(notes.map((n) => n.why)).toEqual(told ? [expect.stringMatching(/leans by 1[12]°: level it first/)] : []);
    }
    const channel = solids.Manifold.cylinder(90, 3, 3, 64).rotate([90, 0, 0]).translate([5, 45, -7]);
    const block = bored(blockOf(solids, [-30, -20, -20], [30, 20, 0]));
    const crossed = (await made(block.subtract(channel), cutters, [{ cutter: 'd' }])).results[0]!;
    expect(crossed.figures.notes.map((n) => n.why)).toEqual([expect.stringContaining('another hole crosses it')]);
    const whole = (await made(block, cutters, [{ cutter: 'd' }])).results[0]!;
    expect(whole.figures.notes).toEqual([]);
  });

  it('a hole that was drilled is the way into the closed pocket around it', async () => {
    const part = blockOf(solids, [-30, -20, -20], [30, 20, 0])
      .subtract(blockOf(solids, [-14, -9, -8], [14, 9, 1]))
      .subtract(hole(solids, 3, 2, 5.5, -60));
    const crib = cribOf({ d: drill(11), f: ['flat', 8, 0, 20, 7.6, 40] });
    /** How steeply a roughing step goes down in steel, and where: those ways that lead sideways. */
    const ramps = async (kinds: { kind: string; assemblyId: string }[]): Promise<number> => {
      const session = await calculated(testJob(kinds, 0, { cell: 0.2, crib }), soupOf(part));
      const { path, figures } = session.results.get(`s${kinds.length}`)!;
      expect(figures.findings).toEqual([]);
      const { x, y, z, kind } = path;
      return [...kind.keys()].filter(
        (k) =>
          k > 0 &&
          kind[k] === Motion.entry &&
          z[k]! < z[k - 1]! &&
          Math.hypot(x[k]! - x[k - 1]!, y[k]! - y[k - 1]!) > 0,
      ).length;
    };
    const rough = { kind: 'level-roughing', assemblyId: 'f' };
    expect(await ramps([rough])).toBeGreaterThan(10);
    expect(await ramps([{ kind: 'holes', assemblyId: 'd' }, rough])).toBe(0);
  });
});

describe('order of holes', () => {
  const places = fc.array(fc.record({ x: numberIn(-90, 90), y: numberIn(-90, 90) }), { minLength: 1, maxLength: 40 });
  it('takes each once, by a way that turning no stretch makes shorter', () => {
    fc.assert(
      fc.property(places, (all) => {
        const order = holeOrder(all);
        expect([...order].sort((a, b) => a - b)).toEqual(all.map((_, k) => k));
        const way = (o: number[]): number =>
          o.slice(1).reduce((sum, k, i) => sum + Math.hypot(all[k]!.x - all[o[i]!]!.x, all[k]!.y - all[o[i]!]!.y), 0);
        const own = way(order);
        for (let i = 1; i < order.length; i++)
          for (let j = i + 1; j <= order.length; j++) {
            const turned = [...order.slice(0, i), ...order.slice(i, j).reverse(), ...order.slice(j)];
            expect(way(turned)).toBeGreaterThan(own - 1e-6);
          }
      }),
      { numRuns: 40 },
    );
  });
});
