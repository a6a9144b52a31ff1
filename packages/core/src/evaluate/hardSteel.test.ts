import { describe, expect, it } from 'vitest';
import { calculated, cribOf, pathOf, squarePocket, testJob } from '../../test/shapes';
import { Motion } from '../path/toolpath';
import type { Engagement } from '../simulate/engagement';
import { hardSteelNotes } from './hardSteel';

/** Stretches of 0.4 mm with their motion and engagement angle, degrees. */
function met(stretches: readonly (readonly [motion: number, degrees: number])[]): Engagement {
  const n = stretches.length;
  const zero = new Float32Array(n);
  return {
    motion: Uint32Array.from(stretches, ([m]) => m),
    angle: Float32Array.from(stretches, ([, a]) => (a * Math.PI) / 180),
    length: new Float32Array(n).fill(0.4),
    share: zero,
    area: zero,
    surface: zero,
    width: zero,
    depth: zero,
    chip: zero,
  };
}
const words = (...of: Parameters<typeof hardSteelNotes>): string[] => hardSteelNotes(...of).map((n) => n.why);
const cutter = { DC: 10 };

describe('rules of hard steel', () => {
  it('a way straight down, one back, and a corner count in steel alone', () => {
    const path = pathOf([
      [0, 0, 5],
      [0, 0, 1, Motion.entry],
      [0, 0, -1, Motion.entry],
      [9, 0, -1],
      [9, 9, -1],
      [9, 3, -1],
      [20, 3, -1, Motion.rapid],
    ]);
    const steel = Float32Array.of(0, 0, 5, 5, 5, 5, 0);
    expect(hardSteelNotes(path, met([]), steel, cutter)).toEqual([
      { why: 'Hard steel: it goes straight down into steel once', x: 0, y: 0, z: -1 },
      { why: 'Hard steel: it stops and turns back in the cut once', x: 9, y: 9, z: -1 },
      { why: 'Hard steel: its path turns tighter than 0.50 mm in the cut 2 times', x: 0, y: 0, z: -1 },
    ]);
    expect(hardSteelNotes(path, met([]), new Float32Array(7), cutter)).toEqual([]);
  });

  it('an arc is no corner from its radius on', () => {
    const arc = (radius: number): string[] => {
      const points = Array.from({ length: 4 }, (_, k): [number, number, number] => {
        const a = (k / 3) * (Math.PI / 2) * 1.2;
        return [radius * Math.cos(a), radius * Math.sin(a), 0];
      });
      return words(pathOf(points), met([]), new Float32Array(4).fill(1), cutter);
    };
    expect(arc(0.6)).toEqual([]);
    expect(arc(0.4)).toEqual([expect.stringContaining('tighter than 0.50 mm')]);
  });

  it('what a cut meets counts where it lasts, a full slot apart, and on the way in not at all', () => {
    const path = pathOf([
      [0, 0, 0],
      [5, 0, 0],
      [9, 0, 0, Motion.entry],
      [20, 0, 0],
    ]);
    const none = new Float32Array(4);
    const angles = (...of: (readonly [number, number])[]): string[] => words(path, met(of), none, cutter);
    expect(angles([1, 90], [1, 119])).toEqual([]);
    expect(angles([1, 90], [1, 150], [1, 90])).toEqual([]);
    expect(angles([1, 90], [1, 130], [1, 150], [1, 90])).toEqual([
      'Hard steel: it meets steel over up to 150° along 0.8 mm, more than 120°',
    ]);
    expect(angles([2, 180], [2, 180], [2, 180])).toEqual([]);
    expect(angles([3, 180], [3, 175], [3, 140], [3, 140])).toEqual([
      'Hard steel: a full slot along 0.8 mm',
      'Hard steel: it meets steel over up to 140° along 0.8 mm, more than 120°',
    ]);
  });

  it('plain loops break into a pocket by a full slot, passes of steady load meet no more than they are to but on their way in', async () => {
    const crib = cribOf({ b: ['bull', 8, 1, 20, 7.6, 40] });
    const notes = async (kind: string, values: Record<string, number>): Promise<string> => {
      const job = testJob([{ kind, assemblyId: 'b', values }], 0, { cell: 0.25, crib });
      const session = await calculated(job, squarePocket(26, 18, 5, -14));
      return session.results
        .get('s1')!
        .figures.hardSteel.map((n) => n.why)
        .join('; ');
    };
    expect(await notes('level-roughing', { ap: 2.5, ae: 3.6 })).toMatch(/full slot/);
    expect(await notes('steady-roughing', { ap: 5, ae: 1.6 })).not.toMatch(/full slot|meets steel|straight down/);
  });
});
