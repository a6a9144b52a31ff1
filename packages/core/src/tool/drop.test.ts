import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { contactMesh } from '../geometry/contactMesh';
import { weld } from '../geometry/mesh';
import { bruteTip } from '../../test/brute';
import { sheet } from '../../test/shapes';
import { CutterDrop, ProfileDrop } from './drop';
import { heightAt, insideFacets, pointedProfile, type ProfilePiece, roundProfile, stackProfile } from './profile';

const coordinate = fc.integer({ min: -1000, max: 1000 }).map((n) => n / 100);
const triangle = fc.array(coordinate, { minLength: 9, maxLength: 9 });
const pieces: [string, ProfilePiece][] = [
  ['flat', roundProfile(6, 0)],
  ['ball', roundProfile(6, 3)],
  ['bull-nose', roundProfile(8, 1)],
  ['cone', { kind: 'cone', z: 0, flat: 1, radius: 5, slope: 1.7 }],
];

/** Tip height on triangles as they are; -Infinity where none is touched or none is left of them. */
function tipOn(soup: readonly number[], piece: ProfilePiece, x: number, y: number): number {
  try {
    return new CutterDrop(contactMesh(weld(Float64Array.from(soup)).mesh), piece).at(x, y);
  } catch {
    return -Infinity;
  }
}

