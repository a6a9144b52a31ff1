import { parentPort } from 'node:worker_threads';
import { CancelFlag, type TaskInput, type TaskName, type TaskOutput, TASKS } from '@esquisse/core';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs';

const api = {
  run<K extends TaskName>(name: K, input: TaskInput<K>, cancel: Int32Array): TaskOutput<K> {
    return TASKS[name](input as never, new CancelFlag(cancel)) as TaskOutput<K>;
  },
};
export type WorkerApi = typeof api;

if (parentPort) expose(api, nodeEndpoint(parentPort));
