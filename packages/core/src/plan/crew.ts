import { EsquisseError } from '../errors';
import { TASKS, type TaskInput, type TaskName, type TaskOutput } from './tasks';

/** A flag in shared memory by which work that has begun is called off. */
export class CancelFlag {
  readonly cell: Int32Array;

  constructor(cell?: Int32Array) {
    this.cell = cell ?? new Int32Array(new SharedArrayBuffer(4));
  }

  cancel(): void {
    Atomics.store(this.cell, 0, 1);
  }

  get cancelled(): boolean {
    return Atomics.load(this.cell, 0) !== 0;
  }

  /** @throws EsquisseError `cancelled` once {@link cancel} was called */
  check(): void {
    if (this.cancelled) throw new EsquisseError('cancelled', 'Called off.');
  }
}

/** Runs one task somewhere: in this thread or in a worker. */
export type Caller = <K extends TaskName>(name: K, input: TaskInput<K>, cancel: Int32Array) => Promise<TaskOutput<K>>;

/** Those who do the heavy work. Results come in the order of the inputs, whoever did them. */
export interface Crew {
  readonly size: number;
  readonly cancel: CancelFlag;
  all<K extends TaskName>(
    name: K,
    inputs: readonly TaskInput<K>[],
    onDone?: (done: number) => void,
  ): Promise<TaskOutput<K>[]>;
  /**
   * The same, its results taken in their order while the work goes on: `take` may work on the first ones meanwhile. When either
   * fails, the other is waited for.
   */
  inTurn<K extends TaskName>(
    name: K,
    inputs: readonly TaskInput<K>[],
    take: (result: (k: number) => Promise<TaskOutput<K>>) => Promise<void>,
    onDone?: (done: number) => void,
  ): Promise<void>;
}

/** Does a task in this thread. */
export const callHere: Caller = (name, input, cancel) => {
  const flag = new CancelFlag(cancel);
  flag.check();
  return Promise.resolve(TASKS[name](input as never, flag) as never);
};

/** Inputs that lie ready at each caller beside the one it works on, so that it need not wait for the next. */
const AHEAD = 1;

/** A crew out of callers; each takes the next input as soon as it is free. */
export function crewOf(callers: readonly Caller[], cancel: CancelFlag): Crew {
  const crew: Crew = {
    size: callers.length,
    cancel,
    async all(name, inputs, onDone) {
      const outputs: TaskOutput<typeof name>[] = [];
      const take = async (result: (k: number) => Promise<TaskOutput<typeof name>>): Promise<void> => {
        for (let k = 0; k < inputs.length; k++) outputs.push(await result(k));
      };
      await crew.inTurn(name, inputs, take, onDone);
      return outputs;
    },
    async inTurn(name, inputs, take, onDone) {
      const results = inputs.map(() => settleable<TaskOutput<typeof name>>());
      let next = 0;
      let done = 0;
      let failed = false;
      const work = async (call: Caller): Promise<void> => {
        while (next < inputs.length && !failed) {
          const i = next++;
          try {
            cancel.check();
            results[i]!.resolve(await call(name, inputs[i]!, cancel.cell));
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
