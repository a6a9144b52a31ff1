import { describe, expect, it } from 'vitest';
import { CancelFlag } from '../base/cancel';
import { type Caller, callHere, crewOf, remoteCaller, spansOf, together } from './crew';
import { defineTask, taskNamed, taskTable } from './task';

const double = defineTask('double', (n: number, cancel) => {
  cancel.check();
  return 2 * n;
});

describe('works at the same time', () => {
  it('give their results in their order; when one fails, it is told once the others have ended', async () => {
    expect(await together(Promise.resolve('a'), Promise.resolve(2))).toEqual(['a', 2]);
    let end = (): void => undefined;
    let isRunning = true;
    const long = new Promise<void>((resolve) => (end = resolve)).then(() => void (isRunning = false));
    const failing = together(Promise.reject(new Error('worn out')), long).catch((error: Error) => {
      expect(isRunning).toBe(false);
      return error.message;
    });
    end();
    expect(await failing).toBe('worn out');
  });
});

describe('a crew', () => {
  const inputs = Array.from({ length: 20 }, (_, n) => n);

  it('gives the results in the order of the work, whoever was faster', async () => {
    const late =
      (turns: number): Caller =>
      async (task, input, cancel) => {
        for (let k = 0; k < turns; k++) await Promise.resolve();
        return callHere(task, input, cancel);
      };
    const crew = crewOf([late(9), late(1), late(4)], new CancelFlag());
    expect(await crew.all(double, inputs)).toEqual(inputs.map((n) => 2 * n));
  });

  it('once one has failed, no progress is told any more and nothing still runs when the failure is told', async () => {
    let release = (): void => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    let running = 0;
    const slow: Caller = async (task, input, cancel) => {
      running++;
      await held;
      running--;
      return callHere(task, input, cancel);
    };
    const broken: Caller = () => Promise.reject(new Error('worn out'));
    const told: number[] = [];
    const work = crewOf([slow, broken], new CancelFlag()).all(double, [1, 2, 3], (n) => told.push(n));
    release();
    await expect(work).rejects.toThrow('worn out');
    expect(running).toBe(0);
    expect(told).toEqual([]);
  });

  it('first results are taken while the last work goes on, in their order; a taker that fails ends the work', async () => {
    const waits: (() => void)[] = [];
    const held: Caller = async (task, input, cancel) => {
      await new Promise<void>((resolve) => waits.push(resolve));
      return callHere(task, input, cancel);
    };
    const crew = crewOf([held, held], new CancelFlag());
    const taken: number[] = [];
    const work = crew.inTurn(double, inputs.slice(0, 6), async (result) => {
      for (let k = 0; k < 6; k++) taken.push(await result(k));
    });
    waits[1]!();
    waits[0]!();
    while (taken.length < 2) await Promise.resolve();
    expect(taken).toEqual([0, 2]);
    for (let k = 2; k < 6; k++) {
      while (!waits[k]) await Promise.resolve();
      waits[k]!();
    }
    await work;
    expect(taken).toEqual([0, 2, 4, 6, 8, 10]);
    let begun = 0;
    const counting: Caller = (task, input, cancel) => {
      begun++;
      return callHere(task, input, cancel);
    };
    const many = Array.from({ length: 500 }, (_, n) => n);
    const failing = crewOf([counting], new CancelFlag()).inTurn(double, many, async (result) => {
      await result(0);
      throw new Error('no use');
    });
    await expect(failing).rejects.toThrow('no use');
    expect(begun).toBeLessThan(500);
  });

  it('does nothing once it was called off', async () => {
    const cancel = new CancelFlag();
    cancel.cancel();
    await expect(crewOf([callHere, callHere], cancel).all(double, inputs)).rejects.toMatchObject({ code: 'cancelled' });
  });

  it('work in another thread is found there by its name; two works of one name, or an unknown one, are refused', async () => {
    const table = taskTable([double]);
    const there = remoteCaller((name, input, cancel) =>
      Promise.resolve(taskNamed(table, name).run(input, new CancelFlag(cancel))),
    );
    expect(await crewOf([there], new CancelFlag()).all(double, inputs)).toEqual(inputs.map((n) => 2 * n));
    expect(() => taskTable([double, defineTask('double', (n: number) => n + n)])).toThrow(/called "double"/);
    expect(() => taskNamed(table, 'treble')).toThrow(/"treble"/);
  });

  it('spans cover every row once, their borders on the grain', () => {
    for (const [count, pieces, grain] of [
      [567, 12, 8],
      [5, 12, 1],
      [1, 1, 8],
      [4096, 7, 64],
    ] as const) {
      const spans = spansOf(count, pieces, grain);
      expect(spans[0]![0]).toBe(0);
      expect(spans[spans.length - 1]![1]).toBe(count);
      spans.forEach(([from, to], k) => {
        expect(to).toBeGreaterThan(from);
        expect(from % grain).toBe(0);
        if (k > 0) expect(from).toBe(spans[k - 1]![1]);
      });
      expect(spans.length).toBeLessThanOrEqual(pieces);
    }
  });
});