describe('cutter contact', () => {
  for (const [name, piece] of pieces)
    it(`a ${name} dropped on random triangles rests where a search over every point of them says`, () => {
      fc.assert(
        fc.property(fc.array(triangle, { minLength: 1, maxLength: 6 }), coordinate, coordinate, (soups, x, y) => {
          const soup = soups.flat();
          let mesh;
          try {
            mesh = contactMesh(weld(soup).mesh);
          } catch {
            return;
          }
          const tip = new CutterDrop(mesh, piece).at(x / 2, y / 2);
          const wanted = bruteTip(soup, piece, x / 2, y / 2);
          if (wanted === -Infinity) {
            // on the very rim the search may miss a touching point
            expect(tip === -Infinity || rimOnly(soup, piece, x / 2, y / 2)).toBe(true);
          } else expect(tip).toBeGreaterThanOrEqual(wanted - 1e-6);
          if (wanted > -Infinity && Math.abs(tip - wanted) > 1e-6)
            expect(rimOnly(soup, piece, x / 2, y / 2)).toBe(true);
        }),
        { numRuns: 150, seed: 7 },
      );
    });

  // what bad files hold: needles, slivers, repeats, upright and level facets, overlaps in one plane, normals turned round
  const awkward = fc
    .array(fc.tuple(triangle, fc.integer({ min: 0, max: 7 }), fc.integer({ min: 0, max: 8 })), {
      minLength: 1,
      maxLength: 5,
    })
    .map((all) =>
      all.flatMap(([t, what, c]) => {
        const [a, b, d] = [t.slice(0, 3), t.slice(3, 6), t.slice(6, 9)];
        const between = (p: number[], q: number[], k: number): number[] => p.map((v, i) => v + k * (q[i]! - v));
        switch (what) {
          case 0: // a needle: the third corner a hair off the first edge
            return [...a, ...b, ...between(a, b, 0.4).map((v, i) => v + (i === c % 3 ? 1e-4 : 0))];
          case 1: // no area at all
            return [...t, ...a, ...b, ...between(a, b, 0.3)];
          case 2: // the same triangle again, turned round
            return [...t, ...b, ...a, ...d];
          case 3: // upright
            return [...a, ...b, b[0]!, b[1]!, b[2]! + 3];
          case 4: // level, with another over part of it in the same plane
            return [...a, b[0]!, b[1]!, a[2]!, d[0]!, d[1]!, a[2]!, ...a, d[0]!, d[1]!, a[2]!, a[0]! + 2, a[1]!, a[2]!];
          case 5: // two that share an edge and fold over
            return [...t, ...a, ...b, ...between(d, a, 0.2)];
          case 6: // a corner on the other's edge
            return [...t, ...between(a, b, 0.5), ...b, a[0]!, b[1]!, d[2]!];
          default:
            return t;
        }
      }),
    );
  for (const [name, piece] of pieces)
    it(`a ${name} stands where a search says on meshes as bad files hold them`, () => {
      fc.assert(
        fc.property(awkward, coordinate, coordinate, (soup, x, y) => {
          let mesh;
          try {
            mesh = contactMesh(weld(soup).mesh);
          } catch (error) {
            expect(error).toMatchObject({ code: 'mesh-invalid' });
            return;
          }
          const tip = new CutterDrop(mesh, piece).at(x / 2, y / 2);
          const wanted = bruteTip(soup, piece, x / 2, y / 2);
          // a triangle without area that is left out has neighbours or is thinner than any cutter can tell
          if (wanted > -Infinity && !rimOnly(soup, piece, x / 2, y / 2)) {
            expect(tip).toBeGreaterThanOrEqual(wanted - 1e-6);
            expect(tip).toBeLessThanOrEqual(wanted + 1e-6);
          }
        }),
        { numRuns: 120, seed: 21 },
      );
    });

  /** Whether a cutter narrower or wider by a hair gives a clearly different answer: then the search cannot decide. */
  function rimOnly(soup: number[], piece: ProfilePiece, x: number, y: number): boolean {
    const mesh = contactMesh(weld(soup).mesh);
    const narrow = { ...piece, radius: piece.radius - 1e-4, flat: Math.min(piece.flat, piece.radius - 1e-4) };
    const wide = {
      ...piece,
      radius: piece.radius + 1e-4,
      flat: piece.flat === piece.radius ? piece.flat + 1e-4 : piece.flat,
    };
    return (
      Math.abs(new CutterDrop(mesh, narrow).at(x, y) - new CutterDrop(mesh, wide).at(x, y)) > 1e-5 ||
      new CutterDrop(mesh, narrow).at(x, y) === -Infinity
    );
  }

  it('a ball on a plane inclined by θ stands R (1/cos θ - 1) above the plane below its tip', () => {
    for (const deg of [0, 10, 45, 80]) {
      const m = Math.tan((deg * Math.PI) / 180);
      const mesh = contactMesh(
        weld([-50, -50, -50 * m, 50, -50, 50 * m, 50, 50, 50 * m, -50, -50, -50 * m, 50, 50, 50 * m, -50, 50, -50 * m])
          .mesh,
      );
      const ball = new CutterDrop(mesh, roundProfile(10, 5));
      expect(ball.at(1, 2)).toBeCloseTo(m * 1 + 5 * (1 / Math.cos((deg * Math.PI) / 180) - 1), 9);
      const contact = ball.contact()!;
      expect(contact.nx).toBeCloseTo(-Math.sin((deg * Math.PI) / 180), 9);
      expect(contact.z).toBeCloseTo(contact.x * m, 9);
    }
  });

  it('leaving out the valley edges of a bumpy sheet changes no contact', () => {
    const n = 14;
    const height = (i: number, j: number): number => Math.round(10 * Math.sin(i * 1.7) * Math.cos(j * 1.3)) / 5;
    const soup: number[] = [];
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const q = [
          [i, j],
          [i + 1, j],
          [i + 1, j + 1],
          [i, j + 1],
        ].map(([a, b]) => [a!, b!, height(a!, b!)]);
        soup.push(...q[0]!, ...q[1]!, ...q[2]!, ...q[0]!, ...q[2]!, ...q[3]!);
      }
    const lean = contactMesh(weld(soup).mesh);
    const full = contactMesh(weld(soup).mesh);
    full.edges.fill(7);
    expect(lean.edges.some((e) => e !== 7)).toBe(true);
    for (const [, piece] of pieces) {
      const a = new CutterDrop(lean, piece);
      const b = new CutterDrop(full, piece);
      for (let k = 0; k < 400; k++) {
        const x = (k * 0.6180339887) % 1;
        const y = (k * 0.7548776662) % 1;
        expect(Math.abs(a.at(x * n, y * n) - b.at(x * n, y * n))).toBeLessThan(1e-9);
      }
    }
  });

  it('on walls of any draft a cutter stands on the highest of their facets, each one asked alone', () => {
    const ROUND = 24;
    const ROWS = 7;
    const wavy = fc.record({
      // draft of the wall to Z, degrees; 0: upright
      draft: fc.constantFrom(0, 0.01, 0.2, 1, 2.5, 10, 45, 80),
      radius: fc.integer({ min: 600, max: 3000 }).map((n) => n / 100),
      wave: fc.integer({ min: 0, max: 30 }).map((n) => n / 100),
      tall: fc.integer({ min: 5, max: 500 }).map((n) => n / 10),
      centre: fc.tuple(fc.integer({ min: -300, max: 300 }), fc.integer({ min: -300, max: 300 })),
      isCore: fc.boolean(),
    });
    const ball = roundProfile(6, 3);
    const cutters = [...pieces.map(([, p]) => p), { ...ball, corner: 3.4, radius: 3.4 }, roundProfile(16, 2)];
    fc.assert(
      fc.property(wavy, fc.infiniteStream(fc.integer({ min: 0, max: 9999 }).map((n) => n / 1e4)), (wall, random) => {
        const { draft, radius, wave, tall, centre, isCore } = wall;
        const at = (k: number, row: number): number[] => {
          const angle = (2 * Math.PI * (k + 0.5 * (row % 2))) / ROUND;
          const out = ((tall * row) / ROWS) * Math.tan((draft * Math.PI) / 180);
          const r = Math.max(0.5, radius * (1 + wave * Math.sin(3 * angle)) + (isCore ? -out : out));
          return [centre[0] + r * Math.cos(angle), centre[1] + r * Math.sin(angle), (tall * row) / ROWS];
        };
        const soup: number[] = [];
        for (let row = 0; row < ROWS; row++)
          for (let k = 0; k < ROUND; k++) {
            const quad = [at(k, row), at(k + 1, row), at(k + 1, row + 1), at(k, row + 1)];
            if (!isCore) quad.reverse();
            for (const c of [0, 1, 2, 0, 2, 3]) soup.push(...quad[c]!);
          }
        const { positions, indices } = weld(soup).mesh;
        const whole = contactMesh(weld(soup).mesh);
        const alone = Array.from({ length: indices.length / 3 }, (_, t) =>
          contactMesh({
            positions: Float64Array.from(
              [0, 1, 2].flatMap((c) => [...positions.subarray(3 * indices[3 * t + c]!)].slice(0, 3)),
            ),
            indices: Uint32Array.of(0, 1, 2),
            faceOf: Uint32Array.of(0),
          }),
        );
        for (const piece of cutters) {
          const drop = new CutterDrop(whole, piece);
          for (let n = 0; n < 2; n++) {
            const angle = 2 * Math.PI * random.next().value!;
            // from well inside the wall's circle to well outside, mostly where the cutter leans against it
            const r = radius + (isCore ? 1 : -1) * piece.radius + 3 * (random.next().value! - 0.5);
            const [x, y] = [centre[0] + r * Math.cos(angle), centre[1] + r * Math.sin(angle)];
            const wanted = Math.max(...alone.map((mesh) => new CutterDrop(mesh, piece).at(x, y)));
            const tip = drop.at(x, y);
            expect(Math.abs(tip - wanted) <= 1e-7 || tip === wanted, `${tip} ${wanted}`).toBe(true);
          }
        }
      }),
      { numRuns: 20, seed: 11 },
    );
  });

  it('nothing that stands a hair lower hides a facet, however it leans and wherever it lies under the cutter', () => {
    const share = fc.integer({ min: -1000, max: 1000 }).map((n) => n / 1000);
    fc.assert(
      fc.property(
        fc.constantFrom(...pieces.map(([, p]) => p), roundProfile(16, 2)),
        fc.array(share, { minLength: 11, maxLength: 11 }),
        fc.constantFrom(0.05, 0.5, 4),
        fc.constantFrom(0.1, 1, 10, 100),
        // any facet, or one that leans along X, beside the axis, its nearest edge along its lean
        fc.constantFrom(undefined, 0.5, 3, 30, 300),
        (piece, [px, py, ...corners], size, tall, lean) => {
          const [x, y] = [200 * px!, 200 * py!];
          const [cx, cy] = [x + piece.radius * corners[0]!, y + piece.radius * corners[1]!];
          const facet = corners.map((c, k) => (k % 3 === 0 ? cx + size * c : k % 3 === 1 ? cy + size * c : tall * c));
          if (lean) {
            const [low, high] = [-tall, tall];
            const third = cy + Math.sign(cy - y) * size * Math.abs(corners[2]!);
            facet.splice(0, 9, cx + low / lean, cy, low, cx + high / lean, cy, high, cx, third, 0);
          }
          const alone = Math.max(-1e3, tipOn(facet, piece, x, y));
          if (alone === -1e3) return;
          const z = alone - 2e-3;
          const plate = [x - 60, y - 50, z, x + 60, y - 50, z, x, y + 70, z];
          expect(tipOn([...facet, ...plate], piece, x, y)).toBeGreaterThanOrEqual(alone - 1e-7);
        },
      ),
      { numRuns: 4000, seed: 5 },
    );
  });

  it('a level floor of many facets holds a flat cutter, however rounding tilts the facets', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1000 }), coordinate, coordinate, (seed, x, y) => {
        const n = 12;
        const noise = (i: number, j: number): number => (((i * 7919 + j * 104729 + seed * 31) % 1000) - 500) * 2e-13;
        const at = (i: number, j: number): number[] => [2 * i - n, 2 * j - n, noise(i, j)];
        const soup: number[] = [-50, -50, -20, 50, -50, -20, 0, 80, -20];
        for (let i = 0; i < n; i++)
          for (let j = 0; j < n; j++)
            soup.push(
              ...at(i, j),
              ...at(i + 1, j),
              ...at(i + 1, j + 1),
              ...at(i, j),
              ...at(i + 1, j + 1),
              ...at(i, j + 1),
            );
        const mesh = contactMesh(weld(soup).mesh);
        for (const [, piece] of pieces) expect(Math.abs(new CutterDrop(mesh, piece).at(x, y))).toBeLessThan(1e-6);
      }),
      { numRuns: 60, seed: 3 },
    );
  });

  it('the largest tip height is the same whichever query went before', () => {
    const mesh = contactMesh(weld([0, 0, 0, 10, 0, 3, 0, 10, 5, 10, 0, 3, 10, 10, -2, 0, 10, 5]).mesh);
    const warm = new CutterDrop(mesh, roundProfile(4, 1));
    for (let k = 0; k < 200; k++) {
      const x = ((k * 37) % 100) / 10;
      const y = ((k * 61) % 100) / 10;
      expect(warm.at(x, y)).toBe(new CutterDrop(mesh, roundProfile(4, 1)).at(x, y));
    }
  });

  describe('over a sheet of many facets', () => {
    const SIDE = 24;
    const bumpy = (phase: number): number[] =>
      sheet([0, 0, SIDE, SIDE], 0.8, -9, (x, y) => 3 * Math.sin(x / 2 + phase) * Math.cos(y / 3) + (x > 14 ? 4 : 0));
    /** The highest of facets in small heaps, each one asked for itself. */
    const inHeaps = (soup: readonly number[], piece: ProfilePiece): ((x: number, y: number) => number) => {
      const heaps: CutterDrop[] = [];
      for (let t = 0; t < soup.length; t += 9 * 60)
        heaps.push(new CutterDrop(contactMesh(weld(soup.slice(t, t + 9 * 60)).mesh), piece));
      return (x, y) => heaps.reduce((best, heap) => heap.at(x, y, best), -Infinity);
    };
    /** Small steps most of the time, far ones now and then. */
    const walk = fc.array(
      fc.record({
        far: fc.integer({ min: 0, max: 9 }),
        x: fc.integer({ min: 0, max: 1000 }),
        y: fc.integer({ min: 0, max: 1000 }),
      }),
      { minLength: 60, maxLength: 60 },
    );

    it('cutters that take turns on their walks stand on the highest facet, wherever they come from', () => {
      const soup = bumpy(0);
      const mesh = contactMesh(weld(soup).mesh);
      const oracles = pieces.map(([, piece]) => inHeaps(soup, piece));
      fc.assert(
        fc.property(walk, (steps) => {
          const drops = pieces.map(([, piece]) => new CutterDrop(mesh, piece));
          let x = SIDE / 2;
          let y = SIDE / 2;
          const asked = steps.map((step) => {
            const reach = step.far === 0 ? SIDE + 8 : 0.6;
            x = step.far === 0 ? (reach * step.x) / 1000 - 4 : x + reach * (step.x / 500 - 1);
            y = step.far === 0 ? (reach * step.y) / 1000 - 4 : y + reach * (step.y / 500 - 1);
            return { x, y, tips: drops.map((drop) => drop.at(x, y)) };
          });
          for (const { x: ax, y: ay, tips } of asked)
            oracles.forEach((oracle, k) => {
              const tip = oracle(ax, ay);
              if (tip === -Infinity) expect(tips[k]).toBe(-Infinity);
              else expect(Math.abs(tips[k]! - tip)).toBeLessThan(1e-9);
            });
        }),
        { numRuns: 30, seed: 5 },
      );
    });

    it('more parts than are kept at hand, asked at the same places in turn, are not taken for one another', () => {
      const soups = Array.from({ length: 10 }, (_, k) => bumpy((k * Math.PI) / 5));
      const [, piece] = pieces[1]!;
      const drops = soups.map((soup) => new CutterDrop(contactMesh(weld(soup).mesh), piece));
      const places = Array.from({ length: 40 }, (_, k) => [2 + ((k * 7.3) % 20), 2 + ((k * 4.9) % 20)] as const);
      const asked = [0, 1].map(() => drops.map((drop) => places.map(([x, y]) => drop.at(x, y))));
      soups.forEach((soup, k) => {
        const oracle = inHeaps(soup, piece);
        places.forEach(([x, y], n) => {
          const tip = oracle(x, y);
          for (const round of asked) expect(Math.abs(round[k]![n]! - tip)).toBeLessThan(1e-9);
        });
      });
    });
  });

  it('a holder of stacked cones beside a wall rests its widest part that overlaps the wall on the top', () => {
    const wall = contactMesh(weld([10, -50, 30, 60, -50, 30, 60, 50, 30, 10, -50, 30, 60, 50, 30, 10, 50, 30]).mesh);
    const holder = stackProfile(
      [
        { bottomDiameter: 16, topDiameter: 24, length: 20 },
        { bottomDiameter: 40, topDiameter: 40, length: 30 },
      ],
      50,
    );
    const drop = new ProfileDrop(wall, holder);
    // the wall stands 10 mm off the axis: the cone (radius 8, slope 20 / 4) meets it 10 mm up
    expect(drop.at(0, 0)).toBeCloseTo(30 - (50 + (10 - 8) * 5), 9);
    expect(drop.at(-5, 0)).toBeCloseTo(30 - 70, 9);
    expect(drop.at(-11, 0)).toBe(-Infinity);
  });
});

describe('a piece inside its facets', () => {
  const size = fc.double({ min: 0.5, max: 8, noNaN: true });
  it('is over each place as high as the whole one so much farther out', () => {
    fc.assert(
      fc.property(size, size, fc.double({ min: 30, max: 150, noNaN: true }), fc.nat(2), (flat, more, angle, kind) => {
        const radius = flat + more;
        const piece =
          kind === 0 ? roundProfile(2 * radius, more) : pointedProfile(kind === 1 ? flat : 0, radius, angle)[0]!;
        const by = 0.2 * Math.min(flat, more);
        const inside = insideFacets(piece, by);
        for (let k = 0; k <= 20; k++) {
          const d = (k / 20) * inside.radius;
          expect(heightAt(inside, d)).toBeCloseTo(heightAt(piece, Math.min(piece.radius, d + by)), 6);
        }
      }),
    );
  });
});
