import { describe, expect, it } from 'vitest';
import { type Caller, CancelFlag, callHere, crewOf, spansOf, together } from './crew';

const task = { part: {}, piece: {}, path: { x: [], y: [], z: [] }, span: [1, 1], tolerance: 0 } as never;

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
  it('gives the results in the order of the work, whoever was faster', async () => {
    const numbered = (turns: number): Caller =>
      (async (_: string, input: { n: number }) => {
        for (let k = 0; k < turns; k++) await Promise.resolve();
        return input.n;
      }) as never;
    const crew = crewOf([numbered(9), numbered(1), numbered(4)], new CancelFlag());
    const inputs = Array.from({ length: 20 }, (_, n) => ({ n }));
    expect(await crew.all('gouges', inputs as never)).toEqual(inputs.map((i) => i.n));
  });

  it('once one has failed, no progress is told any more and nothing still runs when the failure is told', async () => {
    let release = (): void => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    let running = 0;
    const slow: Caller = (async () => {
      running++;
      await held;
      running--;
      return [];
    }) as never;
    const broken: Caller = (() => Promise.reject(new Error('worn out'))) as never;
    const told: number[] = [];
    const work = crewOf([slow, broken], new CancelFlag()).all('gouges', [task, task, task], (n) => told.push(n));
    release();
    await expect(work).rejects.toThrow('worn out');
    expect(running).toBe(0);
    expect(told).toEqual([]);
  });

  it('first results are taken while the last work goes on, in their order; a taker that fails ends the work', async () => {
    const waits: (() => void)[] = [];
    const held: Caller = ((_: string, input: { n: number }) =>
      new Promise((resolve) => waits.push(() => resolve(input.n)))) as never;
    const crew = crewOf([held, held], new CancelFlag());
    const inputs = Array.from({ length: 6 }, (_, n) => ({ n })) as never;
    const taken: number[] = [];
    const work = crew.inTurn('gouges', inputs, async (result) => {
      for (let k = 0; k < 6; k++) taken.push((await result(k)) as never);
    });
    waits[1]!();
    waits[0]!();
    while (taken.length < 2) await Promise.resolve();
    expect(taken).toEqual([0, 1]);
    for (let k = 2; k < 6; k++) {
      while (!waits[k]) await Promise.resolve();
      waits[k]!();
    }
    await work;
    expect(taken).toEqual([0, 1, 2, 3, 4, 5]);
    let begun = 0;
    const counting: Caller = (() => Promise.resolve(++begun)) as never;
    const many = Array.from({ length: 500 }, (_, n) => ({ n })) as never;
    const failing = crewOf([counting], new CancelFlag()).inTurn('gouges', many, async (result) => {
      await result(0);
      throw new Error('no use');
    });
    await expect(failing).rejects.toThrow('no use');
    expect(begun).toBeLessThan(500);
  });

  it('does nothing once it was called off', async () => {
    const cancel = new CancelFlag();
    cancel.cancel();
    await expect(crewOf([callHere, callHere], cancel).all('gouges', [task])).rejects.toMatchObject({
      code: 'cancelled',
    });
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
