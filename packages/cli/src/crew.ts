import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { callHere, type Caller, remoteCaller } from '@esquisse/core';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';
import type { WorkerApi } from './worker';

/** Those who do the heavy work, and how they are sent home. */
export interface Workers {
  readonly callers: readonly Caller[];
  readonly stop: () => Promise<void>;
}

/** Threads, one a core (or as many as asked for); one alone is this thread. */
export function startWorkers(count = availableParallelism()): Workers {
  if (count <= 1) return { callers: [callHere], stop: () => Promise.resolve() };
  return startThreads(count);
}

/** Threads beside this one. */
export function startThreads(count: number): Workers {
  const threads = Array.from({ length: count }, () => new Worker(new URL('../bin/worker.mjs', import.meta.url)));
  return {
    callers: threads.map((thread) => {
      const api = wrap<WorkerApi>(nodeEndpoint(thread));
      return remoteCaller((name, input, cancel) => api.run(name, input, cancel));
    }),
    stop: async () => {
      await Promise.all(threads.map((t) => t.terminate()));
    },
  };
}
