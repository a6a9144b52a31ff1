import { describe, expect, it } from 'vitest';
import { cribOf, pathOf } from '../../test/shapes';
import { Motion } from '../path/toolpath';
import type { Coolant } from '../tool/coolants';
import { toolOf } from '../tool/library';
import { parsePost, postOf, POSTS } from './definition';
import { LONGEST_PROGRAM, readBlocks } from './words';
import { type PostedStep, writeProgram } from './writer';

const crib = cribOf({ a: ['flat', 10, 0, 20, 9, 40], b: ['ball', 6, 3, 12, 5, 40] });
const step = (
  name: string,
  id: 'a' | 'b',
  points: Parameters<typeof pathOf>[0],
  { feed = 1000, coolant = 'flood' as Coolant, note = '' } = {},
): PostedStep => {
  const path = pathOf(points);
  const tool = toolOf(crib, id)!;
  return { name, note, tool, n: tool.assembly.n, coolant, path: { ...path, feed: path.feed.fill(feed) } };
};
const program = { name: 'P1', number: null, workOffset: 'G54' };
const square = (z: number): Parameters<typeof pathOf>[0] => [
  [0, 0, 20, Motion.rapid],
  [0, 0, z, Motion.entry],
  [10, 0, z],
  [10, 0, z],
  [10, 5, z],
  [10, 5, 20, Motion.rapid],
];
const post = POSTS[0]!;
const linesOf = (steps: PostedStep[], definition = post): string[] =>
  writeProgram(program, steps, definition).text.trimEnd().split('\n');

describe('program writer', () => {
  it('writes what changes, and nothing twice: motion, axes and feed are modal', () => {
    const lines = linesOf([step('One', 'a', square(-1))]);
    expect(lines.slice(lines.indexOf('M8') + 1, lines.indexOf('M9'))).toEqual([
      'G1 Z-1.000 F1000',
      'X10.000',
      'Y5.000',
      'G0 Z20.000',
    ]);
  });

  it('gives each motion the line that ends it, and none to one that goes nowhere', () => {
    const posted = writeProgram(program, [step('One', 'a', square(-1))], post);
    const text = posted.text.split('\n');
    expect([...posted.lines[0]!].map((line) => (line ? text[line - 1] : ''))).toEqual([
      '',
      'G1 Z-1.000 F1000',
      'X10.000',
      '',
      'Y5.000',
      'G0 Z20.000',
    ]);
  });

  it('tells a feed again when it is another one', () => {
    const one = step('One', 'a', square(-1));
    one.path.feed[4] = 500;
    const lines = linesOf([one]);
    expect(lines.filter((l) => /F/.test(l) && l.startsWith('G1'))).toEqual(['G1 Z-1.000 F1000']);
    expect(lines).toContain('Y5.000 F500');
  });

  it('goes up before each change of the cutter, and changes it once for steps that follow one another with it', () => {
    const lines = linesOf([
      step('One', 'a', square(-1)),
      step('Two', 'a', square(-2)),
      step('Three', 'b', square(-1)),
      step('Four', 'a', square(-3)),
    ]);
    const at = (what: RegExp) => lines.flatMap((l, k) => (what.test(l) ? [k] : []));
    const changes = at(/M6/);
    expect(changes.map((k) => lines[k])).toEqual(['T1 M6', 'T2 M6', 'T1 M6']);
    for (const k of changes) expect(lines.slice(k - 2, k)).toContain('G53 G0 Z0');
    // coolant and spindle go on where the cutter stays
    const two = at(/Two/)[0]!;
    expect(lines.slice(at(/One/)[0]!, two).filter((l) => /^M[59]$/.test(l))).toEqual([]);
    expect(lines.slice(two, changes[1]).filter((l) => /^M[59]$/.test(l))).toEqual(['M9', 'M5']);
    // there the whole first place is said anew
    expect(lines.slice(two + 2, two + 4)).toEqual(['G0 X0.000 Y0.000 Z20.000', 'G1 Z-2.000 F1000']);
  });

  it('numbers its blocks as the definition says, comments and the signs of the tape excepted', () => {
    const lines = linesOf([step('One', 'a', square(-1))], { ...post, numberedBy: 10 });
    lines.forEach((line, k) => {
      if (/^[%(]/.test(line)) expect(line).not.toMatch(/^N/);
      else expect(line).toMatch(new RegExp(`^N${(k + 1) * 10} [A-Z]`));
    });
    expect(lines.filter((l) => l.startsWith('N')).length).toBeGreaterThan(10);
  });

  it('writes comments between the marks of the definition, of plain characters without marks of their own', () => {
    const one = step('Prüfung (grob); 50 %', 'a', square(-1));
    expect(linesOf([one]).find((l) => l.includes('Prufung'))).toMatch(/^\(Prufung +grob +50: T1 .*\)$/);
    expect(linesOf([one], { ...post, comment: ['; ', ''] }).find((l) => l.includes('Prufung'))).toMatch(
      /^; Prufung.*[^)]$/,
    );
  });

  it('refuses a step without motions, and a motion without a feed', () => {
    expect(() => linesOf([step('Empty', 'a', [[0, 0, 5, Motion.rapid]])])).toThrow(/"Empty" has no motions/);
    for (const feed of [0, NaN, -3])
      expect(() => linesOf([step('Still', 'a', square(-1), { feed })])).toThrow(/"Still", motion 1: no feed/);
    expect(linesOf([step('Two', 'a', square(-1).slice(0, 2))]).length).toBeGreaterThan(5);
  });

  it('is found by its name, or refused with those there are', () => {
    expect(postOf('word-address').id).toBe('word-address');
    expect(() => postOf('other')).toThrow(/no post definition "other"; there are word-address/);
    expect(() => parsePost({ ...post, end: ['{x} {nonsense}'] })).toThrow(/end.0: \{nonsense\} means nothing/);
    expect(parsePost(post)).toEqual(post);
  });
});

describe('words', () => {
  it('blanks, empty lines, numbers of blocks and names of programs are no words', () => {
    expect(
      readBlocks('%\nO123\n\n   \nN10 (only this)\nN20 G1 X1 ; and here (too\n%\n').map((b) => [b.line, b.words]),
    ).toEqual([
      [
        6,
        [
          { letter: 'G', value: 1 },
          { letter: 'X', value: 1 },
        ],
      ],
    ]);
    expect(readBlocks(';only this')).toEqual([]);
  });

  it('what cannot be read is shown, not all that follows it', () => {
    expect(() => readBlocks('G1 X1\n?ABCDEFGHIJKLMNOP')).toThrow(
      'Line 2: "?ABCDEFGHIJK" is not a letter with a number.',
    );
  });

  it('a program longer than any is refused before it is taken apart', () => {
    const endless = { length: LONGEST_PROGRAM + 1, split: () => [] } as unknown as string;
    expect(() => readBlocks(endless)).toThrow(/too long/);
  });
});
