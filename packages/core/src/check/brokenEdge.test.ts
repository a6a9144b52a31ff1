import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { heightAt, insideFacets, pointedProfile, roundProfile } from '../tool/profile';
import { besideEdges, edgesOf } from './brokenEdge';

const sizes = fc.record({
  tip: numberIn(0, 1),
  radius: fc.double({ min: 4, max: 8, noNaN: true }),
  angle: fc.double({ min: 50, max: 130, noNaN: true }),
  below: fc.double({ min: 0.1, max: 0.8, noNaN: true }),
  depth: fc.double({ min: 0.1, max: 0.8, noNaN: true }),
});

describe('a point that breaks edges', () => {
  it('stays out of the part as it is, but for what it takes of an edge: there it may be as deep as that', () => {
    fc.assert(
      fc.property(sizes, numberIn(0, 1), ({ tip, radius, angle, below, depth }, at) => {
        const piece = pointedProfile(tip, radius, angle)[0]!;
        const parts = besideEdges(piece, { below, depth });
        const d = at * radius;
        const height = heightAt(piece, d);
        const lowest = Math.min(...parts.map((part) => heightAt(part, d)));
        const isTaken = height > below + 1e-9 && height < below + depth - 1e-9;
        const isKept = height < below - 1e-9 || height > below + depth + 1e-9;
        // what is wider higher up keeps out from where it begins, and all within it
        if (isTaken) expect(lowest).toBeCloseTo(below + depth, 9);
        if (isKept) expect(lowest).toBeCloseTo(height, 9);
      }),
    );
  });

  it('other cutters keep out as they are, or by facets that they may stand in', () => {
    const round = roundProfile(8, 1);
    expect(besideEdges(round, { below: 1, depth: 1 })).toEqual([round]);
    expect(edgesOf(round, {})).toEqual([round]);
    expect(edgesOf(round, { facetDepth: 0 })).toEqual([round]);
    expect(edgesOf(round, { facetDepth: 0.1 })).toEqual([insideFacets(round, 0.1)]);
    const point = pointedProfile(0, 5, 90)[0]!;
    const broken = { below: 0.5, depth: 0.4 };
    expect(edgesOf(point, { facetDepth: 0.1, broken })).toEqual(besideEdges(point, broken));
  });
});
