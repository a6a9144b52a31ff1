import parser from 'gcode-parser';
import { describe, expect, it } from 'vitest';
import { postedPath } from '../evaluate/result';
import { Motion, PathBuilder } from '../path/toolpath';
import { arcPoints } from './arc';
import { runControl } from './control';
import { parsePost, POSTS } from './definition';
import { readBlocks } from './words';
import { testCrib } from '../../test/shapes';
import { toolOf } from '../tool/library';
import { writeProgram } from './writer';

/** Rules of the word-address language after RS274/NGC (NISTIR 6556, from memory) and ISO 6983-1. */

const HEAD = 'G21 G17 G90 G94\nG53 G0 Z0\nT1 M6\nS1000 M3\n';
const ends = (text: string): [number, number, number] => {
  const { runs, complaints } = runControl(`${HEAD}${text}\nM30\n`);
  expect(complaints).toEqual([]);
  const path = runs[0]!.path;
  const n = path.x.length - 1;
  return [path.x[n]!, path.y[n]!, path.z[n]!];
};
const complaintsOf = (text: string): string[] => runControl(`${HEAD}${text}\nM30\n`).complaints.map((c) => c.text);

describe('simulated control', () => {
  it('keeps motion, units and distance mode from block to block', () => {
    expect(ends('G0 X10 Y5 Z2\nG1 X20 F100\nY7\nG91 X1 Z-1\nX1')).toEqual([22, 7, 1]);
    expect(ends('G20 G0 X1 Y1 Z1')).toEqual([25.4, 25.4, 25.4]);
  });

  it('reads numbers with and without points, signs, blanks, small letters, comments and skipped blocks', () => {
    expect(ends('g0x-.5y+3.z 2 (there) ; and here\n/ N20 G1 X1.5 F50')).toEqual([1.5, 3, 2]);
  });

  it('an arc by centre and the same arc by radius end at the same place and stay on the circle', () => {
    for (const words of ['G2 X10 Y0 I0 J-10', 'G2 X10 Y0 R10', 'G3 X10 Y0 R-10']) {
      const { runs, complaints } = runControl(`${HEAD}G0 X0 Y10 Z0\n${words} F100\nM30\n`);
      expect(complaints).toEqual([]);
      const { x, y, kind } = runs[0]!.path;
      kind.forEach((k, i) => {
        if (k === Motion.cut) expect(Math.hypot(x[i]!, y[i]!)).toBeCloseTo(10, 6);
      });
      expect(x[x.length - 1]).toBe(10);
      expect(y[y.length - 1]).toBe(0);
    }
    const half = arcPoints([0, 0, 0], [20, 0, 5], true, 17, { I: 10 });
    for (const p of half) expect(Math.hypot(p[0] - 10, p[1])).toBeCloseTo(10, 9);
    expect(half.some((p) => p[1] > 9.9)).toBe(true);
    expect(half.at(-1)).toEqual([20, 0, 5]);
  });

  it('a full circle needs its centre, in each of the three planes', () => {
    const circle = arcPoints([5, 0, 1], [5, 0, 1], false, 17, { I: -5 });
    const length = circle.reduce((sum, p, k) => {
      const q = k === 0 ? ([5, 0, 1] as const) : circle[k - 1]!;
      return sum + Math.hypot(p[0] - q[0], p[1] - q[1]);
    }, 0);
    expect(length).toBeCloseTo(2 * Math.PI * 5, 1);
    for (const p of arcPoints([0, 0, 5], [0, 0, 5], false, 18, { K: -5 }))
      expect(Math.hypot(p[0], p[2])).toBeCloseTo(5, 9);
    for (const p of arcPoints([0, 5, 0], [0, 5, 0], true, 19, { J: -5 }))
      expect(Math.hypot(p[1], p[2])).toBeCloseTo(5, 9);
  });

  it('an arc whose radii disagree, without centre, or of radius 0 is an error', () => {
    expect(complaintsOf('G0 X0 Y0 Z0\nG2 X10 Y0 I4 F100')[0]).toMatch(/radius is 4.0000 mm at its start and 6.0000/);
    expect(complaintsOf('G0 X0 Y0 Z0\nG2 X10 Y0 F100')[0]).toMatch(/centre/);
    expect(complaintsOf('G0 X0 Y0 Z0\nG2 X10 Y0 R3 F100')[0]).toMatch(/more than twice its radius/);
  });

  it('two words of one modal group, unknown words, a missing feed and a spindle at rest are errors', () => {
    expect(complaintsOf('G0 G1 X1 F100')[0]).toMatch(/exclude each other/);
    expect(complaintsOf('G0 X1 W3')[0]).toMatch(/W is not known/);
    expect(complaintsOf('G64 X1')[0]).toMatch(/G64 is not known/);
    expect(complaintsOf('G1 X1')[0]).toMatch(/without a feed/);
    expect(complaintsOf('M5\nG1 X1 F100')[0]).toMatch(/at rest/);
    expect(complaintsOf('G0 X1 X2')[0]).toMatch(/twice/);
  });

  it('tells what is in force during every motion: offsets, plane, spindle, coolant', () => {
    const { runs, complaints } = runControl(
      `${HEAD}G55\nG0 G43 H7 X1 Z10\nM8\nG1 Z0 F100\nG43 H8 S1200 M4 X5\nG18 X6 M9\nG49 X7\nM5\nG0 X8\nM30\n`,
    );
    expect(complaints).toEqual([]);
    const modes = runs[0]!.modes
      .slice(1)
      .map((m) => [m.workOffset, m.lengthOffset, m.plane, m.n, m.spindle, m.coolant]);
    expect(modes).toEqual([
      [55, 7, 17, 1000, 'forward', []],
      [55, 7, 17, 1000, 'forward', ['M8']],
      [55, 8, 17, 1200, 'reverse', ['M8']],
      [55, 8, 18, 1200, 'reverse', ['M8']],
      [55, undefined, 18, 1200, 'reverse', []],
      [55, undefined, 18, 1200, 'stopped', []],
    ]);
    expect(complaintsOf('G0 G43 Z10')).toEqual(['A length offset (G43) without its number (H).']);
  });

  it('tells of every change of the cutter whether the spindle stands at the top, and what still runs', () => {
    const { changes, complaints } = runControl(
      `${HEAD}G0 X1\nM8\nT2 M6\nS900 M3\nM9\nM5\nG28\nT3 M6\nG0 X2\nT4 M6\nM30\n`,
    );
    expect(complaints).toEqual([]);
    expect(changes.map((c) => [c.tool, c.isHome, c.modes.spindle, c.modes.coolant])).toEqual([
      [1, true, 'stopped', []],
      [2, false, 'forward', ['M8']],
      [3, true, 'stopped', []],
      [4, false, 'stopped', []],
    ]);
    expect(complaintsOf('G53 G0 Z-120')[0]).toMatch(/is not known: only its reference height/);
    // RS274/NGC 3.5.12: with G0 (or G1) only
    for (const motion of ['G2', 'G81', 'G1'])
      expect(complaintsOf(`G53 ${motion} Z0`)[0]).toMatch(/at rapid rate \(G0\) only/);
  });

  it('tells what a program leaves to the state that the control is in', () => {
    const said = (head: string): readonly string[] => runControl(`${head}\nT1 M6\nS500 M3\nG0 X1\nM30`).unsaid;
    expect(said('G21 G17 G40 G49 G90 G94')).toEqual([]);
    expect(said('G17 G40 G49 G90 G94')).toEqual(['mm or inch (G21, G20)']);
    expect(said('G20 G17 G40 G49 G94')[0]).toMatch(/absolute/);
    expect(said('G20 G40 G49 G90 G94')[0]).toMatch(/plane/);
    expect(said('G20 G17 G49 G90 G94')[0]).toMatch(/radius/);
    expect(said('G20 G17 G40 G90 G94')[0]).toMatch(/length/);
    expect(said('')).toHaveLength(6);
  });

  it('compensates the cutter radius from one straight feed motion in the plane to another, and says what is wrong else', () => {
    const straight = 'G0 X0 Y0 Z0\nG41 D4 G1 X5 F100\nY9\nG40 X0';
    const { runs, complaints } = runControl(`${HEAD}${straight}\nM30\n`);
    expect(complaints).toEqual([]);
    const { path, modes } = runs[0]!;
    // its offset holds nothing: the way is that of the words
    expect([...path.x].slice(-3)).toEqual([5, 5, 0]);
    expect(modes.map((m) => m.radius).slice(-3)).toEqual([
      { side: 'left', offset: 4 },
      { side: 'left', offset: 4 },
      undefined,
    ]);
    expect(complaintsOf('G0 X0 Y0 Z0\nG42 D1 G1 X5 Y5 F100\nG40 Y0')).toEqual([]);
    for (const [words, wrong] of [
      ['G41 G1 X5 F100\nG40 X0', /number of its offset/],
      ['G41 D1 G1 Z-1 F100\nG1 X5\nG40 X0', /begins on a straight/],
      ['G41 D1 G0 X5\nG1 Y5 F100\nG40 X0', /begins on a straight/],
      ['G41 D1 G2 X5 R5 F100\nG40 G1 X0', /begins on a straight/],
      ['G18 G41 D1 G1 X5 F100\nG40 X0', /XY plane/],
      ['G41 D1 G1 X5 F100\nG42 D1 Y5\nG40 X0', /compensated already/],
      ['G41 D1 G1 X5 F100\nG40 Z5', /ends \(G40\) on a straight/],
      ['G41 D1 G1 X5 F100\nG0 Y5\nG40 G1 X0', /rapid while/],
      ['G41 D1 G1 X5 F100\nG53 G0 Z0', /rapid while/],
      ['G41 D1 G1 X5 F100', /program ends while/],
      ['G41 D1 G1 X5 F100\nT2 M6', /changed while/],
    ] as const)
      expect(complaintsOf(`G0 X0 Y0 Z0\n${words}`).join(' ')).toMatch(wrong);
  });

  it('a program without an end is told', () => {
    expect(runControl(`${HEAD}G0 X1\n`).complaints[0]!.text).toMatch(/M30/);
  });

  it('G81 drills to Z and goes back to R with G99, to where it began with G98', () => {
    const run = (back: string) => runControl(`${HEAD}G0 X0 Y0 Z20\n${back} G81 X5 Y5 Z-8 R2 F100\nX10\nG80\nM30\n`);
    for (const [back, top] of [
      ['G99', 2],
      ['G98', 20],
    ] as const) {
      const { runs, complaints } = run(back);
      expect(complaints).toEqual([]);
      const { x, z, kind } = runs[0]!.path;
      expect(z[z.length - 1]).toBe(top);
      expect(x[x.length - 1]).toBe(10);
      expect(Math.min(...z)).toBe(-8);
      expect([...kind].filter((k) => k === Motion.cut)).toHaveLength(2);
    }
  });

  it('G83 pecks in depths of Q, leaving the hole each time', () => {
    const { runs } = runControl(`${HEAD}G0 X0 Y0 Z20\nG99 G83 Z-7 R1 Q3 F100\nX0 Y0\nG80\nM30\n`);
    const { z, kind } = runs[0]!.path;
    const bottoms = [...z].filter((_, i) => kind[i] === Motion.cut);
    expect(bottoms.slice(0, 3)).toEqual([-2, -5, -7]);
  });

  it('text that is not words is refused with its line', () => {
    expect(() => readBlocks('G0 X1\nG0 X#3')).toThrowError(/Line 2/);
    expect(() => readBlocks('G0 X1 (open')).toThrowError(/Line 1: a bracket/);
  });
});

