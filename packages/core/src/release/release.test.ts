import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { calculated, crewHere, sessionOf, sheet, testCrib, testJob } from '../../test/shapes';
import { EsquisseError } from '../base/errors';
import type { StepResult } from '../evaluate/result';
import type { Session } from '../evaluate/session';
import type { Job } from '../job/job';
import { evenSchema } from '../load/stepCutting';
import { Motion } from '../path/toolpath';
import { postOf } from '../post/definition';
import { writeProgram } from '../post/writer';
import { asText, postedSteps, proveText, release, type Release } from './release';
import type { PostedStep, Verdict } from './verdicts';

/** A shallow basin with upright walls: what is off at a wall by less than a cell shows in the words alone. */
const basin = sheet([-20, -16, 20, 16], 2, -16, (x, y) => {
  const edge = Math.max(Math.abs(x) - 12, Math.abs(y) - 8);
  return edge > 0 ? 0 : -4 - 0.02 * x;
});
const job = (change: Partial<Job> = {}): Job =>
  testJob(
    [
      { kind: 'level-roughing', assemblyId: 't4', values: { ap: 2, smallestOpening: 6 } },
      { kind: 'parallel-passes', assemblyId: 't3', values: { scallop: 0.05, mostSteel: 3 } },
    ],
    0.5,
    { cell: 0.25, ...change },
  );

