/// <reference lib="webworker" />
import { CancelFlag, type TaskInput, type TaskName, type TaskOutput, TASKS } from '@esquisse/core';
import { expose } from 'comlink';

const api = {
  run<K extends TaskName>(name: K, input: TaskInput<K>, cancel: Int32Array): TaskOutput<K> {
    return TASKS[name](input as never, new CancelFlag(cancel)) as TaskOutput<K>;
  },
};
export type HelperApi = typeof api;

// the page hands over one end of a channel to the planner
self.onmessage = (event: MessageEvent<{ port: MessagePort }>) => expose(api, event.data.port);