describe('posted text', () => {
  const path = new PathBuilder();
  path.to(1, 2, 20, Motion.rapid);
  path.to(1, 2, -0.0004, Motion.entry);
  for (let k = 0; k < 60; k++)
    path.to(10 * Math.cos(k / 7), 10 * Math.sin(k / 9), -k / 13, k % 9 ? Motion.cut : Motion.link);
  path.to(0, 0, 20, Motion.rapid);
  const tool = toolOf(testCrib(), 't3')!;
  const planned = postedPath(path.build(), { vf: 1200, entry: 400, plunge: 300, link: 1500, back: 2000 }, NaN, NaN);
  const posted = writeProgram(
    { name: 'Prüfling (1)', number: null, workOffset: 'G55' },
    [{ name: 'Finish', note: '', tool, n: tool.assembly.n, coolant: 'flood', path: planned }],
    POSTS[0]!,
  );

  it('gives the same words to an independent parser from the package registry (gcode-parser)', () => {
    const theirs = parser
      .parseStringSync(posted.text)
      .map((line) => line.words.map(([letter, value]) => `${String(letter)}${Number(value)}`))
      .filter((words) => words.length > 0 && !words[0]!.startsWith('%'));
    const ours = readBlocks(posted.text).map((b) => b.words.map((w) => `${w.letter}${w.value}`));
    expect(ours).toEqual(theirs);
    expect(ours.length).toBeGreaterThan(60);
  });

  it('read back gives the planned points within half a unit of the last place, each on its line', () => {
    const { runs, complaints } = runControl(posted.text);
    expect(complaints).toEqual([]);
    expect(runs[0]!.tool).toBe(3);
    const lines = posted.text.split('\n');
    for (let i = 1; i < planned.x.length; i++) {
      const line = posted.lines[0]![i]!;
      if (line === 0) continue;
      const at = runs[0]!.lines.indexOf(line);
      expect(lines[line - 1]).toMatch(/[XYZ]/);
      expect(Math.abs(runs[0]!.path.x[at]! - planned.x[i]!)).toBeLessThanOrEqual(0.00051);
      expect(Math.abs(runs[0]!.path.z[at]! - planned.z[i]!)).toBeLessThanOrEqual(0.00051);
    }
  });

  it('has only plain characters in its comments, and never writes minus nought', () => {
    expect(posted.text).not.toMatch(/[^\x20-\x7e\n]/);
    expect(posted.text).not.toMatch(/-0\.000\b/);
    expect(posted.text).not.toMatch(/\([^)]*\(/);
  });

  it('a post definition with an unknown symbol or field out of range is refused with its place', () => {
    expect(() => parsePost({ ...POSTS[0], start: ['{tooth}'] })).toThrowError(/start.0: \{tooth\} means nothing/);
    expect(() => parsePost({ ...POSTS[0], decimals: 9 })).toThrowError(/decimals/);
  });
});
