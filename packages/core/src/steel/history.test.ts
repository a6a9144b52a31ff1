import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { numberIn } from '../../test/numberIn';
import { type RoundPiece, roundProfile } from '../tool/profile';
import { blockMap, copyMap } from './heightMap';
import { HistoryWriter, restoreBand } from './history';
import { SteelMemory } from './steelMemory';
import { Sweep } from './sweep';

describe('history of the steel', () => {
  const place = fc.tuple(numberIn(-20, 20), numberIn(-9, 9));

  it('gives the band back as it was at any mark, also when marks were given up for want of memory', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 12, maxLength: 40 }), fc.integer({ min: 6, max: 400 }), (way, most) => {
        const block = blockMap({ minX: -21, minY: -10, minZ: -9, maxX: 21, maxY: 10, maxZ: 0 }, 0.5);
        const map = copyMap(block);
        const rows = [16, 32] as const;
        const memory = new SteelMemory(map, ...rows, HistoryWriter.BYTES);
        const sweep = new Sweep(map, roundProfile(5, 2.5) as RoundPiece, ...rows, 0, memory);
        const writer = new HistoryWriter(sweep, most);
        const states: Float32Array[] = [map.heights.slice()];
        for (let k = 1; k < way.length; k++) {
          writer.mark(k);
          sweep.move(...way[k - 1]!, -0.1 * k, ...way[k]!, -0.1 * k - 0.05);
          sweep.store();
          states.push(map.heights.slice());
        }
        const history = writer.finish();
        expect(history.marks.length).toBeGreaterThan(0);
        for (let motion = 0; motion < way.length; motion++) {
          const restored = copyMap(block);
          const from = restoreBand(restored, history, motion);
          expect(from).toBeLessThanOrEqual(motion);
          expect(restored.heights).toEqual(states[Math.max(0, from - 1)]);
        }
        // the nearest kept mark is the one found
        for (const mark of history.marks) expect(restoreBand(copyMap(block), history, mark)).toBe(mark);
      }),
      { numRuns: 20, seed: 4 },
    );
  });
});
