import { describe, expect, it } from 'vitest';
import { Motion } from '../path/toolpath';
import { runControl } from './control';

/** Drilling cycles after RS274/NGC 3.5.16 (NISTIR 6556, from memory); pecks go back to 0.254 mm above the last depth. */

type Move = [x: number, y: number, z: number, kind: 'rapid' | 'feed'];

/** Moves that a program makes from X0 Y0 Z20 on. */
function movesOf(text: string, head = 'G21 G17 G90 G94 G54'): Move[] {
  const { runs, complaints } = runControl(`${head}\nT1 M6\nS1000 M3\nG0 X0 Y0 Z20\n${text}\nG80\nM30\n`);
  expect(complaints).toEqual([]);
  const { x, y, z, kind } = runs[0]!.path;
  const all = [...x].map((_, k): Move => [x[k]!, y[k]!, z[k]!, kind[k] === Motion.rapid ? 'rapid' : 'feed']);
  // two moves to one place are one
  return all.slice(2).filter((m, k) => k === 0 || m.slice(0, 3).join() !== all[k + 1]!.slice(0, 3).join());
}
const complaintsOf = (text: string): string[] =>
  runControl(`G21 G17 G90 G94\nT1 M6\nS1000 M3\nG0 X0 Y0 Z20\n${text}\nM30\n`).complaints.map((c) => c.text);
const drawn = (...moves: [number, number, number, ('rapid' | 'feed')?][]): Move[] =>
  moves.map(([x, y, z, kind]) => [x, y, z, kind ?? 'rapid']);

describe('drilling cycles', () => {
  it('G81 and G82 go over the hole, down to R, at feed to Z, and out at rapid rate', () => {
    for (const code of ['G81', 'G82'])
      expect(movesOf(`G99 ${code} X5 Y4 Z-8 R2 P0.5 F100\nX10`)).toEqual(
        drawn([5, 4, 20], [5, 4, 2], [5, 4, -8, 'feed'], [5, 4, 2], [10, 4, 2], [10, 4, -8, 'feed'], [10, 4, 2]),
      );
  });

  it('G98 goes out to where the cycle began, from hole to hole', () => {
    expect(movesOf('G98 G81 X5 Z-8 R2 F100\nX10')).toEqual(
      drawn(
        [5, 0, 20],
        [5, 0, 2],
        [5, 0, -8, 'feed'],
        [5, 0, 20],
        [10, 0, 20],
        [10, 0, 2],
        [10, 0, -8, 'feed'],
        [10, 0, 20],
      ),
    );
  });

  it('begins at R when it is called from below, and goes back to R, not below', () => {
    expect(movesOf('G0 Z1\nG98 G81 X5 Z-8 R4 F100').slice(1)).toEqual(
      drawn([0, 0, 4], [5, 0, 4], [5, 0, -8, 'feed'], [5, 0, 4]),
    );
  });

  it('G84, G85 and G89 come out of the hole at feed', () => {
    for (const code of ['G84', 'G85', 'G89'])
      expect(movesOf(`G98 ${code} X5 Z-8 R2 F100`)).toEqual(
        drawn([5, 0, 20], [5, 0, 2], [5, 0, -8, 'feed'], [5, 0, 2, 'feed'], [5, 0, 20]),
      );
    expect(movesOf('G98 G86 X5 Z-8 R2 F100').at(-1)).toEqual([5, 0, 20, 'rapid']);
  });

  it('G83 leaves the hole after each peck, G73 breaks the chip in it; the last peck ends at Z', () => {
    const [hole, over] = [movesOf('G99 G83 X5 Z-6 R1 Q3 F100'), movesOf('G99 G73 X5 Z-6 R1 Q3 F100')];
    expect(hole).toEqual(
      drawn(
        [5, 0, 20],
        [5, 0, 1],
        [5, 0, -2, 'feed'],
        [5, 0, 1],
        [5, 0, -2 + 0.254],
        [5, 0, -5, 'feed'],
        [5, 0, 1],
        [5, 0, -5 + 0.254],
        [5, 0, -6, 'feed'],
        [5, 0, 1],
      ),
    );
    expect(over).toEqual(
      drawn(
        [5, 0, 20],
        [5, 0, 1],
        [5, 0, -2, 'feed'],
        [5, 0, -2 + 0.254],
        [5, 0, -5, 'feed'],
        [5, 0, -5 + 0.254],
        [5, 0, -6, 'feed'],
        [5, 0, 1],
      ),
    );
    // a depth of whole pecks has no peck more
    expect(movesOf('G99 G83 X5 Z-5 R1 Q3 F100').filter((m) => m[3] === 'feed')).toHaveLength(2);
  });

  it('incremental: R from where it begins, Z from R, and L repeats from hole to hole', () => {
    expect(movesOf('G91 G99 G81 X5 Y1 Z-6 R-18 L3 F100')).toEqual(
      drawn(
        [5, 1, 20],
        [5, 1, 2],
        [5, 1, -4, 'feed'],
        [5, 1, 2],
        [10, 2, 2],
        [10, 2, -4, 'feed'],
        [10, 2, 2],
        [15, 3, 2],
        [15, 3, -4, 'feed'],
        [15, 3, 2],
      ),
    );
  });

  it('absolute: L drills one place again and again', () => {
    expect(movesOf('G90 G99 G81 X5 Y1 Z-6 R2 L2 F100').filter((m) => m[3] === 'feed')).toEqual(
      drawn([5, 1, -6, 'feed'], [5, 1, -6, 'feed']),
    );
  });

  it('inches: every length of a cycle, Q as well, and incremental ones', () => {
    const inch = movesOf('G20 G99 G83 X1 Z-0.5 R0.1 Q0.4 F10').filter((m) => m[3] === 'feed');
    expect(inch.map((m) => m[2])).toEqual([expect.closeTo(-0.3 * 25.4, 9), expect.closeTo(-0.5 * 25.4, 9)]);
    const from = movesOf('G20 G91 G99 G81 X1 Z-0.5 R-0.1 F10').map((m) => [m[0], m[2]]);
    expect(from[0]![0]).toBeCloseTo(25.4, 9);
    expect(from[1]![1]).toBeCloseTo(20 - 2.54, 9);
    expect(from[2]![1]).toBeCloseTo(20 - 0.6 * 25.4, 9);
  });

  it('what is modal stays from hole to hole, and begins anew with another cycle', () => {
    expect(movesOf('G99 G83 X5 Z-4 R1 Q9 F100\nX9 Z-6').filter((m) => m[3] === 'feed')).toEqual(
      drawn([5, 0, -4, 'feed'], [9, 0, -6, 'feed']),
    );
    expect(complaintsOf('G81 X5 Z-4 R1 F100\nG80\nG81 X9')[0]).toMatch(/needs R, and Z below it/);
    // from one cycle to another what was said holds
    expect(complaintsOf('G81 X5 Z-4 R1 F100\nG82 X9')).toEqual([]);
  });

  it('without R, with Z above it, without a peck or out of the XY plane are errors', () => {
    expect(complaintsOf('G81 X5 Z-4 F100')[0]).toMatch(/needs R/);
    expect(complaintsOf('G81 X5 Z4 R2 F100')[0]).toMatch(/Z below it/);
    expect(complaintsOf('G81 X5 Z2 R2 F100')).toEqual([]);
    for (const code of ['G83', 'G73'])
      for (const peck of ['', 'Q0', 'Q-1'])
        expect(complaintsOf(`${code} X5 Z-4 R2 ${peck} F100`)[0]).toMatch(/needs a peck/);
    expect(complaintsOf('G18 G81 X5 Z-4 R2 F100')[0]).toMatch(/XY plane/);
    expect(complaintsOf('G81 R2 Z-4 F100\nG80\nX4')[0]).toMatch(/after G80/);
    expect(complaintsOf('G81')[0]).toMatch(/without where it drills/);
  });
});

