import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { CancelFlag, callHere, type Caller, type Crew, crewOf } from '@esquisse/core';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { WorkerApi } from './worker';

/** A crew of threads, one a core (or as many as asked for); one alone works in this thread. */
export function startCrew(workers = availableParallelism()): Crew & { stop: () => Promise<void> } {
  if (workers <= 1) return { ...crewOf([callHere], new CancelFlag()), stop: () => Promise.resolve() };
  return startThreads(workers);
}

/** A crew of threads beside this one. */
export function startThreads(workers: number): Crew & { stop: () => Promise<void> } {
  const cancel = new CancelFlag();
  const threads = Array.from({ length: workers }, () => new Worker(new URL('../bin/worker.mjs', import.meta.url)));
  const callers = threads.map((thread): Caller => {
    const api = wrap<WorkerApi>(nodeEndpoint(thread));
    return (name, input, flag) => api.run(name, input as never, flag) as never;
  });
  return {
    ...crewOf(callers, cancel),
    stop: async () => {
      await Promise.all(threads.map((t) => t.terminate()));
    },
  };
}
