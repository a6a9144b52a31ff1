import { CancelFlag } from '../base/cancel';
import type { Task } from './task';

/** Runs one task somewhere: in this thread or in a worker. */
export type Caller = <I, O>(task: Task<I, O>, input: I, cancel: Int32Array) => Promise<O>;

/** Those who do the heavy work. Results come in the order of the inputs, whoever did them. */
export interface Crew {
  readonly size: number;
  readonly cancel: CancelFlag;
  all<I, O>(task: Task<I, O>, inputs: readonly I[], onDone?: (done: number) => void): Promise<O[]>;
  /**
   * The same, its results taken in their order while the work goes on: `take` may work on the first ones meanwhile. When either
   * fails, the other is waited for.
   */
  inTurn<I, O>(
    task: Task<I, O>,
    inputs: readonly I[],
    take: (result: (k: number) => Promise<O>) => Promise<void>,
    onDone?: (done: number) => void,
  ): Promise<void>;
}

/** Does a task in this thread. */
export const callHere: Caller = (task, input, cancel) => {
  const flag = new CancelFlag(cancel);
  flag.check();
  return Promise.resolve(task.run(input, flag));
};

/** Sends a task's name and input to a worker and brings back what it answers. */
export type Sender = (name: string, input: unknown, cancel: Int32Array) => Promise<unknown>;

/** A caller whose tasks run in another thread, which knows them by their names. */
export function remoteCaller(send: Sender): Caller {
  return async <I, O>(task: Task<I, O>, input: I, cancel: Int32Array): Promise<O> =>
    // both threads run the same build: the answer is what the task of that name gives
    (await send(task.name, input, cancel)) as O;
}

/** Inputs that lie ready at each caller beside the one it works on, so that it need not wait for the next. */
const AHEAD = 1;

/** A crew out of callers; each takes the next input as soon as it is free. */
export function crewOf(callers: readonly Caller[], cancel: CancelFlag): Crew {
  const crew: Crew = {
    size: callers.length,
    cancel,
    async all<I, O>(task: Task<I, O>, inputs: readonly I[], onDone?: (done: number) => void) {
      const outputs: O[] = [];
      const take = async (result: (k: number) => Promise<O>): Promise<void> => {
        for (let k = 0; k < inputs.length; k++) outputs.push(await result(k));
      };
      await crew.inTurn(task, inputs, take, onDone);
      return outputs;
    },
    async inTurn<I, O>(
      task: Task<I, O>,
      inputs: readonly I[],
      take: (result: (k: number) => Promise<O>) => Promise<void>,
      onDone?: (done: number) => void,
    ) {
      const results = inputs.map(() => settleable<O>());
      let next = 0;
      let done = 0;
      let failed = false;
      const work = async (call: Caller): Promise<void> => {
        while (next < inputs.length && !failed) {
          const i = next++;
          try {
            cancel.check();
            results[i]!.resolve(await call(task, inputs[i]!, cancel.cell));
          } catch (error) {
            failed = true;
            // whoever waits for any result learns that there will be none
            for (const r of results) r.reject(error);
            throw error;
          }
          if (!failed) onDone?.(++done);
        }
      };
      const taken = take((k) => results[k]!.promise).catch((error: unknown) => {
        failed = true;
        throw error;
      });
      // nothing goes on in the background once this has failed or was called off
      const workers = callers.flatMap((call) => Array.from({ length: 1 + AHEAD }, () => work(call)));
      for (const end of await Promise.allSettled([...workers, taken])) if (end.status === 'rejected') throw end.reason;
      cancel.check();
    },
  };
  return crew;
}

/** Works that go on at the same time; when one fails the others are waited for, so that nothing goes on in the background. */
export async function together<T extends readonly unknown[]>(
  ...works: { readonly [K in keyof T]: Promise<T[K]> }
): Promise<T> {
  for (const end of await Promise.allSettled(works)) if (end.status === 'rejected') throw end.reason;
  return Promise.all(works) as unknown as Promise<T>;
}

/** A promise to be settled from outside; that nobody waits for it is no error. */
function settleable<T>() {
  let resolve!: (value: T) => void;
  let reject!: (error: unknown) => void;
  const promise = new Promise<T>((yes, no) => {
    resolve = yes;
    reject = no;
  });
  promise.catch(() => undefined);
  return { promise, resolve, reject };
}

/** Spans of about equal size that cover 0 to `count`, their borders multiples of `grain`. */
export function spansOf(count: number, pieces: number, grain = 1): [number, number][] {
  const size = Math.max(grain, Math.ceil(count / pieces / grain) * grain);
  const spans: [number, number][] = [];
  for (let from = 0; from < count; from += size) spans.push([from, Math.min(count, from + size)]);
  return spans;
}
