/// <reference lib="webworker" />
import { CancelFlag, taskNamed, TASKS } from '@esquisse/core';
import { expose } from 'comlink';
import { holdLife } from './alive';
import { keepErrorsWhole } from './wire';

declare const self: DedicatedWorkerGlobalScope;

const api = {
  run(name: string, input: unknown, cancel: Int32Array): unknown {
    return taskNamed(TASKS, name).run(input, new CancelFlag(cancel));
  },
};
export type HelperApi = typeof api;

keepErrorsWhole();
// the page hands over one end of a channel to the planner
self.onmessage = (event: MessageEvent<{ port: MessagePort }>) => expose(api, event.data.port);
holdLife(self);
