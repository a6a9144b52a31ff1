import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { sweepArc } from './arcSweep';
import { blockMap, volumeOfMap } from './heightMap';
import { Sweep } from './sweep';

type Round = RoundPiece;

describe('sweep of an arc or helix', () => {
  const cutters = [roundProfile(6, 0), roundProfile(6, 3), roundProfile(8, 1.5)] as Round[];
  const block = (cell: number) => blockMap({ minX: -20, minY: -18, minZ: -25, maxX: 20, maxY: 18, maxZ: 0 }, cell);

  const share = (low: number, high: number) =>
    fc.integer({ min: 0, max: 9973 }).map((n) => low + ((high - low) * n) / 9973);

  it('lowers each cell as very many short straight moves along it do', () => {
    fc.assert(
      fc.property(
        fc.nat(2),
        share(0.5, 9),
        share(-14, 14),
        share(-8, -1),
        share(-5, 5),
        share(0, 6.28),
        (c, radius, turn, fromZ, rise, begin) => {
          const [centreX, centreY] = [0.123, -0.456];
          const at = (t: number): [number, number, number] => [
            centreX + radius * Math.cos(begin + t * turn),
            centreY + radius * Math.sin(begin + t * turn),
            fromZ + t * rise,
          ];
          const [fromX, fromY] = at(0);
          const arc = new Sweep(block(0.7), cutters[c]!);
          sweepArc(arc, cutters[c]!, {
            centreX,
            centreY,
            fromX,
            fromY,
            fromZ,
            toZ: fromZ + rise,
            turn,
          });
          const n = Math.ceil(Math.abs(turn) * 400) + 1;
          const sweep = new Sweep(block(0.7), cutters[c]!);
          for (let k = 0; k < n; k++) sweep.move(...at(k / n), ...at((k + 1) / n));
          const [whole, chords] = [arc.map, sweep.map];
          let off = 0;
          whole.heights.forEach((h, o) => {
            // a cell that the rim just grazes is reached or not by a chord’s sagitta of 7e-6 mm
            if (Math.abs(h - chords.heights[o]!) > 0.03) off++;
          });
          // a rim that grazes a cell within the chords' sagitta; and what that sagitta takes along the whole way
          expect(off).toBeLessThanOrEqual(3);
          expect(Math.abs(volumeOfMap(whole) - volumeOfMap(chords))).toBeLessThan(0.1 + 0.7 * 0.7 * 25 * off);
        },
      ),
      { numRuns: 60, seed: 42 },
    );
  });

  it('a level full circle of a flat cutter takes off a ring of its width, and a helix goes below its own start', () => {
    const around = new Sweep(block(0.05), cutters[0]!);
    sweepArc(around, cutters[0]!, {
      centreX: 0,
      centreY: 0,
      fromX: 8,
      fromY: 0,
      fromZ: -2,
      toZ: -2,
      turn: 2 * Math.PI,
    });
    const wanted = Math.PI * (11 * 11 - 5 * 5) * 2;
    const ring = around.map;
    expect(40 * 36 * 25 - volumeOfMap(ring)).toBeGreaterThan(0.998 * wanted);
    expect(40 * 36 * 25 - volumeOfMap(ring)).toBeLessThan(1.002 * wanted);

    const down = new Sweep(block(0.25), cutters[0]!);
    sweepArc(down, cutters[0]!, {
      centreX: 0,
      centreY: 0,
      fromX: 2,
      fromY: 0,
      fromZ: 0,
      toZ: -6,
      turn: -6 * Math.PI,
    });
    // after three turns down by 2 mm each the middle was touched last on the last turn
    const well = down.map;
    const middle = well.heights[Math.floor(well.ny / 2) * well.nx + Math.floor(well.nx / 2)]!;
    expect(middle).toBeCloseTo(-6, 1);
  });
});
