import { parentPort } from 'node:worker_threads';
import { CancelFlag, taskNamed, TASKS } from '@esquisse/core';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';

const api = {
  run(name: string, input: unknown, cancel: Int32Array): unknown {
    return taskNamed(TASKS, name).run(input, new CancelFlag(cancel));
  },
};
export type WorkerApi = typeof api;

if (parentPort) expose(api, nodeEndpoint(parentPort));