describe('release', () => {
  let session: Session;
  let steps: PostedStep[];
  let posted: Release;
  const post = postOf('word-address');
  const prove = (text: string, of = steps): Promise<Verdict[]> =>
    proveText(text, session.snapshot, of, post, crewHere());
  const noes = (verdicts: readonly Verdict[]): string[] => verdicts.filter((v) => !v.ok).map((v) => v.id);
  const noOf = async (text: string, of = steps): Promise<Verdict | undefined> =>
    (await prove(text, of)).find((v) => !v.ok);
  /** The program with one line changed. */
  const withLine = (line: number, change: (text: string) => string): string => {
    const lines = posted.text.split('\n');
    expect(change(lines[line - 1]!)).not.toBe(lines[line - 1]);
    lines[line - 1] = change(lines[line - 1]!);
    return lines.join('\n');
  };
  const without = (words: string): string => {
    expect(posted.text).toContain(words);
    return posted.text.replace(words, '');
  };
  /** Line of a cutting motion of a step that has a word, deep enough to be in the basin. */
  const lineOf = (step: number, letter: string): number => {
    const lines = posted.text.split('\n');
    const { path } = steps[step]!.result;
    const found = [...posted.lines[step]!].findIndex(
      (line, k) => line > 0 && path.kind[k] === Motion.cut && path.z[k]! < -2 && lines[line - 1]!.includes(letter),
    );
    return posted.lines[step]![found]!;
  };

  beforeAll(async () => {
    session = await calculated(job(), basin);
    steps = postedSteps(session, session.snapshot);
    posted = await release(session, crewHere());
  });

  it('says yes to a feed that follows the load, with F words of its own, and no when one of them is another', async () => {
    const own = job();
    own.steps[0]!.cutting.even = evenSchema.parse({ by: 'power', least: 0.4, fastest: 2 });
    const plain = session.results.get('s1')!.path;
    const even = await calculated(own, basin);
    const path = even.results.get('s1')!.path;
    expect(path.x).toEqual(plain.x);
    expect(new Set(path.feed).size).toBeGreaterThan(new Set(plain.feed).size + 5);
    const { ok, text } = await release(even, crewHere());
    expect(ok).toBe(true);
    const steps = postedSteps(even, even.snapshot);
    const words = [...new Set(text.match(/F\d+(\.\d+)?/g))];
    expect(words.length).toBeGreaterThan(8);
    const other = text.replace(words[4]!, `F${Number(words[4]!.slice(1)) + 60}`);
    const verdicts = await proveText(other, even.snapshot, steps, post, crewHere());
    expect(verdicts.some((v) => !v.ok)).toBe(true);
  });

  it('says yes to what was calculated; every motion was held against the plan, within the rounding of its words', () => {
    expect(noes(posted.verdicts)).toEqual([]);
    expect(posted.ok).toBe(true);
    expect(posted.fileName).toBe('program-first-side.nc');
    const moves = posted.verdicts.find((v) => v.id === 'motions')!.text;
    const [, compared, worst] = /^(\d+) motions .* deviation is ([\d.]+) mm/.exec(moves)!;
    const blocks = posted.lines.reduce((sum, l) => sum + new Set(l.filter((n) => n > 0)).size, 0);
    expect(Number(compared)).toBe(blocks);
    expect(Number(worst)).toBeGreaterThan(0);
    expect(Number(worst)).toBeLessThan(0.0005 * Math.sqrt(3) + 1e-6);
  });

  it('the first cutter is changed in at the top as well', () => {
    const lines = posted.text.split('\n');
    lines.forEach((line, k) => {
      if (line.includes('M6')) expect(lines.slice(k - 2, k).join(' ')).toContain('G53 G0 Z0');
    });
    expect(lines.filter((l) => l.includes('M6'))).toHaveLength(2);
  });

  it.each([
    [
      'Z off by 0.02',
      () => withLine(lineOf(1, 'Z'), (t) => t.replace(/Z(\S+)/, (_, z) => `Z${(Number(z) + 0.02).toFixed(3)}`)),
      'motions',
    ],
    [
      'X off by 0.1 at a wall',
      () => withLine(lineOf(0, 'X'), (t) => t.replace(/X(\S+)/, (_, x) => `X${(Number(x) + 0.1).toFixed(3)}`)),
      'motions',
    ],
    [
      'X off by 0.002',
      () => withLine(lineOf(0, 'X'), (t) => t.replace(/X(\S+)/, (_, x) => `X${(Number(x) + 0.002).toFixed(3)}`)),
      'motions',
    ],
    ['a motion is missing', () => withLine(lineOf(1, 'Z'), () => ''), 'motions'],
    ['the first F is missing', () => without(/ F\d+/.exec(posted.text)![0]), 'words'],
    [
      'a later F is missing',
      () => withLine(posted.text.split('\n').findLastIndex((l) => / F\d+/.test(l)) + 1, (t) => t.replace(/ F\d+/, '')),
      'motions',
    ],
    ['F doubled', () => posted.text.replace(/F(\d+)/g, (_, f) => `F${2 * Number(f)}`), 'motions'],
    ['another cutter', () => posted.text.replace('T3 M6', 'T1 M6'), 'modes'],
    ['a cutter that is not there', () => posted.text.replace('T3 M6', 'T33 M6'), 'modes'],
    ['another length offset', () => posted.text.replace('G43 H3', 'G43 H4'), 'modes'],
    ['no length offset', () => posted.text.replace('G43 H3 ', ''), 'modes'],
    ['a cut at rapid rate', () => withLine(lineOf(0, 'X'), (t) => `G0 ${t}`), 'motions'],
    ['a speed that the machine has not', () => posted.text.replace(/S\d+ M3/, 'S40000 M3'), 'modes'],
    ['inch for mm', () => posted.text.replace('G21', 'G20'), 'motions'],
    ['no unit at all', () => without('G21 '), 'words'],
    ['another work offset', () => posted.text.replace('G54', 'G55'), 'modes'],
    ['no work offset', () => posted.text.replaceAll('G54\n', ''), 'modes'],
    ['another plane', () => posted.text.replace('G17', 'G18'), 'modes'],
    ['the spindle backward', () => posted.text.replace('M3', 'M4'), 'modes'],
    ['the spindle not started', () => posted.text.replace(/ M3/, ''), 'words'],
    ['a spindle that turns at the change', () => posted.text.replace('M5\n', ''), 'modes'],
    ['coolant off', () => posted.text.replace('M8\n', ''), 'modes'],
    ['coolant on at the change', () => posted.text.replace('M9\n', ''), 'modes'],
    ['spindle on at the end', () => posted.text.replace(/M5\n(?![\s\S]*M5)/, ''), 'modes'],
    ['no way up before the first cutter', () => posted.text.replace('G53 G0 Z0\n', ''), 'modes'],
    ['no end', () => posted.text.replace('M30', ''), 'words'],
    ['a way through the work between two steps', () => posted.text.replace('M9\nM5', 'G0 X0 Z-3\nM9\nM5'), 'motions'],
    ['a motion more at the end', () => posted.text.replace(/M9(?![\s\S]*M9)/, 'G1 Z-5 F100\nM9'), 'motions'],
  ] as [string, () => string, Verdict['id']][])('says no to %s', async (_, change, id) => {
    const verdicts = await prove(change());
    expect(noes(verdicts)).toContain(id);
    expect(verdicts.find((v) => v.id === id)!.text).not.toBe('');
  });

  it('says at which line, and of which step', async () => {
    const line = lineOf(1, 'Z');
    const found = await noOf(withLine(line, (t) => t.replace(/Z(\S+)/, 'Z-3.5')));
    expect(found!.at).toMatchObject({ line, stepId: 's2' });
    expect(found!.text).toMatch(new RegExp(`^Step 2, line ${line}: It goes to X.* Z-3.500, the plan to X`));
  });

  it('whatever number of the program is another one, it says no', async () => {
    const words = [...posted.text.matchAll(/([A-Z])(-?[\d.]+)/g)].filter((m) => {
      const line = posted.text.slice(posted.text.lastIndexOf('\n', m.index) + 1);
      return !line.startsWith('(') && !line.startsWith('%') && m[0] !== 'M30';
    });
    await fc.assert(
      fc.asyncProperty(
        fc.nat({ max: words.length - 1 }),
        fc.integer({ min: 2, max: 400 }),
        fc.boolean(),
        async (k, by, up) => {
          const { 0: word, 1: letter, 2: number, index } = words[k]! as RegExpMatchArray & { index: number };
          const step = /[XYZ]/.test(letter!) ? by / 1000 : by;
          const other = Number(number) + (up ? step : -step);
          const text =
            posted.text.slice(0, index) + letter! + other.toFixed(3) + posted.text.slice(index + word!.length);
          expect(noes(await prove(text)), `${word} -> ${other}`).not.toEqual([]);
        },
      ),
      { numRuns: 60 },
    );
  });

  /** The program of steps whose paths were bent after they were planned. */
  const bent = (
    step: number,
    bend: (path: StepResult['path'], k: number) => void,
  ): { text: string; of: PostedStep[] } => {
    const of = steps.map(({ at, result }, s): PostedStep => {
      if (s !== step) return { at, result };
      const path = { ...result.path, x: result.path.x.slice(), y: result.path.y.slice(), z: result.path.z.slice() };
      for (let k = 0; k < path.x.length; k++) if (path.kind[k] === Motion.cut) bend(path, k);
      return { at, result: { ...result, path } };
    });
    const { text } = writeProgram({ name: 'bent', number: null, workOffset: 'G54' }, of.map(asText), post);
    return { text, of };
  };

  it('a plan that goes into the part is found from its text alone, also where the steel’s cells do not show it', async () => {
    const deep = bent(1, (path, k) => (path.z[k]! -= 0.03));
    const verdicts = await prove(deep.text, deep.of);
    expect(noes(verdicts)).toContain('part');
    expect(noes(verdicts)).not.toContain('motions');
    expect(verdicts.find((v) => v.id === 'part')!.text).toMatch(/goes 0\.0\d+ mm too deep into the part/);
    // the wall on one side, by a third of a cell
    const aside = bent(1, (path, k) => {
      if (path.x[k]! > 0) path.x[k]! += 0.08;
    });
    expect(noes(await prove(aside.text, aside.of))).toContain('part');
  });

  it('a plan that takes of a step’s own allowance is found, though it does not reach the part', async () => {
    const deep = bent(0, (path, k) => {
      if (path.z[k]! < -1) path.z[k]! -= 0.15;
    });
    const verdicts = await prove(deep.text, deep.of);
    expect(verdicts.find((v) => v.id === 'part')!.text).toMatch(/too deep into the allowance of 0.3 mm/);
  });

  it('a shank that would go into the part is found', async () => {
    const wide = job({
      crib: {
        ...testCrib(),
        cutters: testCrib().cutters.map((c) => (c.id === 'ball8' ? { ...c, APMX: 2, DMM: 9 } : c)),
      },
    });
    // the same path with a cutter whose shank begins 2 mm above the tip
    const { snapshot } = sessionOf(wide, basin);
    const verdicts = await proveText(posted.text, snapshot, steps, post, crewHere());
    expect(verdicts.find((v) => v.id === 'part')!.text).toMatch(/Shank or holder of T3 would go into the part/);
  });

  it('a rapid through steel, a fixture in the way and a machine that is too slow are found from the text', async () => {
    const through = bent(0, () => undefined);
    const rapid = through.of.map(({ at, result }, s) => {
      if (s > 0) return { at, result };
      const kind = result.path.kind.slice();
      const first = kind.indexOf(Motion.cut);
      kind[first] = Motion.rapid;
      return { at, result: { ...result, path: { ...result.path, kind } } };
    });
    const { text } = writeProgram({ name: 'through', number: null, workOffset: 'G54' }, rapid.map(asText), post);
    const verdicts = await prove(text, rapid);
    expect(verdicts.find((v) => v.id === 'motions')!.text).toMatch(/a rapid runs through it/);
    const clamped = job();
    clamped.setup.fixtures = [{ kind: 'clamps', axis: 'X', width: 10, height: 12, over: 12 }];
    const held = await proveText(posted.text, sessionOf(clamped, basin).snapshot, steps, post, crewHere());
    expect(held.find((v) => v.id === 'part')!.text).toMatch(/comes too near a fixture/);
    for (const [change, said] of [
      [{ maxFeed: 900 }, /feeds \d+ mm\/min, Made up at most 900/],
      [{ maxSpindle: 3000 }, /turns 4000 1\/min, Made up from 50 to 3000/],
      [{ travelX: 45 }, /reaches over [\d.]+ mm in X, Made up travels 45 mm/],
    ] as const) {
      const weak = job();
      weak.setup.machine = { ...weak.setup.machine, ...change };
      const found = await proveText(posted.text, sessionOf(weak, basin).snapshot, steps, post, crewHere());
      expect(found.find((v) => v.id === 'machine')!.text).toMatch(said);
    }
  });

  it('says no, and where, when a step has a finding', async () => {
    const crib = testCrib();
    const stubby = { ...crib, cutters: crib.cutters.map((c) => (c.id === 'flat5' ? { ...c, APMX: 1, DMM: 6 } : c)) };
    const released = await release(await calculated(job({ crib: stubby }), basin), crewHere());
    expect(released.ok).toBe(false);
    expect(released.verdicts[0]).toMatchObject({ id: 'findings', ok: false, at: { stepId: 's1' } });
  });

  it('refuses a workplan with a step that is out of date', async () => {
    const changed = job();
    changed.steps[1]!.values = { ...changed.steps[1]!.values, scallop: 0.3 };
    const other = await calculated(job(), basin);
    sessionOf(changed, basin, other);
    await expect(release(other, crewHere())).rejects.toBeInstanceOf(EsquisseError);
  });
});
