import type { HeightMap } from '@esquisse/core';
import fc from 'fast-check';
import type { BufferAttribute, BufferGeometry } from 'three';
import { describe, expect, it } from 'vitest';
import { SteelDrawing } from '../engine/display';
import { colourSteel, reshapeSteel, steelGeometry } from './steelMesh';
import type { Rgb } from './palette';

const NX = 24;
const NY = 17;
const mapOf = (heights: ArrayLike<number>): HeightMap =>
  ({ x0: -3, y0: 2, cell: 0.5, nx: NX, ny: NY, floor: -10, heights: Float32Array.from(heights) }) as HeightMap;
const PARTS = ['position', 'shade', 'color'] as const;

function valuesOf(geometry: BufferGeometry): unknown {
  const { count } = geometry.drawRange;
  return [
    count,
    [...geometry.getIndex()!.array.slice(0, count)],
    PARTS.map((p) => [...geometry.getAttribute(p).array]),
  ];
}

/** What the graphics have after the ranges that are marked were sent to them. */
function sent(before: ArrayLike<number>, attribute: BufferAttribute): number[] {
  const at = Array.from(before);
  for (const { start, count } of attribute.updateRanges)
    for (let k = start; k < start + count; k++) at[k] = attribute.array[k]!;
  return at;
}

const colour = (height: number): Rgb => [Math.min(1, -height / 10), 0.5, 0.25];
const SIDE: Rgb = [0, 0, 0];

describe('steel that is drawn', () => {
  it('of another state only what changed is sent, and what is drawn is that state', () => {
    const height = fc.constantFrom(0, -1, -4, -10);
    const states = fc.array(height, { minLength: NX * NY, maxLength: NX * NY });
    const cuts = fc.array(fc.tuple(fc.nat(NX * NY - 1), height), { maxLength: 9 });
    fc.assert(
      fc.property(states, cuts, (state, cut) => {
        const drawing = new SteelDrawing();
        const first = drawing.of(mapOf(state));
        const geometry = steelGeometry(first);
        colourSteel(geometry, first, colour, SIDE);
        const parts = [geometry.getIndex()!, ...PARTS.map((p) => geometry.getAttribute(p) as BufferAttribute)];
        const before = parts.map((a) => a.array.slice());
        for (const attribute of parts) attribute.clearUpdateRanges();
        const next = [...state];
        for (const [k, h] of cut) next[k] = h;
        const second = drawing.of(mapOf(next));
        reshapeSteel(geometry, second);
        colourSteel(geometry, second, colour, SIDE);
        const made = steelGeometry(new SteelDrawing().of(mapOf(next)));
        colourSteel(made, second, colour, SIDE);
        expect(valuesOf(geometry)).toEqual(valuesOf(made));
        parts.forEach((attribute, k) => expect(sent(before[k]!, attribute)).toEqual([...attribute.array]));
      }),
      { numRuns: 60 },
    );
  });

  it('a cut at one place sends a few rows, the same state nothing', () => {
    const drawing = new SteelDrawing();
    const flat = new Array<number>(NX * NY).fill(0);
    const geometry = steelGeometry(drawing.of(mapOf(flat)));
    const position = geometry.getAttribute('position') as BufferAttribute;
    position.clearUpdateRanges();
    reshapeSteel(geometry, drawing.of(mapOf(flat)));
    expect(position.updateRanges).toEqual([]);
    const at = 8 * NX + 12;
    reshapeSteel(geometry, drawing.of(mapOf(flat.map((h, k) => (k === at ? -2 : h)))));
    expect(position.updateRanges).toEqual([{ start: 3 * at + 2, count: 1 }]);
  });
});
