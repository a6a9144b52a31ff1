/// <reference lib="webworker" />
import { expose } from 'comlink';
import { holdLife } from '../engine/alive';
import { keepErrorsWhole } from '../engine/wire';
import { JobKeeping } from './jobKeeping';

declare const self: DedicatedWorkerGlobalScope;

keepErrorsWhole();
expose(new JobKeeping());
holdLife(self);
