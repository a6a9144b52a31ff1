import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { isoLines } from './isoLines';
import { march } from './march';
import { netEdges } from './netEdges';

/** A net over a square whose inner vertices are moved about, stretched along X so that it has obtuse corners. */
function net(n: number, shake: readonly number[], stretch: number) {
  const at: [number, number][] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const isInner = i > 0 && j > 0 && i < n && j < n;
      const by = (k: number): number => (isInner ? 0.35 * shake[(2 * at.length + k) % shake.length]! : 0);
      at.push([stretch * (i + by(0)), j + by(1)]);
    }
  const triangles: number[] = [];
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const o = j * (n + 1) + i;
      if ((i + j) % 3 === 0) triangles.push(o, o + 1, o + n + 2, o, o + n + 2, o + n + 1);
      else triangles.push(o, o + 1, o + n + 1, o + 1, o + n + 2, o + n + 1);
    }
  const length = (a: number, b: number): number => Math.hypot(at[a]![0] - at[b]![0], at[a]![1] - at[b]![1]);
  return { at, count: at.length, triangles: Uint32Array.from(triangles), length };
}

const shake = fc.array(numberIn(-0.6, 0.6), { minLength: 40, maxLength: 80 });
const stretch = fc.double({ min: 1, max: 1.6, noNaN: true });

describe('marching over a net', () => {
  it('from a straight border it comes to every vertex at its distance from it', () => {
    const border = (by: readonly number[], wide: number) => {
      const n = 12;
      const { at, ...flat } = net(n, by, wide);
      const { phi } = march(flat, new Float64Array(at.length).fill(Infinity).fill(0, 0, n + 1));
      return at.map(([, y], v) => ({ y, late: phi[v]! - y }));
    };
    fc.assert(
      fc.property(shake, stretch, (by, wide) => {
        // vertices moved by a tenth of an edge
        const mild = border(
          by.map((b) => 0.3 * b),
          wide,
        );
        // never too early
        expect(Math.min(...mild.map(({ late }) => late))).toBeGreaterThan(-1e-9);
        expect(Math.max(...mild.map(({ late }) => late))).toBeLessThan(0.25);
        // where no front can be followed through two known corners it comes along edges, a little late
        expect(mild.reduce((sum, { late }) => sum + late, 0) / mild.length).toBeLessThan(0.04);
        // by a third of one
        for (const { y, late } of border(by, wide)) {
          expect(late).toBeGreaterThan(-1e-9);
          expect(late).toBeLessThan(0.1 * y + 0.3);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('from a corner it is never nearer than the straight way, and farther by a tenth at most', () => {
    fc.assert(
      fc.property(shake, stretch, (by, wide) => {
        const { at, ...flat } = net(20, by, wide);
        const { phi } = march(flat, new Float64Array(at.length).fill(Infinity).fill(0, 0, 1));
        at.forEach(([x, y], v) => {
          expect(phi[v]!).toBeGreaterThan(Math.hypot(x, y) - 1e-9);
          expect(phi[v]!).toBeLessThan(1.1 * Math.hypot(x, y) + 0.3);
        });
      }),
      { numRuns: 30 },
    );
  });

  it('what no seed is joined to is not come to', () => {
    const triangles = Uint32Array.of(0, 1, 2, 3, 4, 5);
    const { phi, from } = march(
      { count: 6, triangles, length: () => 1 },
      Float64Array.of(0, Infinity, Infinity, Infinity, Infinity, Infinity),
    );
    expect([...phi]).toEqual([0, 1, 1, Infinity, Infinity, Infinity]);
    expect([...from.subarray(6)]).toEqual([-1, -1, -1, -1, -1, -1]);
  });
});

describe('edges of a net', () => {
  it('of a square are as many as Euler has them, each at two triangles but those of the border', () => {
    const n = 7;
    const { count, triangles } = net(n, [0], 1);
    const { ends, ofTriangle, uses } = netEdges(count, triangles);
    expect(count - ends.length / 2 + triangles.length / 3).toBe(1);
    expect([...uses].filter((u) => u === 1)).toHaveLength(4 * n);
    expect([...uses].every((u) => u === 1 || u === 2)).toBe(true);
    ofTriangle.forEach((e, o) => {
      const pair = [triangles[o]!, triangles[o % 3 === 2 ? o - 2 : o + 1]!].sort((a, b) => a - b);
      expect([ends[2 * e]!, ends[2 * e + 1]!]).toEqual(pair);
    });
  });
});

describe('lines of one value', () => {
  it('lie where the value is theirs, cross every edge as often as it is passed, and end on the border only', () => {
    fc.assert(
      fc.property(shake, fc.double({ min: 0.3, max: 3, noNaN: true }), (by, steep) => {
        const n = 10;
        const { at, count, triangles } = net(n, by, 1);
        const edges = netEdges(count, triangles);
        const values = Float64Array.from(at, ([x, y]) => steep * Math.hypot(x - 4.3, y - 5.1) - 0.37);
        const lines = isoLines(edges, values);
        let crossings = 0;
        for (const { level, isClosed, edges: own, shares } of lines) {
          own.forEach((e, k) => {
            const [p, q] = [values[edges.ends[2 * e]!]!, values[edges.ends[2 * e + 1]!]!];
            expect(p + shares[k]! * (q - p)).toBeCloseTo(level, 9);
          });
          crossings += own.length;
          if (isClosed) continue;
          for (const end of [own[0]!, own[own.length - 1]!]) expect(edges.uses[end]).toBe(1);
        }
        let passed = 0;
        for (let e = 0; e < edges.uses.length; e++) {
          const [p, q] = [values[edges.ends[2 * e]!]!, values[edges.ends[2 * e + 1]!]!].sort((a, b) => a - b) as [
            number,
            number,
          ];
          for (let level = 1; level <= q; level++) if (p < level) passed++;
        }
        expect(crossings).toBe(passed);
      }),
    );
  });
});