describe('words of a block', () => {
  it('arcs take I, J, K and R in the program’s unit, end where they began without an end, and need one or a centre', () => {
    const arc = movesOf('G20 G2 I1 F10');
    expect(Math.max(...arc.map((m) => m[0]))).toBeCloseTo(50.8, 2);
    for (const [plane, centre] of [
      ['G17', 'J1'],
      ['G18', 'K1'],
      ['G19', 'J1'],
    ])
      expect(movesOf(`${plane} G3 ${centre} F100`).length).toBeGreaterThan(20);
    for (const code of ['G2', 'G3']) expect(complaintsOf(`${code} F100`)[0]).toMatch(/without end or centre/);
    expect(movesOf('G20 G2 X2 R1 F10').at(-1)!.slice(0, 2)).toEqual([50.8, 0]);
  });

  it('G91 adds to where the cutter is, in the program’s unit, and G90 ends it', () => {
    expect(movesOf('G20 G91 G0 X1 Y-1\nX1\nG90 Y2').map((m) => m.slice(0, 2))).toEqual([
      [25.4, -25.4],
      [50.8, -25.4],
      [50.8, 50.8],
    ]);
  });

  it('a dwell is no motion, whatever stands with it', () => {
    expect(movesOf('G1 X1 F100\nG4 P2\nX2')).toEqual(drawn([1, 0, 20, 'feed'], [2, 0, 20, 'feed']));
  });

  it.each([
    ['M12', /M12 is not known/],
    ['G93', /Inverse time/],
    ['G41 X1', /G41 without the number of its offset/],
    ['G42 X1', /G42 without the number of its offset/],
    ['G17 G18 X1', /G17 and G18 exclude/],
    ['G53 G0 G1 Z0', /G0 and G1 exclude/],
    ['G1 X1 F0', /above 0/],
    ['G1 X1 F-5', /above 0/],
    ['M5\nS0 M3', /without a speed/],
    ['G28 X5\nG53 G0 Z5', /not known: only its reference height/],
  ])('%s is an error', (text, message) => {
    expect(complaintsOf(text).join()).toMatch(message);
  });

  it('a cutter is called by the last T, and the length of the one before it ends', () => {
    const { runs, changes } = runControl(
      'G21 G90 G94\nT4\nM6\nS900 M3\nG43 H4 Z5\nG0 X1\nT7\nX2\nM6\nS900 M3\nX3\nM30\n',
    );
    expect(changes.map((c) => c.tool)).toEqual([4, 7]);
    expect(runs.map((r) => r.tool)).toEqual([4, 7]);
    expect(runs[1]!.modes.at(-1)!.lengthOffset).toBeUndefined();
  });

  it('feed is taken in the program’s unit', () => {
    const { runs } = runControl('G20 G90 G94\nT1 M6\nS900 M3\nG1 X1 F10\nM30\n');
    expect(runs[0]!.path.feed.at(-1)).toBeCloseTo(254, 4);
  });

  it('what stands after the end is not run', () => {
    expect(movesOf('G0 X1\nM30\nG0 X2').at(-1)![0]).toBe(1);
    expect(movesOf('G0 X1\nM2\nG0 X2').at(-1)![0]).toBe(1);
  });
});
